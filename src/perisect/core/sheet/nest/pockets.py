"""Room for one more: every place on a sheet where a shape stands free, found on a fine raster."""

import copy
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from scipy import fft

from perisect.core.sheet.placement import Placement, placed, pose
from perisect.core.sheet.turns import ANGLES, Turns
from perisect.core.sheet.usable import UsableArea

PX_PER_MM = 2.0
SLACK_MM = 0.36
"""Half a pixel's diagonal: what the raster may be wrong by."""
HAIR_MM = 0.01
"""Pieces without a gap come so near to each other: touching, never overlapping."""
MOST_KEPT = 100
"""Transforms of turned shapes that are kept, 2 MB each; of more each is made when it is needed."""
MOST_TRIED = 40
"""Places of one turn that are measured exactly before the turn is given up."""


@dataclass(frozen=True)
class _Mask:
    """A turned shape on the raster: as it lies at the origin, where its box begins in mm, its picture, and its
    transform if it is kept."""

    laid: Placement
    shape: shapely.Polygon
    box: tuple[float, float]
    picture: NDArray[np.uint8]
    spectrum: NDArray[np.complex128] | None

    @property
    def size(self) -> tuple[int, int]:
        """Height and width of its box, px."""
        return self.picture.shape[0], self.picture.shape[1]


