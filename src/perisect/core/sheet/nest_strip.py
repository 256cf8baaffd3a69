"""One strip of true shapes, searched by spyrrow (the guided local search of Gardeyn and Wauters, 2025).

The packer knows neither a sheet's width nor its marks. The marks go in as one piece of the strip's full
height, an I: its right half is the sheet's left edge with the marks there, its left half the right edge.
Wherever the I ends up, the strip is cut at its web and the parts change places, and the marks stand at
the four corners.
"""

import threading
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import shapely
import spyrrow

from perisect.core.sheet.placement import Placement, placed, pose
from perisect.core.sheet.turns import ANGLES, Turns

WEB_MM = 0.4
HAIR_MM = 1e-3
MARKS = "\x00marks"
POLL_S = 0.1


@dataclass(frozen=True)
class Corners:
    """Width and height of what the marks take of each corner of a strip, mm; 0 by 0 where there is none."""

    top_left: tuple[float, float] = (0.0, 0.0)
    top_right: tuple[float, float] = (0.0, 0.0)
    bottom_left: tuple[float, float] = (0.0, 0.0)
    bottom_right: tuple[float, float] = (0.0, 0.0)

    @property
    def left_mm(self) -> float:
        """How far the marks at the left reach into the strip."""
        return max(self.top_left[0], self.bottom_left[0])

    @property
    def right_mm(self) -> float:
        """How far those at the right do."""
        return max(self.top_right[0], self.bottom_right[0])


@dataclass(frozen=True)
class Strip:
    """Pieces to the left and to the right of where the ends of the sheet meet: the right ones lie from x = 0,
    the left ones up to x = 0, and between the two the sheet's edge with its marks."""

    from_left: tuple[Placement, ...]
    to_right: tuple[Placement, ...]
    length_mm: float


def search_strip(
    shapes: Mapping[str, shapely.Polygon],
    demand: Mapping[str, int],
    height_mm: float,
    corners: Corners,
    turns: Turns,
    seconds: int,
    seed: int,
    stopping: Callable[[], bool] = lambda: False,
) -> Strip | None:
    """The shortest strip found in `seconds` (at least 2) or until `stopping`; None when none was.

    Args:
        shapes: what each piece takes with half its gap, mm.
        height_mm: of the strip, with half a gap on both sides.
    """
    angles = None if turns == "free" else list(ANGLES[turns])
    items = [
        spyrrow.Item(key, _points(shapes[key]), count, angles) for key, count in demand.items() if count > 0
    ]
    marked = corners != Corners()
    if marked:
        items.append(spyrrow.Item(MARKS, _points(_marks(height_mm, corners)), 1, [0.0]))
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

    def solve() -> None:
        best.append(instance.solve(config, progress))

    worker = threading.Thread(target=solve)
    worker.start()
    # The packer looks at its clock between long moves only.
    end = time.monotonic() + seconds
    feasible = (spyrrow.ReportType.ExplFeas, spyrrow.ReportType.CmprFeas, spyrrow.ReportType.Final)
    found = None
    while worker.is_alive() and time.monotonic() < end and not stopping():
        worker.join(POLL_S)
        found = next((each for kind, each in reversed(progress.drain()) if kind in feasible), found)
    found = best[-1] if best else found
    return None if found is None else _cut(found, shapes, corners, marked)


def _points(shape: shapely.Polygon) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in shapely.get_coordinates(shape.exterior)[:-1]]


def _marks(height: float, corners: Corners) -> shapely.Polygon:
    """The I: the sheet's right corners, a web, and its left corners, as high as the strip."""
    top, web, bottom = HAIR_MM, corners.right_mm, height - HAIR_MM
    far = web + WEB_MM
    (rw, rh), (bw, bh) = corners.top_right, corners.bottom_right
    (lw, lh), (mw, mh) = corners.top_left, corners.bottom_left
    points = [(web - rw, top), (far + lw, top), (far + lw, lh), (far, lh), (far, height - mh)]
    points += [(far + mw, height - mh), (far + mw, bottom), (web - bw, bottom), (web - bw, height - bh)]
    points += [(web, height - bh), (web, rh), (web - rw, rh)]
    return shapely.simplify(shapely.Polygon(points), 0)


def _cut(
    found: spyrrow.StripPackingSolution,
    shapes: Mapping[str, shapely.Polygon],
    corners: Corners,
    marked: bool,
) -> Strip:
    """The strip cut where the marks stand."""
    pieces = [
        pose(each.id, float(each.rotation), float(each.translation[0]), float(each.translation[1]))
        for each in found.placed_items
    ]
    if not marked:
        return Strip(tuple(pieces), (), float(found.width))
    at = next(each for each in pieces if each.key == MARKS).x_mm + corners.right_mm
    left: list[Placement] = []
    right: list[Placement] = []
    for piece in pieces:
        if piece.key == MARKS:
            continue
        beyond = placed(shapes[piece.key], piece).centroid.x > at
        (left if beyond else right).append(replace(piece, x_mm=piece.x_mm - at - WEB_MM * beyond))
    return Strip(tuple(left), tuple(right), float(found.width) - WEB_MM)
