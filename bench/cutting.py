"""What the whole path slips, on fifty days at the machines, and how far the knife goes with the pen up."""

import json
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from bench.art import picture
from bench.figure import Figure, seconds
from perisect.core.cutting.order import cut_order
from perisect.core.cutting.route import nearest_next, path_length
from perisect.core.formats import CutSheet
from perisect.offline.make import make
from perisect.offline.rehearse import rehearse

SEEDS = 50


def slip_over_seeds() -> Iterator[Figure]:
    """Largest slip of a sheet over 50 seeds; baseline is the largest load error the plotter makes, 2 mm."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        art = folder / "blob.png"
        art.write_bytes(picture(900, 17, 0.03, noise=False))
        make([art], folder / "out", 60, 2, 3, "a4", None, 2)
        slips, residuals = [], []
        for seed in range(SEEDS):
            result = rehearse(folder / "out", seed)
            slips.append(result["slip_max_mm"])
            residuals.append(result["residual_mm"])
        up = len(json.loads((folder / "out" / "report.json").read_text())["sheets"][0]["placements"])
    yield Figure(f"largest slip, {SEEDS} seeds, {up} up", max(slips), 2.0, "mm", "load error   ", 0.20)
    yield Figure(f"largest residual, {SEEDS} seeds", max(residuals), 2.0, "mm", "load error   ", 0.15)


def way_between_a_thousand_lines() -> Iterator[Figure]:
    """Pen-up way between 1,000 circles of 2 to 4 mm, and the time to find it, beside going to the nearest next."""
    rng = np.random.default_rng(1)
    turns = np.linspace(0, 2 * np.pi, 60, endpoint=False)
    circle = np.stack([np.cos(turns), np.sin(turns)], axis=1)
    centres, radii = rng.uniform((5, 5), (205, 292), (1000, 2)), rng.uniform(1, 2, 1000)
    rings = [centre + radius * circle for centre, radius in zip(centres, radii, strict=True)]
    sheet = CutSheet(210, 297, {"kiss": rings}, {"kiss": list(range(1000))}, [])
    start = np.array([0.0, 297.0])
    near = centres[nearest_next(centres, start)]
    way = path_length(np.vstack([start, [line.ring[0] for line in cut_order(sheet)]]))
    yield Figure("pen-up way, 1,000 lines", way, path_length(np.vstack([start, near])), "mm", "nearest next ")
    took = seconds(lambda: cut_order(sheet), 3)
    yield Figure(
        "order of 1,000 lines",
        took,
        seconds(lambda: nearest_next(centres, start), 3),
        "s",
        "nearest next ",
        1.0,
    )
