"""The outline and its border."""

import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import cv2
import httpx
import numpy as np
import shapely

from bench.art import PICTURES
from bench.figure import Figure, seconds
from perisect.core.artwork import decode_rgba
from perisect.core.artwork.picture import alpha_of
from perisect.core.lines import trace
from perisect.up.cluster import Cluster, free_port
from perisect.up.supervisor import wait_until_up


def trace_the_first_time() -> Iterator[Figure]:
    """Bytes to outline, against OpenCV decoding the same bytes; the bar is twice that and 100 ms."""
    for name, png in PICTURES.items():
        data = np.frombuffer(png, np.uint8)
        base = seconds(lambda data=data: cv2.imdecode(data, cv2.IMREAD_UNCHANGED))  # type: ignore[misc]
        ours = seconds(lambda png=png: trace(alpha_of(decode_rgba(png))))  # type: ignore[misc]
        yield Figure(f"decode and trace, {name}", ours, base, "s", "OpenCV decode", 2 * base + 0.1)


def border_slider_at_the_api() -> Iterator[Figure]:
    """95th percentile of POST /api/lines while a border slider moves, against Shapely's plain buffer."""
    with _api() as client:
        for name, png in PICTURES.items():
            sha256 = client.post("/api/artwork", files={"file": png}).json()["sha256"]
            question = {"artwork": sha256, "longest_mm": 60, "peel_mm": 3}
            taken = []
            for border in np.arange(0.5, 8.0, 0.05):
                start = time.perf_counter()
                client.post("/api/lines", json=question | {"border_mm": round(float(border), 2)})
                taken.append(time.perf_counter() - start)
            outline = trace(alpha_of(decode_rgba(png)))
            in_mm = shapely.transform(outline.shape, lambda xy, k=60 / outline.longest_px: xy * k)
            base = seconds(lambda shape=in_mm: shapely.buffer(shape.buffer(4, 16), 3, 16), 3)  # type: ignore[misc]
            ours = float(np.percentile(taken, 95))
            yield Figure(f"border slider at the API p95, {name}", ours, base, "s", "plain buffer ", 0.06)


@contextmanager
def _api() -> Iterator[httpx.Client]:
    folder = Path(tempfile.mkdtemp(prefix="perisect-bench-"))
    folder.chmod(0o755)
    cluster = Cluster(folder)
    environment = {
        **os.environ,
        "PERISECT_DATABASE_URL": cluster.start(),
        "PERISECT_BLOBS": f"file://{folder}/blobs",
    }
    port = free_port()
    server = None
    try:
        perisect = [sys.executable, "-m", "perisect.cli"]
        subprocess.run([*perisect, "migrate"], env=environment, check=True)
        server = subprocess.Popen([*perisect, "api", "--port", str(port)], env=environment)
        wait_until_up(f"http://127.0.0.1:{port}")
        with httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=60) as client:
            yield client
    finally:
        if server is not None:
            server.terminate()
            server.wait()
        cluster.stop()
        shutil.rmtree((folder / "pg").resolve(), ignore_errors=True)
        shutil.rmtree(folder, ignore_errors=True)
