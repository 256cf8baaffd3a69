"""What strangers drop: a clear answer each, and the server goes on."""

import io
import zlib
from collections.abc import Callable

import httpx
import numpy as np
import pytest
from PIL import Image

from tests.api.conftest import DISC
from tests.core import drawings
from tests.core.test_artwork import header_only, saved


def bomb() -> bytes:
    """30 000 × 30 000 px that pack to under a megabyte."""
    packer = zlib.compressobj(9)
    rows = b"".join(packer.compress(bytes(3_751 * 100)) for _ in range(300)) + packer.flush()
    picture = bytearray(header_only(30_000, 30_000))
    for name, body in ((b"IDAT", rows), (b"IEND", b"")):
        picture += len(body).to_bytes(4, "big") + name + body + zlib.crc32(name + body).to_bytes(4, "big")
    return bytes(picture)


HOSTILE = {
    "0 bytes": (b"", "empty"),
    "a text file": (b"milk, bread, stickers\n", "not a picture"),
    "truncated": (DISC[:3000], "cut off"),
    "a bomb": (bomb(), "30000 × 30000"),
    "all clear": (saved(Image.new("RGBA", (60, 60))), "clear"),
    "dust only": (
        saved(Image.fromarray(np.pad(np.full((2, 2, 4), 255, np.uint8), ((9, 9), (9, 9), (0, 0))))),
        "dust",
    ),
}


@pytest.mark.parametrize("kind", HOSTILE)
def test_each_gets_a_problem_that_says_what_to_do(kind: str, drop: Callable[[bytes], httpx.Response]) -> None:
    data, says = HOSTILE[kind]
    answer = drop(data)
    assert answer.status_code == 422
    assert answer.headers["content-type"] == "application/problem+json"
    assert says in answer.json()["title"]
    assert len(answer.json()["detail"]) > 10
    assert drop(DISC).status_code == 200


def test_no_file_at_all_is_a_problem_too(api: httpx.Client) -> None:
    assert api.post("/api/artwork").status_code == 422


def test_a_picture_without_a_clear_pixel_comes_in_and_is_said(
    api: httpx.Client, drop: Callable[[bytes], httpx.Response]
) -> None:
    answer = drop(saved(Image.new("RGB", (300, 200), "teal")))
    assert answer.json()["background"] == "opaque"
    made = api.post("/api/jobs", json={"title": "Opaque"}).json()
    design = {"id": "d1", "name": "Poster", "artwork": answer.json()["sha256"], "longest_mm": 25}
    body = {"revision": 1, "recipe": {"designs": [design]}}
    changed = api.put(f"/api/jobs/{made['id']}/recipe", json=body).json()
    assert "no clear background" in next(f["text"] for f in changed["findings"] if f["severity"] == "look")


def test_the_same_bytes_are_one_artwork(drop: Callable[[bytes], httpx.Response]) -> None:
    assert drop(DISC).json() == drop(DISC).json()


def test_a_preview_is_the_picture(api: httpx.Client, drop: Callable[[bytes], httpx.Response]) -> None:
    sha256 = drop(DISC).json()["sha256"]
    preview = Image.open(io.BytesIO(api.get(f"/api/artwork/{sha256}/preview.png").content))
    assert preview.size == Image.open(io.BytesIO(DISC)).size
    assert api.get(f"/api/artwork/{'0' * 64}/preview.png").status_code == 404


def test_lines_follow_the_question(api: httpx.Client, drop: Callable[[bytes], httpx.Response]) -> None:
    sha256 = drop(drawings.png(drawings.coverage(drawings.ring(300, 100))[0])).json()["sha256"]
    question = {"artwork": sha256, "longest_mm": 40, "border_mm": 2, "peel_mm": 3}
    lines = api.post("/api/lines", json=question).json()
    assert (lines["pieces"], lines["holes"]) == (1, 1)
    assert lines["outer_box_mm"] == pytest.approx([-5, -5, 45, 45], abs=0.1)
    assert lines["paths"]["kiss"].startswith("M")
    assert lines["paths"]["through"].endswith("Z")
    for wrong in ({"border_mm": -21}, {"longest_mm": 1e9}, {"artwork": "x"}, {"peel_mm": "wide"}):
        assert api.post("/api/lines", json=question | wrong).status_code == 422
    assert api.post("/api/lines", json=question | {"artwork": "0" * 64}).status_code == 404
