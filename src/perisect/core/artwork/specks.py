"""Stray dots: loose pieces of the art too small to be meant."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.picture import alpha_of
from perisect.core.artwork.recipe import Place

MOST_LISTED = 200


@dataclass(frozen=True)
class LoosePart:
    """A loose piece of the art: area in px², its middle, and a pixel of it that names it."""

    area_px: float
    x_px: float
    y_px: float
    place: Place

    def moved(self, x: int, y: int) -> "LoosePart":
        """The same part by places of the whole that this picture is a part of."""
        return LoosePart(self.area_px, self.x_px + x, self.y_px + y, (self.place[0] + x, self.place[1] + y))


@dataclass(frozen=True)
class _Parts:
    """Pieces that hang together where anything at all is covered, with the half-covered area of each."""

    labels: NDArray[np.int32]
    area: NDArray[np.float64]
    middles: NDArray[np.float64]

    def at(self, places: tuple[Place, ...]) -> list[int]:
        """Numbers of the pieces at some places; places beside the art name none."""
        height, width = self.labels.shape
        return [int(self.labels[y, x]) for x, y in places if x < width and y < height and self.labels[y, x]]

    def places(self, numbers: NDArray[np.int64]) -> list[Place]:
        """The first pixel of each of some pieces, in reading order of its pixels."""
        flat = self.labels.ravel()
        where = np.flatnonzero(np.isin(flat, numbers))
        named, first = np.unique(flat[where], return_index=True)
        y, x = np.divmod(where[first], self.labels.shape[1])
        by_number = dict(zip(named.tolist(), zip(x.tolist(), y.tolist(), strict=True), strict=True))
        return [by_number[int(n)] for n in numbers]


def _parts(rgba: NDArray[np.uint8]) -> _Parts:
    alpha = alpha_of(rgba)
    _, labels, stats, middles = cv2.connectedComponentsWithStats(cv2.inRange(alpha, 1, 255), connectivity=8)
    covered = np.bincount(labels.ravel(), weights=(alpha.ravel() >= 128), minlength=len(stats))
    return _Parts(
        np.asarray(labels, np.int32), np.asarray(covered, np.float64), np.asarray(middles, np.float64)
    )


def loose_parts(rgba: NDArray[np.uint8]) -> tuple[LoosePart, ...]:
    """All pieces but the largest, smallest first."""
    parts = _parts(rgba)
    if len(parts.area) < 3:
        return ()
    order = np.argsort(parts.area[1:])[:-1][:MOST_LISTED] + 1
    places = parts.places(order)
    return tuple(
        LoosePart(float(parts.area[n]), float(parts.middles[n][0]), float(parts.middles[n][1]), place)
        for n, place in zip(order, places, strict=True)
    )


def without_specks(
    rgba: NDArray[np.uint8],
    smaller_than_px2: float,
    kept: tuple[Place, ...] = (),
    gone: tuple[Place, ...] = (),
) -> NDArray[np.uint8]:
    """The picture without loose pieces of less than this area; the largest piece always stays.

    Args:
        kept: a place on each piece that stays although it is small.
        gone: a place on each piece that goes although it is not.
    """
    parts = _parts(rgba)
    out_of = parts.area < smaller_than_px2
    out_of[parts.at(kept)] = False
    out_of[parts.at(gone)] = True
    out_of[0] = False
    if len(parts.area) > 1:
        out_of[1 + int(parts.area[1:].argmax())] = False
    if not out_of.any():
        return rgba
    out = rgba.copy()
    out[out_of[parts.labels]] = 0
    return out
