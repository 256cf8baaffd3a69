"""Sharp tips, which half coverage always cuts short.

Where a tip is narrower than half a pixel, or than a pixel that it shares with the next row, no pixel is half
covered, so the iso-line ends early in a blunt nose: by a pixel and a half, or by four where the tip is slim. The
two straight flanks still say where the tip is, and the coverage beyond the nose says whether it is there: they are
carried on to where they meet, and a round end stays round.
"""

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.lines.bent_tips import SHARP, between_bent_flanks
from perisect.core.lines.tip_profile import follow

FLANK_PX = 4.0
"""An edge at least this long counts as a straight flank."""

NOSE_PX = 15.0
"""A nose, from flank to flank, longer than this is a round end of the art, not a blunted tip."""

REACH_PX = 2.4
MOST_REACH_PX = 4.0
"""A tip further beyond its nose than half coverage can explain is not there: it is lost where it is narrower than a
pixel, within so much of its end that a slim one is lost for longer."""

MOST_BACK_PX = 2.5
"""So far beyond its end a tip may have been drawn out by flanks that bend."""

THERE = 0.45
"""A tip is there when so much of its outer half is covered, of what a sharp one covers."""

NO_TIPS = np.empty((0, 2))

ALONG, ACROSS = 12, 9
STRIP_PX = 2.0
"""A tip's coverage is looked for so far to both sides of its axis."""


@dataclass(frozen=True)
class Coverage:
    """(h, w) coverage whose first pixel begins at (`left`, `top`)."""

    values: NDArray[np.uint8]
    left: int
    top: int

    def at(self, places: NDArray[np.float64]) -> NDArray[np.float64]:
        """Coverage 0 to 1 at (..., 2) places, between pixel centres; beyond the edge as at it."""
        height, width = self.values.shape
        x = np.clip(places[..., 0] - self.left - 0.5, 0, width - 1)
        y = np.clip(places[..., 1] - self.top - 0.5, 0, height - 1)
        column, row = np.minimum(x.astype(int), width - 2), np.minimum(y.astype(int), height - 2)
        u, v = x - column, y - row
        # Numbers of pixels in one row are looked up in half the time of rows and columns.
        at, flat = row * width + column, self.values.ravel()
        upper = flat.take(at) * (1 - u) + flat.take(at + 1) * u
        lower = flat.take(at + width) * (1 - u) + flat.take(at + width + 1) * u
        return np.asarray((upper * (1 - v) + lower * v) / 255)


def sharpen(rings: NDArray[np.object_], coverage: Coverage) -> NDArray[np.object_]:
    """Linear rings (pixels) with each blunted tip drawn out to its end, if it is there."""
    return between_bent_flanks(*_between_flanks(rings, coverage), coverage)


