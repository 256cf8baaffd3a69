"""Blunted tips that no straight flanks lead to: where a ring turns back within a few pixels."""

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.lines.tip_profile import HasCoverage, follow

Reals = NDArray[np.float64]

SHARP = np.cos(np.radians(80))
"""Flanks that meet at 80 degrees or less; wider corners lose less than a third of a pixel."""
SEEN_SHARP = np.cos(np.radians(96))
"""Bent flanks whose noses are followed: what is blunted looks wider than it is."""
ARM_PX = 6.0
"""Which way a bent flank goes is seen from so far along it."""
BESIDE_PX = 1.5
"""Nodes so near a blunted tip are its nose's."""


def between_bent_flanks(
    rings: NDArray[np.object_], done: Reals, coverage: HasCoverage
) -> NDArray[np.object_]:
    """Linear rings (pixels) with tips drawn out to where they end; those that are `done`, (n, 2), stay."""
    points, ring = shapely.get_coordinates(rings, return_index=True)
    closing = np.flatnonzero(np.diff(ring, append=-1))
    edge = np.diff(points, axis=0, append=points[:1])
    edge[closing] = 0
    run = np.concatenate([[0.0], np.cumsum(np.hypot(edge[:, 0], edge[:, 1]))])[:-1]
    opening = np.append(0, closing[:-1] + 1)
    around = (run[closing] - run[opening])[ring]
    back, ahead = (
        _beside(points, edge, run, np.column_stack([opening, closing])[ring], way) - points
        for way in (-ARM_PX, ARM_PX)
    )
    turn = np.sum(back * ahead, axis=1) / np.maximum(np.hypot(*back.T) * np.hypot(*ahead.T), 1e-9)
    turn[(around < 4 * ARM_PX) | np.isin(np.arange(len(points)), closing)] = -1
    nose = np.flatnonzero((turn >= SEEN_SHARP) & ~np.isin(points @ (1, 1j), done @ (1, 1j)))
    if not len(nose):
        return rings
    # Of those near each other the sharpest.
    apart = (np.diff(ring[nose], prepend=-1) != 0) | (np.diff(run[nose], prepend=-np.inf) > ARM_PX)
    best = np.maximum.reduceat(turn[nose], np.flatnonzero(apart))
    nose = nose[turn[nose] == best[np.cumsum(apart) - 1]]
    of_art = ahead[nose, 0] * back[nose, 1] - ahead[nose, 1] * back[nose, 0] > 0
    _, is_sharp, end = follow(points[nose], -(back + ahead)[nose], of_art, coverage)
    nose = nose[is_sharp]
    if not len(nose):
        return rings
    points[nose] = end[is_sharp]
    kept = np.ones(len(points), bool)
    after = np.searchsorted(nose, np.arange(len(points)))
    for near in (nose[np.maximum(after - 1, 0)], nose[np.minimum(after, len(nose) - 1)]):
        kept &= (ring[near] != ring) | (np.abs(run[near] - run) >= BESIDE_PX)
    kept[nose] = True
    kept[closing] = False
    drawn = shapely.linearrings(points[kept], indices=np.unique(ring[kept], return_inverse=True)[1])
    return drawn if len(drawn) == len(rings) else rings


def _beside(points: Reals, edge: Reals, run: Reals, ends: NDArray[np.int64], way: float) -> Reals:
    """(n, 2) where one is so far along its ring from each point; `ends` are each ring's first point and its last."""
    first, last = ends.T
    around = np.maximum(run[last] - run[first], 1e-9)
    at = run[first] + np.mod(run - run[first] + way, around)
    on = np.clip(np.searchsorted(run, at, side="right") - 1, first, last)
    length = np.maximum(np.hypot(edge[on, 0], edge[on, 1]), 1e-9)
    return np.asarray(points[on] + edge[on] * np.clip((at - run[on]) / length, 0, 1)[:, None])
