"""Ground that hangs together with the picture's edge, and the patches of it that art encloses."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

LEAST_ISLAND_PX = 24
MOST_ISLANDS = 40


@dataclass(frozen=True)
class Island:
    """A patch of background colour enclosed by art: area, a place in it, and how wide it is at most."""

    area_px: int
    x_px: int
    y_px: int
    width_px: float


@dataclass(frozen=True)
class Flooded:
    """Background that hangs together with the picture's edge, and the enclosed patches that are like it.

    `labels` numbers the patches in a window of the picture, `area` counts their pixels by number.
    """

    ground: NDArray[np.uint8]
    labels: NDArray[np.int32]
    window: tuple[slice, slice]
    area: NDArray[np.int64]
    islands: tuple[Island, ...]

    def at(self, places: tuple[tuple[int, int], ...]) -> list[int]:
        """Numbers of the patches at some places."""
        rows, columns = self.window
        inside = [(x, y) for x, y in places if x in _range(columns) and y in _range(rows)]
        numbers = [int(self.labels[y - rows.start, x - columns.start]) for x, y in inside]
        return [number for number in numbers if number > 0]


def _range(part: slice) -> range:
    return range(part.start, part.stop)


def flood(like: NDArray[np.uint8], knock_out: tuple[tuple[int, int], ...]) -> Flooded:
    """Flood what is like the background from beyond the edge, and out of the patches at some places."""
    ground = from_outside(like)
    enclosed = like & ~ground
    left, top, width, height = cv2.boundingRect(enclosed)
    window = (slice(top, top + height), slice(left, left + width))
    if width == 0:
        return Flooded(ground, np.zeros((0, 0), np.int32), window, np.zeros(1, np.int64), ())
    _, found, described, _ = cv2.connectedComponentsWithStats(enclosed[window], connectivity=4)
    labels, stats = np.asarray(found, np.int32), np.asarray(described, np.int32)
    area = stats[:, cv2.CC_STAT_AREA].astype(np.int64)
    named = np.flatnonzero(area >= LEAST_ISLAND_PX)
    largest = sorted((int(n) for n in named[named > 0]), key=lambda n: -area[n])[:MOST_ISLANDS]
    islands = tuple(_island(labels, stats, n, left, top) for n in largest)
    flooded = Flooded(ground, labels, window, area, islands)
    out = np.zeros(len(area), bool)
    out[flooded.at(knock_out)] = True
    if out.any():
        ground[window] |= out[labels].astype(np.uint8)
    return flooded


def _island(labels: NDArray[np.int32], stats: NDArray[np.int32], number: int, x0: int, y0: int) -> Island:
    left, top, width, height, area = (int(n) for n in stats[number])
    patch = np.pad((labels[top : top + height, left : left + width] == number).astype(np.uint8), 1)
    depth = cv2.distanceTransform(patch, cv2.DIST_L2, 3)
    _, most, _, (x, y) = cv2.minMaxLoc(depth)
    return Island(area, x0 + left + x - 1, y0 + top + y - 1, 2 * float(most))


def from_outside(like: NDArray[np.bool_] | NDArray[np.uint8]) -> NDArray[np.uint8]:
    """1 where what is like the ground hangs together with what is beyond the picture's edge, else 0."""
    around = cv2.copyMakeBorder(like.astype(np.uint8, copy=False), 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=1)
    cv2.floodFill(around, None, (0, 0), 2, flags=4)
    return np.ascontiguousarray(np.asarray(around, np.uint8)[1:-1, 1:-1] >> 1)
