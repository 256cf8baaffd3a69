"""The outline and its border."""

import time
from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np
import shapely

from bench.art import PICTURES, picture
from bench.figure import Figure, seconds, seconds_beside
from bench.server import api
from perisect.core.artwork import decode_rgba
from perisect.core.artwork.picture import alpha_of
from perisect.core.lines import LineRecipe, Outline, SizedArt, trace
from perisect.core.lines.check import line_findings
from perisect.core.prepress.bleed_growth import bleed_under

PAGE = Path(__file__).parents[1] / "src/perisect/demo/artwork/river-birds-page.png"


def trace_the_first_time() -> Iterator[Figure]:
    """Bytes to outline, against OpenCV decoding the same bytes; the bar is twice that and 100 ms."""
    for name, png in PICTURES.items():
        data = np.frombuffer(png, np.uint8)
        base = seconds(lambda data=data: cv2.imdecode(data, cv2.IMREAD_UNCHANGED))  # type: ignore[misc]
        ours = seconds(lambda png=png: trace(alpha_of(decode_rgba(png))))  # type: ignore[misc]
        yield Figure(f"decode and trace, {name}", ours, base, "s", "OpenCV decode", 2 * base + 0.1)


def border_slider_at_the_api() -> Iterator[Figure]:
    """95th percentile of POST /api/lines/moving while a border slider moves, against Shapely's plain buffer."""
    with api() as server:
        client = server.client
        pictures = [(name, png, 60.0) for name, png in PICTURES.items()]
        pictures.append(("a page of 44 drawings", PAGE.read_bytes(), 190.0))
        for name, png, longest_mm in pictures:
            sha256 = client.post("/api/artwork", files={"file": png}).json()["sha256"]
            lines = {"radius_mm": 0.5, "fill_holes_mm": 400.0}
            question = {"artwork": sha256, "longest_mm": longest_mm, "peel_mm": 3, "lines": lines}
            taken = []
            for border in np.arange(-0.4, 8.0, 0.05):
                start = time.perf_counter()
                client.post("/api/lines/moving", json=question | {"border_mm": round(float(border), 2)})
                taken.append(time.perf_counter() - start)
            outline = trace(alpha_of(decode_rgba(png)))
            in_mm = shapely.transform(outline.shape, lambda xy, k=longest_mm / outline.longest_px: xy * k)
            base = seconds(lambda shape=in_mm: shapely.buffer(shape.buffer(4, 16), 3, 16), 3)  # type: ignore[misc]
            ours = float(np.percentile(taken, 95))
            yield Figure(f"border slider at the API p95, {name}", ours, base, "s", "plain buffer ", 0.06)


def remedy_at_the_api() -> Iterator[Figure]:
    """95th percentile of carrying a remedy out, kept as a step, against reading the job alone."""
    with api() as server:
        client = server.client
        sha256 = client.post("/api/artwork", files={"file": PICTURES["busy"]}).json()["sha256"]
        job = client.post("/api/jobs", json={"title": "Remedies"}).json()
        design = {"id": "d", "name": "Busy", "artwork": sha256, "longest_mm": 60, "peel_mm": 3}
        body = {"revision": job["revision"], "recipe": {"designs": [design]}, "label": "Add"}
        job = client.put(f"/api/jobs/{job['id']}/recipe", json=body).json()
        taken, read = [], []
        for number in range(40):
            remedy = {
                "act": "set",
                "label": "Round",
                "field": "lines.radius_mm",
                "value": 0.3 + 0.01 * number,
            }
            start = time.perf_counter()
            body = {"revision": job["revision"], "remedy": remedy, "design": "d"}
            answer = client.post(f"/api/jobs/{job['id']}/remedies", json=body)
            job = answer.raise_for_status().json()
            taken.append(time.perf_counter() - start)
            start = time.perf_counter()
            client.get(f"/api/jobs/{job['id']}")
            read.append(time.perf_counter() - start)
        ours, base = float(np.percentile(taken, 95)), float(np.percentile(read, 95))
        yield Figure("remedy at the API p95, busy", ours, base, "s", "reading it   ", 0.15)


def lines_over_picture_sizes() -> Iterator[Figure]:
    """A full line set of the same drawing at 1 to 36 megapixels: the time goes with the outline, not the area."""
    recipe = LineRecipe(radius_mm=0.5, bridge_mm=0.4, fill_holes_mm=3, outer="perforate")
    base = 0.0
    for side in (1000, 2000, 4000, 6000):
        outline = trace(alpha_of(decode_rgba(picture(side, 17, 0.03, noise=False))))

        def work(outline: Outline = outline) -> None:
            lines = SizedArt(outline, 60).lines(2.0, 3.0, recipe)
            line_findings("d", "Art", lines, 2.0)

        ours = seconds(work, 5)
        base = base or ours
        yield Figure(f"line set and findings, {side}² px", ours, base, "s", "at 1000² px  ", None)


def bleed_of_a_large_picture() -> Iterator[Figure]:
    """Bleed of 3 mm (100 px) round 2000 x 2000 px, against the two transforms of OpenCV that tell whose a place is and
    how far it is."""
    alpha = alpha_of(decode_rgba(PICTURES["smooth"]))
    rgba = np.dstack([np.full((*alpha.shape, 3), 90, np.uint8), alpha])
    beside = cv2.copyMakeBorder(
        (alpha < 128).astype(np.uint8), 101, 101, 101, 101, cv2.BORDER_CONSTANT, value=(1,)
    )

    def both() -> None:
        cv2.distanceTransformWithLabels(beside, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
        cv2.distanceTransform(beside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)

    ours, base = seconds_beside(lambda: bleed_under(rgba, 100), both)
    yield Figure("bleed of 100 px", ours, base, "s", "both transforms", 1.6 * base)
