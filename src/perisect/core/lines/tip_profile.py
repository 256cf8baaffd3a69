"""Where a tip ends, from how its width falls along its axis.

Coverage summed across the axis is the tip's width there, however it falls on the pixels, also where no pixel is half
covered; summed along it as well it is the area that is left to the end. A width that falls as m d + k d² with the
distance d to the end, and an area of m d² / 2 + k d³ / 3, say where the end is (least squares by Gauss's and Newton's
steps). A round end has less area than its flanks promise.
"""

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

Reals = NDArray[np.float64]
Mask = NDArray[np.bool_]

INSIDE_PX, OUTSIDE_PX, STATION_PX = 16, 12, 0.5
"""A tip is looked at so far to both sides of its nose, at steps of which a wide one has some too."""
HALF_STRIP_PX, ACROSS = 6.0, 25
"""And so far to both sides of its axis, at so many places."""
CLEAR = 0.02
"""Where there is more than this at the strip's edges, it holds other art as well."""
WIDEST_PX, LEAST_PX = 8.0, 0.8
"""Widths that count: beyond them flanks bend too far, or a pixel's box and the noise of the coverage tell."""
BLUR_PX = 1.5
"""So near the end a pixel's box widens the tip; only its area counts."""
THICK_PX = 4.0
"""Area is compared from here on."""
AREA = 0.3
"""What a square pixel of area counts beside a pixel of width."""
STEPS = 6
LEAST_STATIONS = 6
MOST_OFF_PX, MOST_OFF_PX2 = 0.18, 0.3
"""Width (rms) and area (anywhere) may leave the sharp tip's so far, else it is none."""
MOST_SLOPE = 1.7
"""Width a pixel of length: tips of 80 degrees and less."""
NEAREST_PX, FURTHEST_PX = 0.2, 11.0
"""Beyond its nose a tip ends somewhere here."""
LOST_PX = 1.5, 0.3
"""A tip ends at most so much over its slope beyond its nose, and so much more: half coverage ends half a pixel over
the slope before a slim tip, where its axis lies between two rows a pixel, and a quarter of one before 80 degrees."""
MOST_ASIDE_PX = 2.0
AT_ONCE, MOST = 256, 2048
"""Noses looked at together, for each takes some 140 kB; and how many at most: art with more of them is noise."""


class HasCoverage(Protocol):
    """A picture of coverage."""

    def at(self, places: Reals) -> Reals:
        """Coverage 0 to 1 at (..., 2) places."""


def follow(
    nose: Reals, axis: Reals, of_art: Mask, coverage: HasCoverage, nearest_px: float = NEAREST_PX
) -> tuple[Mask, Mask, Reals]:
    """Follow tips from their blunted noses outwards.

    Args:
        nose: (n, 2) pixels.
        axis: (n, 2) which way they point, of any length.
        of_art: (n,) whether they are tips of the art, not of what it leaves bare.
        nearest_px: the least way from the nose to the end; negative where they may have been drawn out too far.

    Returns:
        (n,) whether it can be seen what they are, (n,) whether they are sharp, (n, 2) where they end if so.
    """
    count = min(len(nose), MOST)
    seen, is_sharp = np.zeros((2, len(nose)), bool)
    end = nose.copy()
    for begin in range(0, count, AT_ONCE):
        part = slice(begin, min(begin + AT_ONCE, count))
        seen[part], is_sharp[part], end[part] = _follow(
            nose[part], axis[part], of_art[part], coverage, nearest_px
        )
    return seen, is_sharp, end


