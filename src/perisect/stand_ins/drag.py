"""How a drag knife's tip trails its swivel axis.

On a straight way the angle p between blade and way falls by the tractrix: tan(p / 2) shrinks by
exp(-s / r) over a distance s with blade offset r (Huygens's tractrix). At a corner p grows by the
turn. With t = tan(p / 2) both are fractional linear maps, so a whole path is a running product of
2 × 2 matrices, taken in log2(n) doubling steps (Hillis and Steele 1986).
"""

import numpy as np
from numpy.typing import NDArray

STEP_MM = 0.1


class Blade:
    """A blade with an offset in mm and a heading in radians, kept from path to path."""

    def __init__(self, offset_mm: float, heading: float) -> None:
        self.offset_mm = offset_mm
        self.heading = heading

    def follow(self, axis: NDArray[np.float64]) -> NDArray[np.float64]:
        """Way of the tip, (m, 2), while the axis goes along an (n, 2) path; the heading is left at its end."""
        path = _refined(axis)
        steps = np.diff(path, axis=0)
        length = np.hypot(steps[:, 0], steps[:, 1])
        steps, length = steps[length > 1e-9], length[length > 1e-9]
        start = path[0]
        if len(steps) == 0:
            return start[None] - self.offset_mm * np.array([[np.cos(self.heading), np.sin(self.heading)]])
        way = np.arctan2(steps[:, 1], steps[:, 0])
        # p = heading - way; passing to a way turned by d takes p to p - d.
        first = self.heading - way[0]
        turn = -np.diff(way, prepend=way[0])
        half = turn / 2
        shrink = np.exp(-length / self.offset_mm)
        # (turn, then shrink): t -> shrink (t + tan h) / (1 - t tan h), with tan h as sin over cos.
        maps = np.empty((len(way), 2, 2))
        maps[:, 0, 0], maps[:, 0, 1] = shrink * np.cos(half), shrink * np.sin(half)
        maps[:, 1, 0], maps[:, 1, 1] = -np.sin(half), np.cos(half)
        total = _running_product(maps)
        begin = np.array([np.sin(first / 2), np.cos(first / 2)])
        ends = total @ begin
        heading = way + 2 * np.arctan2(ends[:, 0], ends[:, 1])
        axis_points = start + np.cumsum(steps, axis=0)
        tips = axis_points - self.offset_mm * np.column_stack([np.cos(heading), np.sin(heading)])
        entry = start - self.offset_mm * np.array([np.cos(self.heading), np.sin(self.heading)])
        self.heading = float(heading[-1])
        return np.vstack([entry, tips])


def _running_product(maps: NDArray[np.float64]) -> NDArray[np.float64]:
    """maps[i] · … · maps[0] for every i; scaled on the way, for only the ratio of rows counts."""
    total = maps.copy()
    reach = 1
    while reach < len(total):
        total[reach:] = total[reach:] @ total[:-reach]
        total /= np.abs(total).max(axis=(1, 2), keepdims=True)
        reach *= 2
    return total


def _refined(path: NDArray[np.float64]) -> NDArray[np.float64]:
    """The path with points at most `STEP_MM` apart."""
    steps = np.diff(path, axis=0)
    pieces = np.maximum(1, np.ceil(np.hypot(steps[:, 0], steps[:, 1]) / STEP_MM)).astype(int)
    which = np.repeat(np.arange(len(steps)), pieces)
    within = np.arange(len(which)) - np.repeat(np.cumsum(pieces) - pieces, pieces) + 1
    between = path[:-1][which] + steps[which] * (within / pieces[which])[:, None]
    return np.vstack([path[:1], between])
