"""What the whole path slips, on fifty days at the machines."""

import json
import tempfile
from collections.abc import Iterator
from pathlib import Path

from bench.art import picture
from bench.figure import Figure
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
