"""A short way through places, each visited once: 2-opt and Or-opt with lists of neighbours.

The moves are Croes' (A method for solving traveling-salesman problems, 1958) and Or's (1976); only places near each
other are joined (Johnson and McGeoch, The traveling salesman problem: a case study, 1997). What gains is looked for
in all places at once, as arrays; what was found is then done one after the other while it still gains. The same
places give the same way on any machine: nothing depends on a clock.
"""

from dataclasses import dataclass

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
    return way.tour[1:] - 1


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


@dataclass(frozen=True)
class _Move:
    """Join `near` and `to`: by turning the way between them round (`kept` 0), or by moving `kept` places that begin
    or end at `near`. `after` says on which side of them the way is opened."""

    kept: int
    near: int
    to: int
    after: bool
    backwards: bool = False


class _Way:
    """A way that begins at place 0 and is open at its end: the end is followed by a place that is near everything."""

    def __init__(self, places: Points, tour: Indices) -> None:
        self.places, self.tour = places, tour.astype(np.intp)
        self.end = len(places)
        self.at = np.empty(len(places) + 1, np.intp)
        self._number(0, len(places))
        self.at[self.end] = len(places)
        count = min(NEIGHBOURS, len(places) - 1)
        near = cKDTree(places).query(places, count + 1)[1]
        # A place of the same coordinates may come before oneself.
        own = near == np.arange(len(places))[:, None]
        own[~own.any(axis=1), -1] = True
        self.near = near[~own].reshape(len(places), count)

    def _number(self, low: int, high: int) -> None:
        self.at[self.tour[low:high]] = np.arange(low, high)

    def _far(self, a: Indices, b: Indices) -> Points:
        """Between places; nothing to the end that is near everything, and from before the first place no way."""
        padded = np.vstack([self.places, np.zeros(2)])
        far = np.hypot(*(padded[a] - padded[b]).T)
        return np.where((a == self.end) | (b == self.end), 0.0, far)

    def _padded(self) -> Indices:
        """The tour with its end after it."""
        return np.append(self.tour, self.end)

    def sweep(self) -> bool:
        """Do every move that gains, the one that gains most first; False when there was none."""
        gains, moves = zip(*(self._turns(after) for after in (True, False)), *self._moved(), strict=True)
        gain = np.concatenate(gains)
        found = np.flatnonzero(gain > GAINS_MM)
        if not len(found):
            return False
        which = np.concatenate([np.full(len(g), n) for n, g in enumerate(gains)])
        within = np.concatenate([np.arange(len(g)) for g in gains])
        done = False
        for n in found[np.argsort(-gain[found], kind="stable")].tolist():
            kept, after, backwards, near, to = moves[which[n]]
            move = _Move(kept, int(near[within[n]]), int(to[within[n]]), after, backwards)
            done |= self._turn(move) if move.kept == 0 else self._move(move)
        return done

    def _turns(self, after: bool) -> tuple[Points, tuple[int, bool, bool, Indices, Indices]]:
        """What 2-opt moves gain that join each place to each of its neighbours, opening the way after or before
        both."""
        near = np.repeat(np.arange(len(self.places)), self.near.shape[1])
        to = self.near.ravel()
        step = 1 if after else -1
        can = (self.at[near] < self.at[to]) if after else ((self.at[near] > 0) & (self.at[to] > 0))
        near, to = near[can], to[can]
        tour = self._padded()
        one, other = tour[self.at[near] + step], tour[self.at[to] + step]
        gain = self._far(near, one) + self._far(to, other) - self._far(near, to) - self._far(one, other)
        return gain, (0, after, False, near, to)

    def _moved(self) -> list[tuple[Points, tuple[int, bool, bool, Indices, Indices]]]:
        """What Or-moves gain: so many places, the first or the last of which is joined to one of its neighbours."""
        found = []
        tour = self._padded()
        for kept in range(1, min(LONGEST_MOVED, len(self.places) - 2) + 1):
            for backwards in (False, True):
                # `near` is the end of the moved places that is joined; `tail` the other one.
                near = np.repeat(np.arange(len(self.places)), self.near.shape[1])
                to = self.near.ravel()
                low = self.at[near] - (kept - 1 if backwards else 0)
                apart = (self.at[to] < low) | (self.at[to] >= low + kept)
                can = (low >= 1) & (low + kept <= len(self.places)) & apart
                near, to, low = near[can], to[can], low[can]
                head, tail = tour[low], tour[low + kept - 1]
                before, behind = tour[low - 1], tour[low + kept]
                closed = self._far(before, head) + self._far(tail, behind) - self._far(before, behind)
                other = tail if not backwards else head
                for after in (True, False):
                    # The way is opened between `to` and the place after, or before it.
                    beyond = tour[np.where(after, self.at[to] + 1, np.maximum(self.at[to] - 1, 0))]
                    # Not at the first place's front, nor where the moved places stand already.
                    bad = (beyond == head) | (beyond == tail) | ((self.at[to] == 0) & (not after))
                    opened = self._far(to, near) + self._far(other, beyond) - self._far(to, beyond)
                    gain = np.where(bad, -1.0, closed - opened)
                    found.append((gain, (kept, after, backwards, near, to)))
        return found

    def _far1(self, a: int, b: int) -> float:
        if a == self.end or b == self.end:
            return 0.0
        x, y = self.places[a] - self.places[b]
        return float(np.hypot(x, y))

    def _place(self, at: int) -> int:
        return int(self.tour[at]) if at < len(self.tour) else self.end

    def _turn(self, move: _Move) -> bool:
        i, j = sorted((int(self.at[move.near]), int(self.at[move.to])))
        if not move.after:
            i, j = i - 1, j - 1
        if i < 0:
            return False
        a, b, c, d = self._place(i), self._place(i + 1), self._place(j), self._place(j + 1)
        if self._far1(a, b) + self._far1(c, d) - self._far1(a, c) - self._far1(b, d) <= GAINS_MM:
            return False
        self.tour[i + 1 : j + 1] = self.tour[i + 1 : j + 1][::-1].copy()
        self._number(i + 1, j + 1)
        return True

    def _move(self, move: _Move) -> bool:
        low = int(self.at[move.near]) - (move.kept - 1 if move.backwards else 0)
        high, to = low + move.kept, int(self.at[move.to])
        if low < 1 or high > len(self.tour) or low <= to < high or (to == 0 and not move.after):
            return False
        head, tail = self._place(low), self._place(high - 1)
        before, behind = self._place(low - 1), self._place(high)
        beyond = self._place(to + 1 if move.after else to - 1)
        if beyond in (head, tail):
            return False
        other = head if move.backwards else tail
        closed = self._far1(before, head) + self._far1(tail, behind) - self._far1(before, behind)
        opened = self._far1(move.to, move.near) + self._far1(other, beyond) - self._far1(move.to, beyond)
        if closed - opened <= GAINS_MM:
            return False
        taken = self.tour[low:high].copy()
        # After `to` its neighbour comes first; before it, last.
        if (int(taken[0]) == move.near) != move.after:
            taken = taken[::-1]
        gap = to + 1 if move.after else to
        if gap >= high:
            self.tour[low : gap - move.kept] = self.tour[high:gap].copy()
            self.tour[gap - move.kept : gap] = taken
            self._number(low, gap)
        else:
            self.tour[gap + move.kept : high] = self.tour[gap:low].copy()
            self.tour[gap : gap + move.kept] = taken
            self._number(gap, high)
        return True
