"""Files that mean harm: two thousand mutated ones, and the largest that are let in."""

import io
from collections.abc import Iterator

import httpx
import numpy as np
from PIL import Image
from tests.api.test_fuzz import mutated, whole
from tests.core import pictures

from bench.figure import Figure
from bench.processes import megabytes, pids_under
from bench.server import api
from perisect.core.artwork.decode import MAX_PIXELS

KINDS = ("PNG", "JPEG", "WEBP", "TIFF", "SVG", "PDF")
FILES = 2000
READER_BYTES = 1.5


def mutated_files_at_the_api() -> Iterator[Figure]:
    """Answers of 500 and above over 2,000 mutated files, and how the server's memory grows meanwhile."""
    rng = np.random.default_rng(1)
    originals = {kind: whole(kind) for kind in KINDS}
    with api() as server:
        faults, early = 0, 0.0
        for number in range(FILES):
            kind = KINDS[number % len(KINDS)]
            answer = _send(server.client, mutated(originals[kind], rng))
            faults += answer.status_code >= 500
            if number == FILES // 4:
                early = megabytes(server.process, "VmRSS")
        late = megabytes(server.process, "VmRSS")
        alive = server.client.get("/api/health").status_code == 200
    yield Figure(f"answers of 5xx of {FILES}", faults, FILES, "  ", "files        ", 0)
    yield Figure("server's memory after all", late, early, "MB", "after a quarter", 1.1 * early)
    yield Figure("server does not answer", float(not alive), 1, "  ", "of           ", 0)


def largest_pictures_in_a_reader() -> Iterator[Figure]:
    """Peak memory of a reader process over the largest pictures that are let in, mended and encoded."""
    side = int(MAX_PIXELS**0.5)
    rng = np.random.default_rng(2)
    tile = pictures.solid(pictures.over(pictures.art(rng, 500), pictures.plain(rng, 500)))[..., :3]
    many = np.tile(tile, (side // 500, side // 500, 1))
    checker = np.where((np.add.outer(np.arange(side) // 16, np.arange(side) // 16) % 2)[..., None], 255, 204)
    fake = np.repeat(checker.astype(np.uint8), 3, axis=2)
    fake[side // 4 : side // 2, side // 4 : side // 2] = (20, 90, 140)
    for name, rgb, background in (("plain", many, "plain"), ("checkerboard", fake, "checkerboard")):
        file = io.BytesIO()
        Image.fromarray(rgb).save(file, "PNG", compress_level=1)
        with api() as server:
            sent = _send(server.client, file.getvalue())
            sha256 = sent.json().get("sha256")
            mend = {"background": background, "specks_px2": 9}
            question = {"artwork": sha256, "mend": mend, "longest_mm": 200, "border_mm": 2}
            asked = server.client.post("/api/lines", json=question, timeout=120)
            peak = max((megabytes(pid, "VmHWM") for pid in pids_under(server.process)), default=0.0)
        said = f"{sent.status_code}/{asked.status_code}"
        yield Figure(
            f"reader's peak, {side}² px, {name} ({said})",
            peak / 1000,
            4e-9 * side**2,
            "GB",
            "its pixels   ",
            READER_BYTES,
        )


def _send(client: httpx.Client, data: bytes) -> httpx.Response:
    return client.post("/api/artwork", files={"file": ("a", data)}, timeout=120)
