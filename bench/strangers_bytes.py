"""Every kind of file that the shop takes in, whole and spoiled, and headers that nobody should send."""

import io
import json
import zipfile

import numpy as np
import pikepdf
from tests.api.test_fuzz import mutated, whole
from tests.core import drawings, icc
from tests.core.test_refused_by_count import LINE, dxf, insert

from perisect.core.fonts import FOLDER

BOMBS = (
    dxf(LINE, rows=32_000, columns=32_000),
    dxf("", *(insert(n, 10) for n in range(8))),
    b"n\n" + b"1\n" * 300_000,
    b'<svg xmlns="http://www.w3.org/2000/svg" width="1e400" height="9"><path d="M0 0 1e400 1e400Z"/></svg>',
    b'<!DOCTYPE s [<!ENTITY a "b">]><svg xmlns="http://www.w3.org/2000/svg">&a;</svg>',
    b"",
)


def _backup() -> bytes:
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as archive:
        archive.writestr(
            "manifest.json", json.dumps({"format": "perisect shop 1", "revision": "0015", "entries": {}})
        )
    return file.getvalue()


def _pdf() -> bytes:
    file = io.BytesIO()
    with pikepdf.new() as made:
        made.add_blank_page(page_size=(100, 100))
        made.save(file)
    return file.getvalue()


SCAN = drawings.png(drawings.coverage(drawings.disc(120))[0])
TAKES: dict[str, tuple[str, str, bytes]] = {
    **{kind: ("POST", "/api/artwork", whole(kind)) for kind in ("PNG", "JPEG", "WEBP", "TIFF", "SVG", "PDF")},
    "die": ("POST", "/api/artwork", dxf(LINE, rows=3, columns=4)),
    "piece": ("POST", "/api/jobs/{job}/pictures?batch=b", whole("PNG")),
    "font": ("POST", "/api/fonts", (FOLDER / "text.ttf").read_bytes()),
    "list": ("POST", "/api/labels/tables", b"name;page\n" + b"heron;7\n" * 40),
    "profile": ("PUT", "/api/tones/desk/a4/standard/profile", icc.press()),
    "scale scan": ("POST", "/api/jobs/{job}/scale/scan?ppi=300", SCAN),
    "head picture": ("POST", "/api/jobs/{job}/head/picture", SCAN),
    "calibration scan": ("POST", "/api/jobs/{job}/calibration-page/scan", SCAN),
    "pdf": ("POST", "/api/artwork", _pdf()),
    "backup": ("POST", "/api/shop/restore", _backup()),
}
"""Method, path and a sound file of every kind."""
RARE = {"backup": 40, "font": 4}
"""Kinds whose reader takes long to begin, or whose file is large: one in so many of their turns is sent."""

NAMES = (
    "Host", "Origin", "Referer", "Cookie", "Prefer", "If-Match", "Range", "Accept", "Content-Type", "Expect",
    "Content-Length", "Transfer-Encoding", "Sec-Fetch-Site", "X-Forwarded-For", "Upgrade", "Connection",
)  # fmt: skip
VALUES = (
    "", "[::1", "http://[", "a" * 5000, "9" * 400, "-1", "\xff\xfe", "wait=1e400", "gzip;q=nan", "chunked", "null",
    "perisect=" + "x" * 900, "bytes=9-1,1-", "cross-site", "*/*;" * 300, "websocket", "close", "100-continue",
    "../../etc/passwd", "%00", "'; drop table job; --",
)  # fmt: skip


def hostile_file(rng: np.random.Generator) -> tuple[str, str, bytes]:
    """Method, path and bytes of the next file."""
    while True:
        kind = str(rng.choice(list(TAKES)))
        if rng.integers(0, RARE.get(kind, 1)) == 0:
            break
    method, path, sound = TAKES[kind]
    chance = rng.random()
    if chance < 0.02:
        return method, path, BOMBS[int(rng.integers(0, len(BOMBS)))]
    if chance < 0.06:  # Another kind's file in its place.
        return method, path, TAKES[str(rng.choice(list(TAKES)))][2]
    return method, path, mutated(sound, rng)


def hostile_headers(rng: np.random.Generator) -> list[tuple[str, str]]:
    """One to four headers."""
    count = int(rng.integers(1, 5))
    return [(str(rng.choice(NAMES)), str(rng.choice(VALUES))) for _ in range(count)]
