"""Where on a board one more copy overlaps those that are there least, by tables of pairs."""

from collections.abc import Sequence
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from perisect.core.sheet.nest_board import Board, Spot
from perisect.core.sheet.nest_pairs import Floats, Ints, Pairs, exact

MET = 0.5
"""Overlaps below this, in cells times their depth, are none."""
NEAR_LEAST = 0.02
"""Places that overlap so little more than the least are as good."""
CALL_S, CELL_S, LOOK_S = 47e-6, 0.47e-9, 20e-9
"""What a call takes on a usual machine with two free cores, a place that is looked over, and one that is looked up."""
LAY_S = 1.05e-9
"""For each number of a table that is laid."""
RUN = 1024
"""Places whose least is looked for at a time."""
MOST_LOOKED_UP = 20_000
"""Pairs that are looked up one by one; of more whole tables are summed."""

Weights = NDArray[np.float64]


class Laid(Protocol):
    """Copies on a board, and what of it is blocked."""

    spent_s: float
    """What all of it took since somebody put this to 0, as it would on a usual machine: the same on any."""

    def begin(self, blocked: Floats, rows: int, copies: Sequence[Spot]) -> None:
        """Other copies, blocked (rows, columns) so many cells deep, and pieces that end after so many rows."""

    def append(self, spot: Spot) -> None:
        """One more."""

    def take_up(self, n: int) -> None:
        """Copy n is nowhere, until it is laid again."""

    def lay(self, n: int, spot: Spot) -> None:
        """Copy n, which was taken up."""

    def first(self, key: str) -> Spot | None:
        """Of places where a piece overlaps as good as least the one nearest to the top; None where it never fits."""

    def draw(self, key: str, turns: Sequence[int], weights: Weights, rng: np.random.Generator) -> Spot | None:
        """One of the places where a piece overlaps as good as least; None where it never fits.

        Args:
            weights: what each copy counts for, and last what is blocked, at least 1.
        """

    def shared(self, n: int) -> NDArray[np.float64]:
        """What copy n overlaps of each, and last of what is blocked."""


def as_good(least: float) -> float:
    """What a place may overlap to be as good as one that overlaps least."""
    return least + max(NEAR_LEAST * abs(least), MET)


