"""A sheet and the turned pieces of a nest on a raster, where overlaps of a piece everywhere are one correlation."""

import copy
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy import fft, ndimage

from perisect.core.sheet.nest.pairs import MOST_ENTRIES, Floats, Pairs, entries, exact
from perisect.core.sheet.placement import Placement, placed, pose
from perisect.core.sheet.usable import UsableArea

CELL_MM = (0.5, 1.5)
CELLS_ACROSS = 20
"""A cell is this part of the narrowest piece, within `CELL_MM`; the exact places are found afterwards."""
FINER = np.linspace(1.0, 0.8, 21)
"""Cells are made smaller so that straight sides end with one: a row of pieces that is free on the raster may not have
its room otherwise."""
STRAIGHT, OVERLAPPING = 1e-3, 3.0
"""A side is straight that leaves a row by so little of its length; and a piece that is too small on the raster is so
much worse than one too large."""
MOST_CELLS = 150_000
"""Cells of a sheet; of a larger one they are larger."""
MOST_KEPT = 200
"""Transforms of turned pieces that are kept, some 0.3 MB each; of more each is made when it is needed."""
ROOT_HALF = 0.5**0.5

Panels = Callable[[float], UsableArea | None]
"""What a roll's panel of a length, mm, offers."""


class Spot(NamedTuple):
    """A copy on the raster: its design, the number of its turn, and the cell of its box's top left."""

    key: str
    turn: int
    x: int
    y: int


@dataclass(frozen=True)
class Turned:
    """A piece with half its gap, turned: `shape` with its box at (0, 0) mm, `from_mm` where that box began, `inside`
    1 where the middle of a cell is in it, `depth` how many cells it is there to the outside."""

    laid: Placement
    shape: shapely.Polygon
    from_mm: tuple[float, float]
    inside: Floats
    depth: Floats
    spectrum: NDArray[np.complex64] | None

    @property
    def high_mm(self) -> float:
        """Of its box."""
        return float(self.shape.bounds[3])


