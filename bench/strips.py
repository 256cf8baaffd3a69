"""Strips as short as can be, searched by spyrrow (the guided local search of Gardeyn and Wauters, 2025): what nests are
measured beside. It knows neither how long a sheet is nor what stands in its corners."""

import threading
import time
from collections.abc import Mapping

import shapely
import spyrrow

from perisect.core.sheet.turns import ANGLES, Turns

POLL_S = 0.1


def shortest_strip(
    shapes: Mapping[str, shapely.Polygon],
    demand: Mapping[str, int],
    height_mm: float,
    turns: Turns,
    seconds: int,
    seed: int,
) -> spyrrow.StripPackingSolution | None:
    """The shortest strip of a height found in `seconds` (at least 2); None when none was."""
    items = [
        spyrrow.Item(key, _points(shapes[key]), count, list(ANGLES[turns]))
        for key, count in demand.items()
        if count > 0
    ]
    instance = spyrrow.StripPackingInstance("", height_mm, items)
    config = spyrrow.StripPackingConfig(
        exploration_time=max(1, seconds - 1),
        compression_time=1,
        total_computation_time=None,
        num_workers=1,
        seed=seed,
    )
    progress = spyrrow.ProgressQueue()
    best: list[spyrrow.StripPackingSolution] = []
    worker = threading.Thread(target=lambda: best.append(instance.solve(config, progress)))
    worker.start()
    # The packer looks at its clock between long moves only.
    end = time.monotonic() + seconds
    feasible = (spyrrow.ReportType.ExplFeas, spyrrow.ReportType.CmprFeas, spyrrow.ReportType.Final)
    found = None
    while worker.is_alive() and time.monotonic() < end:
        worker.join(POLL_S)
        found = next((each for kind, each in reversed(progress.drain()) if kind in feasible), found)
    return best[-1] if best else found


def _points(shape: shapely.Polygon) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in shapely.get_coordinates(shape.exterior)[:-1]]
