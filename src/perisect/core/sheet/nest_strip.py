"""Many small pieces on a strip as short as can be, searched by spyrrow (the guided local search of Gardeyn and
Wauters, 2025). It knows neither how long a sheet is nor what stands in its corners: it is where a search begins."""

import threading
import time
from collections.abc import Callable, Mapping

import shapely
import spyrrow

from perisect.core.sheet.placement import Placement, placed, pose
from perisect.core.sheet.turns import ANGLES, Turns
from perisect.core.sheet.usable import UsableArea

LEAST_SECONDS = 2
POLL_S = 0.1


def on_strip(
    area: UsableArea,
    shapes: Mapping[str, shapely.Polygon],
    demand: Mapping[str, int],
    half_mm: float,
    turns: Turns,
    seconds: int,
    seed: int,
    across: bool,
    stopping: Callable[[], bool] = lambda: False,
) -> list[Placement]:
    """Pieces that the area's box takes of the shortest strip found in `seconds` (at least 2) or until `stopping`; what
    else stands on the sheet they may overlap.

    Args:
        shapes: pieces with half their gap, design mm.
        across: the strip runs down the sheet, not along it.
    """
    width = area.right_mm - area.left_mm + 2 * half_mm
    height = area.bottom_mm - area.top_mm + 2 * half_mm
    length, high = (height, width) if across else (width, height)
    turned = {key: _turned(shapes[key]) if across else shapes[key] for key in demand}
    found = shortest_strip(turned, demand, high, turns, seconds, seed, stopping)
    laid = []
    for piece in found.placed_items if found is not None else []:
        x, y = (float(each) for each in piece.translation)
        # A strip that runs down is the sheet turned by a quarter: (x, y) of the sheet is (-y, x) there.
        on_sheet = (y, length - x) if across else (x, y)
        begins = area.left_mm - half_mm + on_sheet[0], area.top_mm - half_mm + on_sheet[1]
        laid.append(pose(piece.id, float(piece.rotation) % 360, *begins))
    taken = [placed(shapes[piece.key], piece).bounds for piece in laid]
    top, right = area.top_mm - half_mm, area.right_mm + half_mm
    return [p for p, box in zip(laid, taken, strict=True) if (box[1] >= top if across else box[2] <= right)]


def shortest_strip(
    shapes: Mapping[str, shapely.Polygon],
    demand: Mapping[str, int],
    height_mm: float,
    turns: Turns,
    seconds: int,
    seed: int,
    stopping: Callable[[], bool] = lambda: False,
) -> spyrrow.StripPackingSolution | None:
    """The shortest strip of a height found in `seconds` (at least 2) or until `stopping`; None when none was."""
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
    while worker.is_alive() and time.monotonic() < end and not stopping():
        worker.join(POLL_S)
        found = next((each for kind, each in reversed(progress.drain()) if kind in feasible), found)
    return best[-1] if best else found


def _turned(shape: shapely.Polygon) -> shapely.Polygon:
    """A quarter round, as a sheet lies for a strip that runs down it."""
    return shapely.transform(shape, lambda xy: xy[:, ::-1] * (-1, 1))


def _points(shape: shapely.Polygon) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in shapely.get_coordinates(shape.exterior)[:-1]]