class Board:
    """What a sheet offers to pieces, for any length of it.

    Args:
        area: what may be cut.
        shapes: pieces with half their gap, design mm.
        half_mm: half the gap.
        angles: turns that are tried, degrees clockwise.
        panels: what panels of other lengths offer, where it may be cut shorter; None where marks do not hold.
    """

    def __init__(
        self,
        area: UsableArea,
        shapes: Mapping[str, shapely.Polygon],
        half_mm: float,
        angles: Sequence[float],
        panels: Panels | None = None,
    ) -> None:
        self.angles = tuple(angles)
        self.left, self.top = area.left_mm - half_mm, area.top_mm - half_mm
        self.width_mm = area.right_mm + half_mm - self.left
        self.height_mm = area.bottom_mm + half_mm - self.top
        self.cell = self._cell(shapes)
        self.size = int(self.height_mm / self.cell), int(self.width_mm / self.cell)
        self._padded = [fft.next_fast_len(n, True) for n in self.size]
        self._obstacles: list[shapely.Geometry] = list(_obstacles(area, half_mm))
        self._area, self._half, self._panels = area, half_mm, panels
        self._shorter: dict[float, list[shapely.Geometry]] = {}
        self._keep = len(shapes) * len(self.angles) <= MOST_KEPT
        self.turned = {key: [self._turn(key, shape, a) for a in self.angles] for key, shape in shapes.items()}
        every = [turned for turns in self.turned.values() for turned in turns]
        inside = [turned.inside for turned in every]
        self.pairs = (
            Pairs(inside, [t.depth for t in every]) if every and entries(inside) <= MOST_ENTRIES else None
        )
        """Of all turned pieces, in their order; None where they are too many."""

    @property
    def cells(self) -> int:
        """Of one transform."""
        return self._padded[0] * self._padded[1]

    def takes(self, key: str) -> bool:
        """Whether a piece is no larger than the sheet, turned as it may be."""
        rows, columns = self.size
        return any(t.inside.shape[0] <= rows and t.inside.shape[1] <= columns for t in self.turned[key])

    def of_one_length(self, standing: Sequence[shapely.Polygon] = ()) -> "Board":
        """The same sheet as long as it is, with pieces that keep their place, with half their gap, sheet mm."""
        other = copy.copy(self)
        other._panels, other._obstacles, other._shorter = None, [*self._obstacles, *standing], {}
        return other

    @property
    def tail_mm(self) -> float:
        """How much of its end marks and the like take."""
        middle = self.top + self.height_mm / 2
        tops = [each.bounds[1] for each in self._obstacles if each.centroid.y > middle]
        return self.top + self.height_mm - min(tops, default=self.top + self.height_mm)

    def obstacles(self, length_mm: float) -> list[shapely.Geometry]:
        """What no piece with half its gap may overlap, sheet mm, where the sheet is so long.

        They are the caller's own: two threads that ask one prepared shape end the process.
        """
        return list(shapely.transform(self._there(length_mm), np.copy))

    def _there(self, length_mm: float) -> list[shapely.Geometry]:
        shorter = self.area_of(length_mm)
        if shorter is self._area:
            return self._obstacles
        if length_mm not in self._shorter:
            everything = (self.left, self.top, self.left + self.width_mm, self.top + self.height_mm)
            there = [shapely.box(*everything)] if shorter is None else list(_obstacles(shorter, self._half))
            self._shorter[length_mm] = there
        return self._shorter[length_mm]

    def area_of(self, length_mm: float) -> UsableArea | None:
        """What may be cut where the panel is shorter; of a sheet all of it. None where marks do not hold."""
        by = self.height_mm - length_mm
        return (
            self._area if self._panels is None or by <= 0 else self._panels(self._area.stock.height_mm - by)
        )

    def blocked(self, length_mm: float) -> Floats:
        """(rows, columns): how many cells deep a place is in what may not be overlapped; 0 where it is free."""
        rows, columns = self.size
        y = self.top + (np.arange(rows) + 0.5) * self.cell
        x = self.left + (np.arange(columns) + 0.5) * self.cell
        taken = np.zeros(self.size, bool)
        for each in self.obstacles(length_mm):
            left, top, right, bottom = each.bounds
            down, across = (y >= top) & (y <= bottom), (x >= left) & (x <= right)
            shapely.prepare(each)
            taken[np.ix_(down, across)] |= shapely.contains_xy(each, *np.meshgrid(x[across], y[down]))
        # Marks go on beyond the edge: their middle is as deep there as it is inside.
        beyond = np.pad(taken, 20, mode="edge")
        return np.asarray(ndimage.distance_transform_edt(beyond)[20:-20, 20:-20], np.float32)

    def room(self) -> Floats:
        """Zeros of the size that is transformed; rows and columns of the sheet come first."""
        return np.zeros(self._padded, np.float32)

    def field(self, whole: Floats) -> NDArray[np.complex64]:
        """The transform of what pieces would overlap."""
        return np.asarray(fft.rfft2(whole))

    def met(self, field: NDArray[np.complex64], key: str, turn: int) -> Floats:
        """What a turned piece overlaps of a field, for each cell its box may begin in; empty when it never fits."""
        rows, columns = self.free(key, turn)
        if not rows or not columns:
            return np.zeros((0, 0), np.float32)
        piece = self.turned[key][turn]
        own = self._spectrum(piece.inside) if piece.spectrum is None else piece.spectrum
        return np.asarray(fft.irfft2(field * own, self._padded))[:rows, :columns]

    def free(self, key: str, turn: int) -> tuple[int, int]:
        """Rows and columns in which the box of a turned piece may begin; none where it never fits."""
        rows, columns = self.turned[key][turn].inside.shape
        return max(0, self.size[0] - rows + 1), max(0, self.size[1] - columns + 1)

    def shape(self, spot: Spot) -> shapely.Polygon:
        """A copy with half its gap, sheet mm."""
        at = self.at(spot)
        return shapely.transform(self.turned[spot.key][spot.turn].shape, lambda xy: xy + at)

    def at(self, spot: Spot) -> tuple[float, float]:
        """Where its box begins, sheet mm."""
        return self.left + spot.x * self.cell, self.top + spot.y * self.cell

    def spot(self, key: str, turn: int, at: Sequence[float]) -> Spot:
        """The cell nearest to where a turned piece's box begins, sheet mm."""
        rows, columns = self.turned[key][turn].inside.shape
        x, y = round((at[0] - self.left) / self.cell), round((at[1] - self.top) / self.cell)
        most_x, most_y = self.size[1] - columns, self.size[0] - rows
        return Spot(key, turn, min(max(x, 0), max(0, most_x)), min(max(y, 0), max(0, most_y)))

    def placement(self, key: str, turn: int, at: Sequence[float]) -> Placement:
        """A turned piece whose box begins there, sheet mm."""
        piece = self.turned[key][turn]
        return pose(key, piece.laid.rotation_deg, at[0] - piece.from_mm[0], at[1] - piece.from_mm[1])

    def _cell(self, shapes: Mapping[str, shapely.Polygon]) -> float:
        boxes = np.array([shape.bounds for shape in shapes.values()])
        narrow = float((boxes[:, 2:] - boxes[:, :2]).min(initial=1e9))
        least = (self.width_mm * self.height_mm / MOST_CELLS) ** 0.5
        usual = max(least, float(np.clip(narrow / CELLS_ACROSS, *CELL_MM)))
        tried = np.maximum(usual * FINER, least)
        return float(tried[np.argmin(sum(_missed(shape, tried) for shape in shapes.values()))])

    def _turn(self, key: str, shape: shapely.Polygon, angle: float) -> Turned:
        laid = pose(key, angle, 0.0, 0.0)
        turned = placed(shape, laid)
        left, top, right, bottom = turned.bounds
        turned = shapely.transform(turned, lambda xy: xy - (left, top))
        columns = min(int(np.ceil((right - left) / self.cell)), self.size[1] + 1)
        rows = min(int(np.ceil((bottom - top) / self.cell)), self.size[0] + 1)
        shapely.prepare(turned)
        x, y = np.meshgrid((np.arange(columns) + 0.5) * self.cell, (np.arange(rows) + 0.5) * self.cell)
        inside = shapely.contains_xy(turned, x, y)
        depth = ndimage.distance_transform_edt(np.pad(inside, 1))[1:-1, 1:-1]
        picture = inside.astype(np.float32)
        fits = rows <= self.size[0] and columns <= self.size[1]
        own = self._spectrum(picture) if self._keep and fits else None
        return Turned(laid, turned, (left, top), picture, exact(depth.astype(np.float32)), own)

    def _spectrum(self, picture: Floats) -> NDArray[np.complex64]:
        return np.asarray(np.conj(fft.rfft2(picture, self._padded)))


