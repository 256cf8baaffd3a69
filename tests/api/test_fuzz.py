"""Mutated files of every kind: each gets an answer below 500, and the server goes on."""

import io
from collections.abc import Callable

import httpx
import numpy as np
import pikepdf
import pytest
from PIL import Image

from tests.core import pictures
from tests.core.test_artwork import saved
from tests.core.test_vector import CIRCLE

EACH = 25
SMALL = Image.fromarray(pictures.photo(np.random.default_rng(1), 48))


def a_pdf() -> bytes:
    pdf = pikepdf.new()
    pdf.add_blank_page(page_size=(90, 90))
    pdf.pages[0].Contents = pdf.make_stream(b"0 0.4 0.4 rg 9 9 60 60 re f")
    file = io.BytesIO()
    pdf.save(file)
    return file.getvalue()


def whole(kind: str) -> bytes:
    if kind == "SVG":
        return CIRCLE.format("").encode()
    if kind == "PDF":
        return a_pdf()
    file = io.BytesIO()
    SMALL.save(file, kind)
    return file.getvalue()


def mutated(data: bytes, rng: np.random.Generator) -> bytes:
    """A few bytes changed, a stretch doubled or lost, or the end cut off."""
    raw = bytearray(data)
    for _ in range(rng.integers(1, 8)):
        at = int(rng.integers(0, len(raw)))
        match rng.integers(0, 4):
            case 0:
                raw[at] = int(rng.integers(0, 256))
            case 1:
                del raw[at : at + int(rng.integers(1, 40))]
            case 2:
                raw[at:at] = raw[at : at + int(rng.integers(1, 40))]
            case _:
                raw = raw[: max(1, at)] if rng.random() < 0.2 else raw
        if not raw:
            return b""
    return bytes(raw)


@pytest.mark.long
@pytest.mark.parametrize("kind", ["PNG", "JPEG", "WEBP", "TIFF", "SVG", "PDF"])
def test_no_mutated_file_troubles_the_server(
    kind: str, api: httpx.Client, drop: Callable[[bytes], httpx.Response]
) -> None:
    rng = np.random.default_rng([11, len(kind), ord(kind[0])])
    data = whole(kind)
    assert drop(data).status_code == 200
    for _ in range(EACH):
        answer = drop(mutated(data, rng))
        assert answer.status_code in (200, 422), answer.text
        if answer.status_code == 422:
            assert answer.json()["detail"].endswith(".")
    assert drop(saved(SMALL.convert("RGBA"))).status_code == 200
    assert api.get("/api/health").json()["status"] == "up"