class Pockets:
    """A sheet with what stands on it; further pieces are put where they fit.

    Args:
        area: what may be cut.
        shapes: what each piece takes, by design, design mm.
        gap_mm: least distance between pieces.
        turns: which turns are tried.
    """

    def __init__(
        self, area: UsableArea, shapes: Mapping[str, shapely.Polygon], gap_mm: float, turns: Turns
    ) -> None:
        self._area, self._shapes, self._gap = area, shapes, max(gap_mm, HAIR_MM)
        self._left, self._top, right, bottom = area.polygon.bounds
        height = int(np.ceil((bottom - self._top) * PX_PER_MM)) + 2
        width = int(np.ceil((right - self._left) * PX_PER_MM)) + 2
        self._frame = (height, width)
        self._occupied = np.ones(self._frame, np.uint8)
        cv2.fillPoly(self._occupied, [self._px(np.asarray(area.polygon.exterior.coords))], 0)
        cv2.polylines(self._occupied, [self._px(np.asarray(area.polygon.exterior.coords))], True, 0)
        for hole in area.polygon.interiors:
            cv2.fillPoly(self._occupied, [self._px(np.asarray(hole.coords))], 1)
        self._size = [fft.next_fast_len(n, True) for n in self._frame]
        self._masks = {key: self._turns(key, ANGLES[turns]) for key in shapes}
        self._standing: list[shapely.Geometry] = []
        self._spectrum: NDArray[np.complex128] | None = None

    def occupy(self, shapes: Sequence[shapely.Geometry]) -> None:
        """Let shapes (sheet mm) stand where they are."""
        for shape in shapes:
            inflated = shapely.buffer(shape, max(self._gap - SLACK_MM, 0.0), quad_segs=4)
            for part in shapely.get_parts(inflated):
                cv2.fillPoly(self._occupied, [self._px(np.asarray(part.exterior.coords))], 1)
        self._standing += list(shapes)
        self._spectrum = None

    def copy(self) -> "Pockets":
        """The same sheet, to be filled in another way."""
        other = copy.copy(self)
        other._occupied, other._standing = self._occupied.copy(), list(self._standing)
        return other

    def put(self, key: str) -> Placement | None:
        """The place for one more of a design that lies nearest to the top, then the left, and takes it;
        None where there is none."""
        if self._spectrum is None:
            self._spectrum = fft.rfft2(self._occupied.astype(np.float32), self._size)
        best: tuple[float, Placement, shapely.Geometry] | None = None
        for mask in self._masks[key]:
            found = self._first(mask, best[0] if best else np.inf)
            if found is not None:
                best = found
        if best is None:
            return None
        self.occupy([best[2]])
        return best[1]

    def _turns(self, key: str, angles: Sequence[float]) -> list[_Mask]:
        masks = []
        for angle in angles:
            laid = pose(key, angle, 0.0, 0.0)
            shape = placed(self._shapes[key], laid)
            left, top, right, bottom = shape.bounds
            size = (int((bottom - top) * PX_PER_MM) + 1, int((right - left) * PX_PER_MM) + 1)
            if size[0] >= self._frame[0] or size[1] >= self._frame[1]:
                continue
            picture = np.zeros(size, np.uint8)
            points = (np.asarray(shape.exterior.coords) - (left, top)) * PX_PER_MM
            cv2.fillPoly(picture, [np.round(points).astype(np.int32)], 1)
            keep = len(self._shapes) * len(angles) <= MOST_KEPT
            masks.append(_Mask(laid, shape, (left, top), picture, self._transform(picture) if keep else None))
        return masks

    def _transform(self, picture: NDArray[np.uint8]) -> NDArray[np.complex128]:
        """Turned by half, so that a convolution with it is a correlation."""
        return np.asarray(fft.rfft2(picture[::-1, ::-1].astype(np.float32), self._size))

    def _first(self, mask: _Mask, limit: float) -> tuple[float, Placement, shapely.Geometry] | None:
        """The best free place of a turn that costs less than `limit`, measured exactly."""
        assert self._spectrum is not None
        mine = self._transform(mask.picture) if mask.spectrum is None else mask.spectrum
        met = fft.irfft2(self._spectrum * mine, self._size)
        rows, columns = self._frame[0] - mask.size[0], self._frame[1] - mask.size[1]
        # Row after row is the order of what a place costs, and rows that cost more than the limit are not looked at.
        most = rows if limit == np.inf else min(rows, max(0, int(limit) - mask.size[0] + 1))
        free = met[mask.size[0] - 1 :, mask.size[1] - 1 :][:most, :columns] < 0.5
        places = np.flatnonzero(free)
        if len(places) > MOST_TRIED:
            places = places[: MOST_TRIED * 8 : 8]
        for y, x in zip(*(each.tolist() for each in np.divmod(places, columns)), strict=True):
            cost = y + mask.size[0] + x * 1e-3
            if cost >= limit:
                return None
            at = (self._left + x / PX_PER_MM - mask.box[0], self._top + y / PX_PER_MM - mask.box[1])
            shape = shapely.transform(mask.shape, lambda xy, at=at: xy + at)
            if self._is_free(shape):
                return cost, replace(mask.laid, x_mm=at[0], y_mm=at[1]), shape
        return None

    def _is_free(self, shape: shapely.Geometry) -> bool:
        if not self._area.holds(shape):
            return False
        if not self._standing:
            return True
        # Only those whose boxes come near are measured.
        left, top, right, bottom = shape.bounds
        boxes = shapely.bounds(self._standing)
        apart = np.maximum(boxes[:, :2] - (right, bottom), (left, top) - boxes[:, 2:]).max(axis=1)
        near = np.array(self._standing)[apart < self._gap]
        return not len(near) or bool(shapely.distance(near, shape).min() >= self._gap - 1e-6)

    def _px(self, points: NDArray[np.float64]) -> NDArray[np.int32]:
        return np.round((points - (self._left, self._top)) * PX_PER_MM).astype(np.int32)


def fill_pockets(
    pockets: Pockets, queue: Sequence[str], stopping: Callable[[], bool] = lambda: False
) -> list[Placement]:
    """As many of the queued pieces as find a place; a design that found none is not tried again."""
    laid: list[Placement] = []
    full: set[str] = set()
    for key in queue:
        if key in full or stopping():
            continue
        place = pockets.put(key)
        if place is None:
            full.add(key)
        else:
            laid.append(place)
    return laid
