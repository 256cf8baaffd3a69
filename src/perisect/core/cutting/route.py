"""A short way through places, each visited once: 2-opt and Or-opt with lists of neighbours.

The moves are Croes' (A method for solving traveling-salesman problems, 1958) and Or's (1976); only places near each
other are joined (Johnson and McGeoch, The traveling salesman problem: a case study, 1997). What gains is looked for
in all places at once, as arrays; what was found is then done one after the other while it still gains. The same
places give the same way on any machine: nothing depends on a clock.
"""

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

Points = NDArray[np.float64]
Indices = NDArray[np.intp]

NEIGHBOURS = 8
LONGEST_MOVED = 3
"""An Or-move takes so many places along at most."""
GAINS_MM = 1e-7
MOST_SWEEPS = 200


def path_length(places: Points) -> float:
    """Length of the way through (n, 2) places in their order, mm."""
    return float(np.hypot(*np.diff(places, axis=0).T).sum())


def short_route(places: Points, start: Points, order: Indices | None = None) -> Indices:
    """An order of (n, 2) places that makes the way from `start` through all of them short; it ends anywhere.

    Args:
        order: to begin with; the nearest next where there is none.
    """
    if len(places) < 3:
        return nearest_next(places, start)
    first = nearest_next(places, start) if order is None else order
    way = _Way(np.vstack([start, places]), np.concatenate([[0], first + 1]))
    for _ in range(MOST_SWEEPS):
        if not way.sweep():
            break
    return way.tour[1:-1] - 1


def nearest_next(places: Points, start: Points) -> Indices:
    """The order in which the nearest place that is left comes next."""
    left = np.arange(len(places))
    found, at = [], start
    while len(left):
        nearest = int(((places[left] - at) ** 2).sum(axis=1).argmin())
        found.append(int(left[nearest]))
        at = places[found[-1]]
        left = np.delete(left, nearest)
    return np.array(found, dtype=np.intp)


Kind = tuple[int, bool, bool]
"""Of a move: how many places go along (0: the way between two is turned round), whether the way is opened after or
before the place that they come to, and whether they are joined to it by the last of them or the first."""
KINDS: tuple[Kind, ...] = (
    (0, True, False),
    (0, False, False),
    *(
        (kept, after, last)
        for kept in range(1, LONGEST_MOVED + 1)
        for last in (False, True)
        for after in (True, False)
    ),
)


class _Way:
    """A way that begins at place 0 and is open at its end: there it is followed by a place that is near everything."""

    def __init__(self, places: Points, tour: Indices) -> None:
        self.end = len(places)
        self.places = np.append(places @ np.array([1, 1j]), 0)
        self.tour = np.append(tour, self.end)
        self.at = np.empty(len(places) + 1, np.intp)
        self._number(0, len(self.tour))
        count = min(NEIGHBOURS, len(places) - 1)
        near = np.asarray(cKDTree(places).query(places, count + 1)[1])
        # A place of the same coordinates may come before oneself.
        own = near == np.arange(len(places))[:, None]
        own[~own.any(axis=1), -1] = True
        self.near = near[~own].reshape(len(places), count)
        # Only where something changed can there be something new to gain (Bentley, 1992).
        self.changed = np.ones(len(places) + 1, bool)

    def sweep(self) -> bool:
        """Do every move that gains, the one that gains most first; False when there was none."""
        everywhere = bool(self.changed[: self.end].all())
        places = np.flatnonzero(self.changed[: self.end])
        self.changed[:] = False
        near, to = np.repeat(places, self.near.shape[1]), self.near[places].ravel()
        gains = np.stack([self._gains(kind, near, to) for kind in KINDS])
        kinds, pairs = np.nonzero(gains > GAINS_MM)
        best = np.argsort(-gains[kinds, pairs], kind="stable")
        for kind, pair in zip(kinds[best].tolist(), pairs[best].tolist(), strict=True):
            # What was done before it may have taken its gain away.
            one, other = near[pair : pair + 1], to[pair : pair + 1]
            if self._gains(KINDS[kind], one, other)[0] > GAINS_MM:
                self._do(KINDS[kind], int(one[0]), int(other[0]))
            else:
                self.changed[one] = True
        if not len(best) and not everywhere:
            self.changed[:] = True
            return True
        return bool(len(best))

    def _gains(self, kind: Kind, near: Indices, to: Indices) -> Points:
        """What it gains to join places to others; -1 where that cannot be done."""
        kept, after, last = kind
        step = 1 if after else -1
        at_near, at_to = self.at[near], self.at[to]
        if kept == 0:
            # Before the first place there is nothing to open.
            can = after | ((at_near > 0) & (at_to > 0))
            one, other = self.tour[at_near + step], self.tour[at_to + step]
            gain = self._far(near, one) + self._far(to, other) - self._far(near, to) - self._far(one, other)
            return np.where(can, gain, -1.0)
        low = at_near - (kept - 1 if last else 0)
        # The first place stays, and what moves does not come to itself.
        can = (
            (low >= 1)
            & (low + kept <= self.end)
            & ((at_to < low) | (at_to >= low + kept))
            & (after | (at_to > 0))
        )
        low = np.where(can, low, 1)
        head, tail = self.tour[low], self.tour[np.minimum(low + kept - 1, self.end)]
        before, behind = self.tour[low - 1], self.tour[np.minimum(low + kept, self.end)]
        beyond = self.tour[at_to + step]
        can &= (beyond != head) & (beyond != tail)
        closed = self._far(before, head) + self._far(tail, behind) - self._far(before, behind)
        opened = self._far(to, near) + self._far(head if last else tail, beyond) - self._far(to, beyond)
        return np.where(can, closed - opened, -1.0)

    def _far(self, one: Indices, other: Indices) -> Points:
        """Between places; to the end it is no way."""
        far = np.abs(self.places[one] - self.places[other])
        far[(one == self.end) | (other == self.end)] = 0.0
        return far

    def _do(self, kind: Kind, near: int, to: int) -> None:
        kept, after, last = kind
        if kept == 0:
            low, high = sorted((int(self.at[near]), int(self.at[to])))
            low, high = (low + 1, high + 1) if after else (low, high)
            self.tour[low:high] = self.tour[low:high][::-1].copy()
            self._number(low, high)
            self.changed[self.tour[[low - 1, low, high - 1, high]]] = True
            return
        low = int(self.at[near]) - (kept - 1 if last else 0)
        high, gap = low + kept, int(self.at[to]) + after
        taken = self.tour[low:high].copy()
        self.changed[self.tour[[low - 1, high]]] = True
        # `near` comes next to `to`: first after it, last before it.
        if last == after:
            taken = taken[::-1]
        if gap >= high:
            self.tour[low : gap - kept] = self.tour[high:gap].copy()
            low, high = low, gap
            self.tour[gap - kept : gap] = taken
        else:
            self.tour[gap + kept : high] = self.tour[gap:low].copy()
            self.tour[gap : gap + kept] = taken
            low, high = gap, high
        self._number(low, high)
        first = int(self.at[taken[0]])
        self.changed[self.tour[first - 1 : first + kept + 1]] = True

    def _number(self, low: int, high: int) -> None:
        self.at[self.tour[low:high]] = np.arange(low, high)
