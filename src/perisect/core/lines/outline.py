"""The outline of the art: the iso-line of its alpha at half coverage.

Marching squares (Lorensen and Cline 1987, in the plane) over the grid of pixel centres, with the
crossings placed by linear interpolation. Everything is an array operation: cells are classified at
once, and the crossings are put in order round each loop by pointer doubling (Wyllie 1979), so the
time goes with the pixels of the art's box and no loop runs over vertices.
"""

from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.artwork.picture import HALF_COVERAGE
from perisect.core.lines import cells
from perisect.core.lines.tips import Coverage, sharpen

SPECK_PX2 = 12.0
"""Loops smaller than this are dust of an eraser or of compression, not art."""

TRACE_TOLERANCE_PX = 0.14

BESIDE_PX = 13
"""So far beyond what is half covered the end of a tip may lie."""


@dataclass(frozen=True)
class Outline:
    """The traced art in pixels, x right, y down, (0, 0) at the top left corner of the picture.

    `shape` is a valid MultiPolygon with holes, `specks` the number of dust loops left out, `held` what a cut line goes
    round that the drawing held already; empty without one. `beside` are lines it held beside that one, by process.
    """

    shape: shapely.MultiPolygon
    specks: int
    held: shapely.MultiPolygon = shapely.MultiPolygon()
    beside: tuple[tuple[str, shapely.LineString], ...] = ()

    @property
    def box_px(self) -> tuple[float, float, float, float]:
        """Left, top, right, bottom of the outline."""
        left, top, right, bottom = self.shape.bounds
        return left, top, right, bottom

    @property
    def longest_px(self) -> float:
        """Longer side of the outline's box."""
        left, top, right, bottom = self.box_px
        return max(right - left, bottom - top)


def trace(alpha: NDArray[np.uint8]) -> Outline:
    """Outline of an (h, w) coverage picture; empty when no pixel is half covered.

    Beyond the picture's edge counts as clear, so art that is cut flat by the edge closes there.
    """
    covered = cv2.threshold(alpha, HALF_COVERAGE, 1, cv2.THRESH_BINARY)[1]
    left, top, width, height = cv2.boundingRect(covered)
    if width == 0:
        return Outline(shapely.MultiPolygon(), 0)
    box = np.array([[top, top + height], [left, left + width]]) + (-BESIDE_PX, BESIDE_PX)
    held = np.clip(box, 0, np.array(alpha.shape)[:, None])
    crop = np.pad(alpha[slice(*held[0]), slice(*held[1])], np.abs(box - held))
    inner = slice(BESIDE_PX - 1, 1 - BESIDE_PX)
    # What the outline crosses begins one pixel before the box; pixel centres lie at +0.5.
    points, starts = _loops(crop[inner, inner])
    points += (left - 1 + 0.5, top - 1 + 0.5)
    return _assemble(points, starts, Coverage(crop, left - BESIDE_PX, top - BESIDE_PX))


def _loops(values: NDArray[np.uint8]) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """All closed iso-lines of an (h, w) grid: (n, 2) points in order and the index each loop starts at."""
    tail, head = cells.segments(values, HALF_COVERAGE)
    order, starts = _order_loops(tail, head)
    points = cells.crossings(values, tail[order], HALF_COVERAGE)
    return points, starts


def _order_loops(
    tail: NDArray[np.int64], head: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Put segments in order round their loops.

    Each segment runs from crossing `tail[i]` to `head[i]`; every crossing is once a tail and once a
    head, so `next` is a permutation. Its cycles are labelled by their least member and ranked from
    there, both in log2(n) doubling steps. Returns the (n,) order and the (loops,) starts.
    """
    count = len(tail)
    by_tail = np.argsort(tail)
    following = by_tail[np.searchsorted(tail, head, sorter=by_tail)]
    steps = max(1, int(np.ceil(np.log2(max(count, 2)))))
    label, jump = np.arange(count), following.copy()
    for _ in range(steps):
        label = np.minimum(label, label[jump])
        jump = jump[jump]
    # Distance to the loop's first segment, counted along `next`; the first one is the sink.
    first = label == np.arange(count)
    distance = np.where(first, 0, 1)
    jump = np.where(first, np.arange(count), following)
    for _ in range(steps):
        distance = distance + distance[jump]
        jump = jump[jump]
    order = np.lexsort((-np.where(first, count + 1, distance), label))
    starts = np.flatnonzero(np.diff(label[order], prepend=-1))
    return order, starts


def _assemble(points: NDArray[np.float64], starts: NDArray[np.int64], coverage: Coverage) -> Outline:
    """Loops with the art on their right (y down: outsides run clockwise) to one MultiPolygon."""
    lengths = np.diff(starts, append=len(points))
    following = np.arange(1, len(points) + 1)
    following[starts + lengths - 1] = starts
    cross = points[:, 0] * points[following, 1] - points[following, 0] * points[:, 1]
    areas = np.add.reduceat(cross, starts) / 2
    kept = np.abs(areas) >= SPECK_PX2
    specks = int(np.count_nonzero(~kept & (areas > 0)))
    if not kept.any():
        return Outline(shapely.MultiPolygon(), specks)
    ring_of_point = np.repeat(np.cumsum(kept) - 1, lengths)[np.repeat(kept, lengths)]
    points = points[np.repeat(kept, lengths)]
    areas = areas[kept]
    rings = shapely.linearrings(points, indices=ring_of_point)
    rings = sharpen(shapely.simplify(rings, TRACE_TOLERANCE_PX), coverage)
    shells = shapely.polygons(rings[areas > 0])
    if (areas > 0).all():
        return Outline(_valid(shapely.multipolygons(shells)), specks)
    # Each hole belongs to the smallest shell around it. A point of its edge tells: one inside the
    # hole might stand on another piece that lies in it.
    tree = shapely.STRtree(shells)
    hole, shell = tree.query(shapely.get_point(rings[areas < 0], 0), predicate="within")
    smallest_first = np.lexsort((shapely.area(shells[shell]), hole))
    owned, first = np.unique(hole[smallest_first], return_index=True)
    owner = shell[smallest_first][first]
    by_owner = np.argsort(owner, kind="stable")
    groups, cut = np.unique(owner[by_owner], return_index=True)
    hole_rings = rings[areas < 0][owned[by_owner]]
    for which, its in zip(groups, np.split(hole_rings, cut[1:]), strict=True):
        shells[which] = shapely.polygons(shapely.get_exterior_ring(shells[which]), holes=its)
    return Outline(_valid(shapely.multipolygons(shells)), specks)


def _valid(shape: shapely.MultiPolygon) -> shapely.MultiPolygon:
    """Where two rings all but touch, reducing each by itself may have made them cross: mend that."""
    if shapely.is_valid(shape):
        return shape
    parts = shapely.get_parts(shapely.make_valid(shape, method="structure", keep_collapsed=False))
    return shapely.multipolygons(parts[shapely.get_type_id(parts) == shapely.GeometryType.POLYGON])
