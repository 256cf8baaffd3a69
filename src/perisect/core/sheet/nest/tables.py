"""Where on a board copies overlap those that are there least, by tables of pairs."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from perisect.core.sheet.nest import moves
from perisect.core.sheet.nest.board import Board, Spot
from perisect.core.sheet.nest.laid import MET, NEAR_LEAST, Weights, as_good, grown
from perisect.core.sheet.nest.pairs import Floats, Ints, Pairs, exact

MOVE_S, CELL_S, LOOK_S, LAY_S = 5e-6, 0.45e-9, 12e-9, 0.6e-9
"""What moving a copy takes on a usual machine with two free cores, a place that is looked over, a pair that is looked
up, and a number of a table that is laid."""


class ByTables:
    """A map for every turned piece, on which what is laid is one sum of two runs of numbers; places where it may not
    begin are infinite."""

    at_once = 32

    def __init__(self, board: Board, pairs: Pairs) -> None:
        self._board, self._turns = board, len(board.angles)
        self._keys = list(board.turned)
        self._first = {key: n * self._turns for n, key in enumerate(self._keys)}
        self._tables = moves.Tables(
            pairs.flat, pairs.begins, pairs.rows, pairs.columns, pairs.high, pairs.wide
        )
        free = [board.free(key, turn) for key in self._keys for turn in range(self._turns)]
        rows, columns = np.array(free, np.intp).T.copy()
        edges = np.full((len(free), rows.max(initial=1), columns.max(initial=1)), np.inf, np.float32)
        self._sheet = moves.Sheet(np.zeros_like(edges), edges, rows, columns)
        self._copies = _copies([])
        groups = int((-(-rows // moves.GROUP) * columns).sum())
        places = int((rows * columns).reshape(-1, self._turns).sum(axis=1).max(initial=1))
        self._room = moves.Room(
            np.zeros(groups, np.float32), np.zeros(places, np.intp), np.zeros(places), MET, NEAR_LEAST
        )
        # What of a map is changed where a copy is laid, and looked over, on average.
        self._lay_s = 2 * LAY_S * len(pairs.flat) / max(1, len(free))
        self._look_s = CELL_S * float((rows * columns).mean())
        self._blocked: Floats | None = None
        self._rows = 0
        self.spent_s = 0.0

    @property
    def met(self) -> NDArray[np.float64]:
        return self._copies.met

    def spot(self, n: int) -> Spot:
        key, turn = divmod(int(self._copies.number[n]), self._turns)
        return Spot(self._keys[key], turn, int(self._copies.x[n]), int(self._copies.y[n]))

    def begin(self, blocked: Floats, rows: int, copies: Sequence[Spot]) -> None:
        if blocked is not self._blocked or rows != self._rows:
            self._blocked, self._rows = blocked, rows
            self._edge(blocked, rows)
        np.copyto(self._sheet.whole, self._sheet.edges)
        self._copies = _copies([(self._first[s.key] + s.turn, s.y, s.x) for s in copies])
        for n in range(len(copies)):
            self._onto(n)
            moves.measure(self._tables, self._sheet, self._copies, n)

    def append(self, spot: Spot) -> None:
        old = self._copies
        self._copies = moves.Copies(
            np.append(old.number, self._first[spot.key] + spot.turn),
            np.append(old.y, spot.y),
            np.append(old.x, spot.x),
            grown(old.met, 0.0),
        )
        self._onto(len(old.number))
        moves.measure(self._tables, self._sheet, self._copies, len(old.number))

    def first(self, key: str) -> Spot | None:
        begin = self._first[key]
        whole = self._sheet.whole[begin : begin + self._turns]
        self.spent_s += MOVE_S + self._turns * self._look_s
        least = float(whole.min())
        if least == np.inf:
            return None
        y, turn, x = np.argwhere((whole <= as_good(least)).transpose(1, 0, 2))[0].tolist()
        return Spot(key, turn, x, y)

    def move(self, some: Ints, turns: Ints, chances: NDArray[np.float64], weights: Weights) -> None:
        number = self._copies.number[some]
        tried = (number - number % self._turns)[:, None] + turns
        moved, maps, looked = moves.move(
            self._tables, self._sheet, self._copies, self._room, some, tried, chances, weights
        )
        self.spent_s += moved * (MOVE_S + self._lay_s) + maps * self._look_s + looked * LOOK_S

    def _onto(self, n: int) -> None:
        self.spent_s += MOVE_S + self._lay_s / 2
        moves.lay(self._tables, self._sheet, self._copies, n, 1.0)

    def _edge(self, blocked: Floats, rows: int) -> None:
        whole = self._board.room()
        whole[: blocked.shape[0], : blocked.shape[1]] = blocked
        field = self._board.field(whole)
        self._sheet.edges[:] = np.inf
        for key, first in self._first.items():
            for turn in range(self._turns):
                met = self._board.met(field, key, turn)
                met = met[: max(0, rows - self._board.turned[key][turn].inside.shape[0] + 1)]
                self._sheet.edges[first + turn, : met.shape[0], : met.shape[1]] = exact(met)


def _copies(there: Sequence[tuple[int, int, int]]) -> moves.Copies:
    number, y, x = np.array(there, np.intp).reshape(-1, 3).T.copy()
    return moves.Copies(number, y, x, np.zeros((len(there), len(there) + 1)))