def _follow(
    nose: Reals, axis: Reals, of_art: Mask, coverage: HasCoverage, nearest_px: float
) -> tuple[Mask, Mask, Reals]:
    axis = axis / np.maximum(np.hypot(axis[:, 0], axis[:, 1]), 1e-9)[:, None]
    side = np.column_stack([-axis[:, 1], axis[:, 0]])
    stations = np.arange(-INSIDE_PX, OUTSIDE_PX + STATION_PX / 2, STATION_PX)
    nose_at = int(INSIDE_PX / STATION_PX)
    across = np.linspace(-HALF_STRIP_PX, HALF_STRIP_PX, ACROSS)
    places = (
        nose[:, None, None]
        + stations[None, :, None, None] * axis[:, None, None]
        + across[None, None, :, None] * side[:, None, None]
    )
    covered = coverage.at(places)
    covered = np.where(of_art[:, None, None], covered, 1 - covered)
    step = across[1] - across[0]
    width = covered.sum(axis=2) * step
    middle = (covered * across).sum(axis=2) * step / np.maximum(width, 1e-3)
    alone = (np.maximum(covered[:, :, 0], covered[:, :, -1]) < CLEAR) & (width <= WIDEST_PX)
    # As far from the nose both ways as the strip holds the tip alone.
    inwards = np.cumprod(alone[:, nose_at::-1], axis=1)[:, ::-1] > 0
    outwards = np.cumprod(alone[:, nose_at:], axis=1) > 0
    alone = np.concatenate([inwards, outwards[:, 1:]], axis=1)
    beyond = np.where(alone, width, 0) * STATION_PX
    area = np.cumsum(beyond[:, ::-1], axis=1)[:, ::-1] - beyond / 2
    use = alone & (width >= LEAST_PX)
    along = np.broadcast_to(stations, width.shape)

    begin = _fitted(width, along, use)
    end, slope, bend = begin[:, 0], 1 / np.maximum(-begin[:, 1], 0.05), np.zeros(len(begin))
    thick = use & (width <= THICK_PX)
    for _ in range(STEPS):
        d, m, k = end[:, None] - along, slope[:, None], bend[:, None]
        near = use & (d >= BLUR_PX)
        d2 = d * d
        d3 = d2 * d
        off_width = np.where(near, width - (m * d + k * d2), 0)
        off_area = np.where(thick, area - (m * d2 / 2 + k * d3 / 3), 0)
        by_width = np.stack([m + 2 * k * d, d, d2], axis=1) * near[:, None]
        by_area = np.stack([m * d + k * d2, d2 / 2, d3 / 3], axis=1) * thick[:, None]
        normal = _square(by_width) + AREA * _square(by_area) + np.diag([1e-6, 1e-6, 1e-2])
        right = _times(by_width, off_width) + AREA * _times(by_area, off_area)
        change = np.linalg.solve(normal, right[..., None])[..., 0]
        end = end + np.clip(change[:, 0], -2, 2)
        slope = np.clip(slope + change[:, 1], 0.02, 3)
        bend = np.clip(bend + change[:, 2], -0.2, 0.2)

    count = near.sum(axis=1)
    aside = _fitted(along - end[:, None], middle, near)[:, :1]
    is_sharp = (
        (count >= LEAST_STATIONS)
        & (np.square(off_width).sum(axis=1) < MOST_OFF_PX**2 * np.maximum(count, 1))
        & (np.abs(off_area).max(axis=1) < MOST_OFF_PX2)
        & (slope < MOST_SLOPE)
        & (end > nearest_px)
        & (end < np.minimum(FURTHEST_PX, LOST_PX[0] / slope + LOST_PX[1]))
        & (np.abs(aside[:, 0]) < MOST_ASIDE_PX)
    )
    return count >= LEAST_STATIONS, is_sharp, nose + axis * end[:, None] + side * aside


def _square(of: Reals) -> Reals:
    """(n, 3, 3) of (n, 3, stations)."""
    return np.asarray(of @ of.swapaxes(1, 2))


def _times(of: Reals, value: Reals) -> Reals:
    return np.asarray((of @ value[..., None])[..., 0])


def _fitted(of: Reals, value: Reals, use: Mask) -> Reals:
    """(n, 3) coefficients of the parabola of a value by another, by least squares."""
    powers = np.stack([np.ones_like(of), of, of * of], axis=1) * use[:, None]
    # Where hardly anything is seen, no more than a straight line.
    normal = _square(powers) + np.diag([1e-9, 1e-9, 1e-3])
    return np.asarray(np.linalg.solve(normal, _times(powers, np.where(use, value, 0))[..., None])[..., 0])
