"""What is left of a sheet after a cut: its true shape, the marks that a further job has on it, and where pieces fit."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.lines.polygons import polygons_of
from perisect.core.sheet.fill import Footprint
from perisect.core.sheet.nest.pockets import Pockets
from perisect.core.sheet.placement import Placement
from perisect.core.sheet.recipe import MOST_POINTS, MOST_USED, SheetRecipe
from perisect.core.sheet.stock import Stock
from perisect.core.sheet.usable import MARK_IN_MM, Machine, UsableArea

Ring = tuple[tuple[float, float], ...]

BESIDE_MM = 3.0
"""A cut is no nearer to what was cut before: weeding lifts and bends the edge."""
NARROW_MM = 12.0
"""What is narrower holds no sticker."""
LEAST_MM2 = 60.0 * 60.0
"""Less is not worth keeping."""
STEP_MM = 2.0
"""Of the raster that the largest rectangle is looked for in."""
SIMPLER_MM = 0.5, 1.0, 2.0, 4.0
"""How coarsely what was used is kept: no coarser than a recipe's room for it asks for."""
DRAWN_ON = ("four", "three")
"""Patterns whose marks can stand in the corners of any rectangle."""
MOST_PIECES = 150


@dataclass(frozen=True)
class Scrap:
    """What was used of a sheet, as rings in sheet mm, and what is free of it."""

    used: tuple[Ring, ...]
    free: shapely.Polygon

    @property
    def free_mm2(self) -> float:
        """Area of what is free."""
        return float(self.free.area)


def scrap_of(area: UsableArea, taken: Sequence[shapely.Geometry]) -> Scrap | None:
    """What is left of a sheet; None where that is not worth keeping.

    Args:
        area: of the sheet, its marks and what was used of it earlier.
        taken: what each sticker takes, sheet mm.
    """
    machine, stock = area.machine, area.stock
    cut = shapely.buffer(shapely.union_all(list(taken)), BESIDE_MM, quad_segs=4)
    marks = [shapely.box(*notch) for notch in area.notches]
    # A part of the sheet that was used before, or is kept by its own job, is no more there.
    bands = [
        shapely.box(0, 0, stock.width_mm, machine.used_top_mm),
        shapely.box(0, stock.height_mm - machine.kept_bottom_mm, stock.width_mm, stock.height_mm),
    ]
    gone = shapely.union_all([cut, *area.used, *marks, *(band for band in bands if band.area > 0)])
    rings = _rings(gone, shapely.box(0, 0, stock.width_mm, stock.height_mm))
    if rings is None:
        return None
    scrap = scrap_with(rings, machine, stock)
    return None if scrap.free_mm2 < LEAST_MM2 else scrap


def scrap_with(rings: tuple[Ring, ...], machine: Machine, stock: Stock) -> Scrap:
    """The scrap of a sheet out of which so much was used: the largest part of what is free, without what is narrow."""
    gone = shapely.union_all(shapely.make_valid([shapely.Polygon(ring) for ring in rings]))
    free = shapely.difference(shapely.box(*machine.held(stock)), gone)
    wide = shapely.buffer(shapely.buffer(free, -NARROW_MM / 2), NARROW_MM / 2, join_style="mitre")
    parts = polygons_of(shapely.intersection(free, wide)).geoms
    return Scrap(rings, max(parts, key=lambda part: part.area, default=shapely.Polygon()))


def _rings(gone: shapely.Geometry, sheet: shapely.Polygon) -> tuple[Ring, ...] | None:
    """What was used as plain rings, in as few points as a recipe holds; None where it is too ragged for that."""
    for coarse in SIMPLER_MM:
        simple = shapely.simplify(shapely.buffer(gone, coarse, quad_segs=4), coarse)
        parts = [
            part for each in polygons_of(shapely.intersection(simple, sheet)).geoms for part in _plain(each)
        ]
        if len(parts) <= MOST_USED and all(len(part.exterior.coords) <= MOST_POINTS for part in parts):
            corners = [shapely.get_coordinates(part.exterior)[:-1].tolist() for part in parts]
            return tuple(tuple((round(x, 1), round(y, 1)) for x, y in ring) for ring in corners)
    return None


def _plain(polygon: shapely.Polygon) -> list[shapely.Polygon]:
    """A polygon without its small holes, in as many parts as its large ones ask for: cut across each of them."""
    hole = next((ring for ring in polygon.interiors if shapely.Polygon(ring).area >= LEAST_MM2), None)
    if hole is None:
        return [shapely.Polygon(polygon.exterior)]
    left, top, right, bottom = polygon.bounds
    across = shapely.centroid(shapely.Polygon(hole)).x
    halves = (
        shapely.box(left - 1, top - 1, across, bottom + 1),
        shapely.box(across, top - 1, right + 1, bottom + 1),
    )
    parts = [part for half in halves for part in polygons_of(shapely.intersection(polygon, half)).geoms]
    return [plain for part in parts for plain in _plain(part)]


