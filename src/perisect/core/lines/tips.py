"""Sharp tips, which half coverage always cuts short.

Where a tip is narrower than half a pixel no pixel is half covered, so the iso-line ends up to a pixel
and a half early in a blunt nose. The two straight flanks still say where the tip is: they are
carried on to where they meet.
"""

import numpy as np
import shapely
from numpy.typing import NDArray

FLANK_PX = 4.0
"""An edge at least this long counts as a straight flank."""

NOSE_PX = 15.0
"""A nose, from flank to flank, longer than this is a round end of the art, not a blunted tip."""

REACH_PX = 2.4
"""A tip further beyond its nose than half coverage can explain is not there."""

SHARP = np.cos(np.radians(80))
"""Flanks that meet at 80 degrees or less; wider corners lose less than a third of a pixel."""


def sharpen(rings: NDArray[np.object_]) -> NDArray[np.object_]:
    """Linear rings (pixels) with each blunted tip drawn out to where its flanks meet."""
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
        return rings
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
    blunt = (
        (start != stop)
        & (flank != stop)
        & ~parallel
        & (np.sum(before * beyond, axis=1) <= -SHARP)
        & (nose <= NOSE_PX)
        & (reach > 0)
        & (back < 0)
    )
    blunt[blunt] = shapely.distance(shapely.points(tip[blunt]), rings[flank_ring[blunt]]) <= REACH_PX
    start, stop, tip = start[blunt], stop[blunt], tip[blunt]
    if len(start) == 0:
        return rings

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
    return sharpened if len(sharpened) == len(rings) else rings