class ByTables:
    """A map for every turned piece, on which what is laid is one sum of two runs of numbers; places where it may not
    begin are infinite.

    As nothing counts for less than once, a map is never more than it is with weights: only places that are below the
    best one known are looked up with those.
    """

    def __init__(self, board: Board, pairs: Pairs) -> None:
        self._board, self._pairs = board, pairs
        self._turns = len(board.angles)
        self._first = {key: n * self._turns for n, key in enumerate(board.turned)}
        # Above and below there is room for what of a table is beyond the sheet.
        size = (board.size[0] + pairs.high + 1) * pairs.stride
        self._edges = np.zeros((len(pairs.tables), -(-size // RUN) * RUN), np.float32)
        self._map = np.zeros_like(self._edges)
        self._blocked: Floats | None = None
        self._rows = 0
        self._number, self._place = np.zeros(0, np.intp), np.zeros(0, np.intp)
        self.spent_s = 0.0

    def begin(self, blocked: Floats, rows: int, copies: Sequence[Spot]) -> None:
        if blocked is not self._blocked or rows != self._rows:
            self._blocked, self._rows = blocked, rows
            self._edge(blocked, rows)
        np.copyto(self._map, self._edges)
        self._number = np.array([self._numbered(spot) for spot in copies], np.intp)
        self._place = np.array([self._placed(spot) for spot in copies], np.intp)
        for n in range(len(copies)):
            self._onto(n)

    def append(self, spot: Spot) -> None:
        self._number = np.r_[self._number, self._numbered(spot)]
        self._place = np.r_[self._place, self._placed(spot)]
        self._onto(-1)

    def take_up(self, n: int) -> None:
        there, table = self._run(self._map, n)
        there -= table

    def lay(self, n: int, spot: Spot) -> None:
        self._number[n], self._place[n] = self._numbered(spot), self._placed(spot)
        self._onto(n)

    def first(self, key: str) -> Spot | None:
        begin = self._first[key]
        whole = self._map[begin : begin + self._turns]
        self.spent_s += CALL_S + CELL_S * whole.size
        least = float(whole.min())
        if least == np.inf:
            return None
        there = whole <= as_good(least)
        turn, place = min(enumerate(there.argmax(axis=1)), key=lambda each: (not there[each], each[1]))
        return self._spot(key, turn, int(place))

    def draw(self, key: str, turns: Sequence[int], weights: Weights, rng: np.random.Generator) -> Spot | None:
        at = self._least(key, turns, weights)
        if not len(at):
            return None
        n, place = divmod(int(at[rng.integers(len(at))]), self._edges.shape[1])
        return self._spot(key, turns[n], place)

    def _least(self, key: str, turns: Sequence[int], weights: Weights) -> Ints:
        """Places as good as least, of one turn after the other."""
        which = self._first[key] + np.array(turns)
        every = len(turns) == self._turns
        whole = self._map[which[0] : which[0] + self._turns] if every else self._map[which]
        self.spent_s += CALL_S + CELL_S * whole.size
        runs = whole.reshape(-1, RUN)
        least_of = runs.min(axis=1)
        least = float(least_of.min())
        if least == np.inf:
            return np.zeros(0, np.intp)
        if least == 0:
            return _below(runs, least_of, 0.0)
        heavy = np.flatnonzero(weights[:-1] > 1)
        best = 2 * as_good(least)
        while True:
            at, told = _below(runs, least_of, best), best
            self.spent_s += LOOK_S * len(at)
            if len(at) * len(heavy) > MOST_LOOKED_UP:
                runs = self._summed(whole, which, heavy, weights).reshape(-1, RUN)
                least_of = runs.min(axis=1)
                return _below(runs, least_of, as_good(float(least_of.min())))
            cost = whole.ravel()[at] + self._more(at, which, heavy, weights)
            best = as_good(float(cost.min()))
            # All that may be below the best of those is among them, now or the next time.
            if best <= told:
                return at[cost <= best]

    def shared(self, n: int) -> NDArray[np.float64]:
        met = np.empty(len(self._number) + 1)
        met[:-1] = self._pairs.met(int(self._number[n]), self._number, self._place[n] - self._place)
        met[n] = 0.0
        edge = self._edges[self._number[n], self._place[n]]
        met[-1] = edge if edge < np.inf else 0.0
        return met

    def _edge(self, blocked: Floats, rows: int) -> None:
        whole = self._board.room()
        whole[: blocked.shape[0], : blocked.shape[1]] = blocked
        field = self._board.field(whole)
        self._edges[:] = np.inf
        for key, first in self._first.items():
            for turn in range(self._turns):
                met = self._board.met(field, key, turn)
                met = met[: max(0, rows - self._board.turned[key][turn].inside.shape[0] + 1)]
                y, x = np.indices(met.shape)
                self._edges[first + turn, (y + self._pairs.high) * self._pairs.stride + x] = exact(met)

    def _more(self, at: Ints, which: Ints, heavy: Ints, weights: Weights) -> NDArray[np.float64]:
        """What places cost beyond what is laid once."""
        self.spent_s += CALL_S + LOOK_S * len(at) * len(heavy)
        n, place = np.divmod(at, self._edges.shape[1])
        number = which[n]
        more = (weights[-1] - 1) * self._edges[number, place]
        if len(heavy):
            by = place[:, None] - self._place[heavy]
            more += self._pairs.met(number[:, None], self._number[heavy], by) @ (weights[heavy] - 1)
        return more

    def _summed(self, whole: Floats, which: Ints, heavy: Ints, weights: Weights) -> Floats:
        """All places with weights."""
        summed = whole + self._edges[which] * np.float32(weights[-1] - 1) if weights[-1] > 1 else whole.copy()
        for n in heavy.tolist():
            there, table = self._run(summed, n)
            self.spent_s += LAY_S * there.size
            there += table[which] * np.float32(weights[n] - 1)
        return summed

    def _onto(self, n: int) -> None:
        there, table = self._run(self._map, n)
        # Laid and taken up.
        self.spent_s += CALL_S + 2 * LAY_S * table.size
        there += table

    def _run(self, on: Floats, n: int) -> tuple[Floats, Floats]:
        """Where the table of a copy lies on maps."""
        table = self._pairs.tables[self._number[n]]
        begins = int(self._place[n]) - self._pairs.reach
        return on[:, begins : begins + table.shape[1]], table

    def _spot(self, key: str, turn: int, place: int) -> Spot:
        y, x = divmod(place, self._pairs.stride)
        return Spot(key, turn, x, y - self._pairs.high)

    def _numbered(self, spot: Spot) -> int:
        return self._first[spot.key] + spot.turn

    def _placed(self, spot: Spot) -> int:
        return (spot.y + self._pairs.high) * self._pairs.stride + spot.x


def _below(runs: Floats, least_of: Floats, most: float) -> Ints:
    """Places of no more than that."""
    some = np.flatnonzero(least_of <= most)
    run, at = np.nonzero(runs[some] <= most)
    return some[run] * RUN + at