def _missed(shape: shapely.Polygon, cells: NDArray[np.float64]) -> NDArray[np.float64]:
    """By how much straight sides, turned by quarters, are off their place on a raster, for each size of its cells, mm
    times their length; where they would overlap that counts for more."""
    points = shapely.get_coordinates(shapely.normalize(shape).exterior)
    way = np.diff(points, axis=0)
    missed = np.zeros(len(cells))
    for axis in (0, 1):
        # The way round is clockwise: what is outside lies to its left.
        along = np.where(np.abs(way[:, axis]) < STRAIGHT * np.abs(way[:, 1 - axis]), way[:, 1 - axis], 0.0)
        side = np.sign(along) * (1 if axis else -1)
        begin, end = points[:, axis].min(), points[:, axis].max()
        for at, outward in ((points[:-1, axis] - begin, side), (end - points[:-1, axis], -side)):
            off = (np.round(at / cells[:, None]) * cells[:, None] - at) * outward
            missed += (np.where(off > 0, off, -OVERLAPPING * off) * np.abs(along)).sum(axis=1)
    return missed


def _obstacles(area: UsableArea, half_mm: float) -> list[shapely.Polygon]:
    """What is no part of an area within its box, less so much that a piece with half its gap which does not overlap it
    has no part of itself in there: it meets a corner before straight sides."""
    box = (area.left_mm - half_mm, area.top_mm - half_mm, area.right_mm + half_mm, area.bottom_mm + half_mm)
    grown = shapely.buffer(area.polygon, half_mm * ROOT_HALF, join_style="mitre")
    taken = shapely.difference(shapely.box(*box), grown)
    # Without the rim between the grown area and the grown box.
    rim = half_mm * (1 - ROOT_HALF) * 0.6
    opened = shapely.buffer(shapely.buffer(taken, -rim, join_style="mitre"), rim, join_style="mitre")
    return [part for part in shapely.get_parts(opened) if part.area > 0]
