"""Strangers' bytes are opened in readers: none of what parses them is called in the API's own process with them."""

import csv
import hashlib
import io
import threading
import zipfile
from collections.abc import Callable
from typing import Any

import ezdxf.recover
import httpx
import pikepdf
import pypdfium2
import pytest
import resvg_py
from fontTools.ttLib import TTFont
from PIL import Image, ImageCms

from perisect.core.fonts import FOLDER
from perisect.core.job.recipe import MAX_DESIGNS
from perisect.store import blobs
from tests.api.conftest import DISC
from tests.core import drawings, icc
from tests.core.test_refused_by_count import LINE, dxf

PARSERS: list[tuple[Any, str]] = [
    (Image, "open"),
    (ImageCms, "ImageCmsProfile"),
    (pikepdf, "open"),
    (pypdfium2, "PdfDocument"),
    (resvg_py, "svg_to_bytes"),
    (ezdxf.recover, "read"),
    (TTFont, "__init__"),
    (csv, "reader"),
    (zipfile, "ZipFile"),
]
"""All that reads a stranger's format; lists and backups are plain to Python's own readers, which count too."""


@pytest.fixture
def opened(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """What was opened in this process by whom; readers are others."""
    calls: list[str] = []

    def watch(holder: Any, name: str) -> None:
        real = getattr(holder, name)

        def counted(*given: Any, **more: Any) -> Any:
            calls.append(f"{getattr(holder, '__name__', holder)}.{name} in {threading.current_thread().name}")
            return real(*given, **more)

        monkeypatch.setattr(holder, name, counted)

    for holder, name in PARSERS:
        watch(holder, name)
    return calls


def strangers() -> dict[str, tuple[str, str, bytes]]:
    """Method, path and file of every kind of thing that is taken in."""
    pixels = drawings.coverage(drawings.disc(150))[0]
    svg = b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><circle cx="4" cy="4" r="3"/></svg>'
    pdf = io.BytesIO()
    with pikepdf.new() as made:
        made.add_blank_page(page_size=(100, 100))
        made.save(pdf)
    empty = io.BytesIO()
    with zipfile.ZipFile(empty, "w") as archive:
        archive.writestr("manifest.json", "{}")
    scan = drawings.png(pixels)
    return {
        "png": ("POST", "/api/artwork", drawings.png(pixels)),
        "svg": ("POST", "/api/artwork", svg),
        "pdf": ("POST", "/api/artwork", pdf.getvalue()),
        "dxf": ("POST", "/api/artwork", dxf(LINE)),
        "picture of a job": ("POST", "/api/jobs/{job}/pictures?batch=b", drawings.png(pixels)),
        "font": ("POST", "/api/fonts", (FOLDER / "text.ttf").read_bytes()),
        "list": ("POST", "/api/labels/tables", b"name,page\nheron,7\nlantern,8\n"),
        "profile": ("PUT", "/api/tones/desk/a4/standard/profile", icc.press()),
        "scan for the scale": ("POST", "/api/jobs/{job}/scale/scan?ppi=300", scan),
        "head pattern": ("POST", "/api/jobs/{job}/head/picture", scan),
        "backup": ("POST", "/api/shop/restore", empty.getvalue()),
    }


@pytest.mark.parametrize("kind", strangers())
def test_nothing_of_a_stranger_is_parsed_in_the_api(
    kind: str, api: httpx.Client, job: dict, request: pytest.FixtureRequest
) -> None:
    method, path, data = strangers()[kind]
    calls: list[str] = request.getfixturevalue("opened")
    path = path.format(job=job["id"])
    answer = api.request(method, path, files={"file": ("a", data)}, headers={"Prefer": "wait=0"})
    assert answer.status_code < 500, answer.text
    assert calls == [], (answer.status_code, answer.text)


def test_a_list_of_millions_of_rows_is_refused_where_it_costs_nothing(api: httpx.Client) -> None:
    answer = api.post("/api/labels/tables", files={"file": ("a.csv", b"n\n" + b"1\n" * 3_900_000)})
    assert answer.status_code == 422
    assert "more than 20000 rows" in answer.json()["detail"]


def test_a_profile_s_proof_is_made_apart(
    api: httpx.Client, drop: Callable[[bytes], httpx.Response], request: pytest.FixtureRequest
) -> None:
    path = "/api/tones/desk/a4/standard"
    picture = drop(DISC).json()["sha256"]
    assert api.put(f"{path}/profile", files={"file": ("a.icc", icc.press())}).status_code == 200
    calls: list[str] = request.getfixturevalue("opened")
    assert api.get(f"{path}/gamut/{picture}").status_code == 200
    assert api.get(f"{path}/proof/{picture}.png?proof=true&gamut=true").status_code == 200
    assert not [call for call in calls if "ImageCmsProfile" in call]


def test_a_picture_that_a_job_has_no_room_for_is_refused_before_it_is_kept(
    api: httpx.Client, job: dict
) -> None:
    design = job["recipe"]["designs"][0]
    designs = [{**design, "id": f"d{n}", "copies": 1} for n in range(MAX_DESIGNS)]
    body = {"revision": job["revision"], "label": "Many", "recipe": {**job["recipe"], "designs": designs}}
    assert api.put(f"/api/jobs/{job['id']}/recipe", json=body).status_code == 200
    data = drawings.png(drawings.coverage(drawings.disc(77))[0])
    answer = api.post(f"/api/jobs/{job['id']}/pictures?batch=b", files={"file": ("a.png", data)})
    assert answer.status_code == 409
    assert "another job" in answer.json()["detail"]
    # Nothing of it was kept.
    sha256 = hashlib.sha256(data).hexdigest()
    assert not blobs.exists(f"artwork/{sha256[:2]}/{sha256}")