def marks_on(scrap: Scrap, area: UsableArea) -> tuple[tuple[float, float], ...] | None:
    """Centres of the marks of a further job: in the corners of the largest rectangle that is free; None where it is
    too small for them, or the plotter's marks stand otherwise.

    Args:
        area: of the whole sheet.
    """
    marks, machine = area.machine.marks, area.machine
    if marks.pattern not in DRAWN_ON:
        return None
    # Where the plotter sees marks on a whole sheet it sees them here.
    seen = shapely.box(
        marks.side_mm,
        marks.top_mm,
        area.stock.width_mm - marks.side_mm,
        area.stock.height_mm - marks.bottom_mm,
    )
    inside = shapely.intersection(
        seen, shapely.buffer(scrap.free, -(marks.clear_mm + MARK_IN_MM), join_style="mitre")
    )
    found = [each for each in map(_largest_rectangle, polygons_of(inside).geoms) if each is not None]
    least = 4 * marks.clear_mm
    found = [box for box in found if min(box[2] - box[0], box[3] - box[1]) >= least]
    if not found or machine.marks.own:
        return None
    left, top, right, bottom = max(found, key=lambda box: (box[2] - box[0]) * (box[3] - box[1]))
    corners = ((left, top), (right, top), (left, bottom), (right, bottom))
    return corners[: 3 if marks.pattern == "three" else 4]


def _largest_rectangle(shape: shapely.Polygon) -> tuple[float, float, float, float] | None:
    """Left, top, right, bottom of the largest upright rectangle in a shape, to a raster's step; row counts are tried
    one after the other, all places of each at once."""
    left, top, right, bottom = shape.bounds
    across, along = int((right - left) / STEP_MM), int((bottom - top) / STEP_MM)
    if min(across, along) < 1:
        return None
    cells = np.ones((along, across), np.uint8)
    # A cell is free when all of it is: what is not free is drawn with its edges.
    for ring, value in ((shape.exterior, 1), *((hole, 0) for hole in shape.interiors)):
        points = (shapely.get_coordinates(ring) - (left, top)) / STEP_MM - 0.5
        if value:
            cells[:] = 0
        cv2.fillPoly(cells, [np.round(points * 16).astype(np.int32)], value, shift=4)
        cv2.polylines(cells, [np.round(points * 16).astype(np.int32)], True, 0, shift=4)
    best, found = 0, None
    free = cells.astype(bool)
    rows = free
    for height in range(1, along + 1):
        if height > 1:
            rows = rows[:-1] & free[height - 1 :]
        if not rows.any():
            break
        length, row, column = _longest_run(rows)
        if length * height > best:
            best, found = length * height, (column, row, column + length, row + height)
    if found is None:
        return None
    x0, y0, x1, y1 = (side * STEP_MM for side in found)
    return left + x0, top + y0, left + x1, top + y1


def _longest_run(rows: NDArray[np.bool_]) -> tuple[int, int, int]:
    """Length of the longest run of True in any row, its row and its first column."""
    fenced = np.pad(rows.astype(np.int8), ((0, 0), (1, 1)))
    edges = np.diff(fenced, axis=1).ravel()
    starts, ends = np.flatnonzero(edges == 1), np.flatnonzero(edges == -1)
    longest = int((ends - starts).argmax())
    row, column = divmod(int(starts[longest]), rows.shape[1] + 1)
    return int(ends[longest] - starts[longest]), row, column


def on_scrap(
    area: UsableArea,
    footprints: Sequence[Footprint],
    sheet: SheetRecipe,
    locked: Sequence[Placement],
    shapes: NDArray[np.object_],
) -> Sequence[Placement]:
    """Pieces one by one wherever there is room, the largest first; filled, one of each in turn until none fits.

    Args:
        locked: what keeps its place; it is the first of what is returned.
        shapes: (n,) what that takes, sheet mm.
    """
    if not footprints or area.polygon.is_empty:
        return locked
    pockets = Pockets(area, {f.key: f.outline for f in footprints}, sheet.gap_mm, sheet.turns)
    pockets.occupy(list(shapes))
    standing, have = list(locked), Counter(each.key for each in locked)
    largest = sorted(footprints, key=lambda f: -f.area_mm2)
    if sheet.fill:
        queue = [f.key for _ in range(MOST_PIECES) for f in largest]
    else:
        queue = [f.key for f in largest for _ in range(f.copies - have[f.key])]
    full: set[str] = set()
    for key in queue:
        if len(standing) >= MOST_PIECES or len(full) == len(footprints):
            break
        place = None if key in full else pockets.put(key)
        if place is None:
            full.add(key)
        else:
            standing.append(place)
    return standing