def _between_flanks(
    rings: NDArray[np.object_], coverage: Coverage
) -> tuple[NDArray[np.object_], NDArray[np.float64]]:
    """Tips that two straight flanks lead to; and where those are that could be followed to their end, (n, 2)."""
    points, ring = shapely.get_coordinates(rings, return_index=True)
    closing = np.flatnonzero(np.diff(ring, append=-1))
    points, ring = np.delete(points, closing, axis=0), np.delete(ring, closing)
    first = np.flatnonzero(np.diff(ring, prepend=-1))
    last = np.append(first[1:], len(ring)) - 1
    following = np.arange(1, len(ring) + 1)
    following[last] = first

    edge = points[following] - points
    length = np.hypot(edge[:, 0], edge[:, 1])
    flank = np.flatnonzero(length >= FLANK_PX)
    if len(flank) < 2:
        return rings, NO_TIPS
    # The flank that comes next round the same ring.
    flank_ring = ring[flank]
    opens = np.flatnonzero(np.diff(flank_ring, prepend=-1))
    closes = np.append(opens[1:], len(flank)) - 1
    after = np.arange(1, len(flank) + 1)
    after[closes] = opens
    start, stop = following[flank], flank[after]  # first and last point of each nose

    run = np.concatenate([[0.0], np.cumsum(length)])
    around = (run[last + 1] - run[first])[np.searchsorted(ring[first], flank_ring)]
    nose = np.mod(run[stop] - run[start], around)

    before = edge[flank] / length[flank, None]
    beyond = edge[stop] / length[stop, None]
    turn = before[:, 0] * beyond[:, 1] - before[:, 1] * beyond[:, 0]
    apart = points[stop] - points[start]
    parallel = np.abs(turn) < 1e-6
    turn = np.where(parallel, 1.0, turn)
    reach = (apart[:, 0] * beyond[:, 1] - apart[:, 1] * beyond[:, 0]) / turn
    back = (apart[:, 0] * before[:, 1] - apart[:, 1] * before[:, 0]) / turn
    tip = points[start] + before * reach[:, None]
    nosed = (
        (start != stop)
        & (flank != stop)
        & ~parallel
        & (np.sum(before * beyond, axis=1) <= -SHARP)
        & (nose <= NOSE_PX)
        & (reach > 0)
        & (back < 0)
    )
    opening = np.arccos(np.clip(-np.sum(before * beyond, axis=1), -1, 1))
    most = np.clip(0.6 / np.tan(np.maximum(opening, 1e-3) / 2) + 0.6, REACH_PX, MOST_REACH_PX)
    middle, of_art = (points[start] + points[stop]) / 2, turn > 0
    blunt = nosed.copy()
    lost = shapely.distance(shapely.points(tip[blunt]), rings[flank_ring[blunt]])
    blunt[blunt] = lost <= most[blunt]
    blunt[blunt] = _is_there(middle[blunt], tip[blunt], opening[blunt], of_art[blunt], coverage)
    seen, followed, end = follow(middle[nosed], (before - beyond)[nosed], of_art[nosed], coverage)
    those = np.flatnonzero(nosed)
    blunt[those[seen]] = followed[seen]
    tip[those[followed]] = end[followed]
    sure = those[followed]
    # Bent flanks meet too far out, and from their nose the strip may hold less than the tip alone: looked at again from
    # where they meet.
    drawn = those[~seen & blunt[those]]
    _, followed, end = follow(tip[drawn], (before - beyond)[drawn], of_art[drawn], coverage, -MOST_BACK_PX)
    tip[drawn[followed]] = end[followed]
    sure = tip[np.concatenate([sure, drawn[followed]])]
    start, stop, tip = start[blunt], stop[blunt], tip[blunt]
    if len(start) == 0:
        return rings, NO_TIPS

    points[start] = tip
    wraps = start > stop
    dropped = np.zeros(len(points) + 1, np.int64)
    home = np.searchsorted(first, start, side="right") - 1
    np.add.at(dropped, start + 1, 1)
    np.add.at(dropped, np.where(wraps, last[home], stop) + 1, -1)
    np.add.at(dropped, first[home[wraps]], 1)
    np.add.at(dropped, stop[wraps] + 1, -1)
    kept = np.cumsum(dropped[:-1]) == 0
    sharpened = shapely.linearrings(points[kept], indices=np.unique(ring[kept], return_inverse=True)[1])
    return (sharpened, sure) if len(sharpened) == len(rings) else (rings, NO_TIPS)


def _is_there(
    nose: NDArray[np.float64],
    tip: NDArray[np.float64],
    opening: NDArray[np.float64],
    of_art: NDArray[np.bool_],
    coverage: Coverage,
) -> NDArray[np.bool_]:
    """Whether tips (n, 2) are covered as sharp ones are, over the outer half of the way from their nose; those that are
    not `of_art` point into it, and what counts is what is left bare."""
    axis = tip - nose
    length = np.hypot(axis[:, 0], axis[:, 1])
    axis = axis / np.maximum(length, 1e-9)[:, None]
    side = np.column_stack([-axis[:, 1], axis[:, 0]])
    half = length / 2
    # Half a pixel further: that is how far a pixel's box blurs.
    reach = half + 0.5
    along = half[:, None] + reach[:, None] * (np.arange(ALONG) + 0.5) / ALONG
    across = STRIP_PX * (2 * (np.arange(ACROSS) + 0.5) / ACROSS - 1)
    places = (
        nose[:, None, None]
        + along[:, :, None, None] * axis[:, None, None]
        + across[None, None, :, None] * side[:, None, None]
    )
    covered = coverage.at(places)
    covered = np.where(of_art[:, None, None], covered, 1 - covered)
    area = covered.mean(axis=(1, 2)) * reach * 2 * STRIP_PX
    return np.asarray(area >= THERE * half**2 * np.tan(opening / 2))
