"""What copies overlap by transforms, where designs and turns are too many for tables of pairs."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from perisect.core.sheet.nest.board import Board, Spot
from perisect.core.sheet.nest.laid import MET, Weights, as_good, grown
from perisect.core.sheet.nest.pairs import Floats, Ints

FIELD_S, FIELD_CELL_S = 120e-6, 15e-9
"""What a transform takes on a usual machine with two free cores, and each of its cells."""


class ByTransforms:
    """A picture of all copies, of which each question is a correlation."""

    at_once = 1

    def __init__(self, board: Board) -> None:
        self._board = board
        self._copies: list[Spot] = []
        self._whole, self._blocked, self._rows = board.room(), np.zeros((0, 0), np.float32), 0
        self.met = np.zeros((0, 1))
        self.spent_s = 0.0
        self._transform_s = FIELD_S + FIELD_CELL_S * board.cells

    def spot(self, n: int) -> Spot:
        return self._copies[n]

    def begin(self, blocked: Floats, rows: int, copies: Sequence[Spot]) -> None:
        self._blocked, self._rows = blocked, rows
        self._whole = self._board.room()
        self._copies, self.met = list(copies), np.zeros((len(copies), len(copies) + 1))
        for n, spot in enumerate(copies):
            self._add(self._whole, spot, 1.0)
            self._measure(n)

    def append(self, spot: Spot) -> None:
        self._copies.append(spot)
        self._add(self._whole, spot, 1.0)
        self.met = grown(self.met, 0.0)
        self._measure(len(self._copies) - 1)

    def first(self, key: str) -> Spot | None:
        places = self._least(key, range(len(self._board.angles)), np.ones(len(self._copies) + 1))
        if not len(places):
            return None
        turn, y, x = places[np.lexsort((places[:, 2], places[:, 1]))[0]].tolist()
        return Spot(key, turn, x, y)

    def move(self, some: Ints, turns: Ints, chances: NDArray[np.float64], weights: Weights) -> None:
        for n, tried, chance in zip(some.tolist(), turns.tolist(), chances.tolist(), strict=True):
            if self.met[n].sum() <= MET:
                continue
            self._add(self._whole, self._copies[n], -1.0)
            places = self._least(self._copies[n].key, tried, weights[n])
            if len(places):
                turn, y, x = places[int(chance * len(places))].tolist()
                self._copies[n] = Spot(self._copies[n].key, turn, x, y)
            self._add(self._whole, self._copies[n], 1.0)
            self._measure(n)

    def _least(self, key: str, turns: Sequence[int], weights: Weights) -> Ints:
        """(n, 3) turn, y and x of places as good as least."""
        whole = self._whole.copy()
        rows, columns = self._blocked.shape
        whole[:rows, :columns] += self._blocked * np.float32(weights[-1])
        for n in np.flatnonzero(weights[:-1] > 1).tolist():
            self._add(whole, self._copies[n], weights[n] - 1)
        field = self._board.field(whole)
        self.spent_s += self._transform_s * (1 + len(turns))
        found = []
        for turn in turns:
            met = self._board.met(field, key, turn)
            met = met[: max(0, self._rows - self._board.turned[key][turn].inside.shape[0] + 1)]
            if met.size:
                found.append((turn, met))
        best = as_good(min((float(met.min()) for _, met in found), default=0.0))
        places = [np.insert(np.argwhere(met <= best), 0, turn, axis=1) for turn, met in found]
        return np.concatenate(places) if places else np.zeros((0, 3), np.intp)

    def _measure(self, n: int) -> None:
        spot = self._copies[n]
        inside = self._board.turned[spot.key][spot.turn].inside
        rows, columns = inside.shape
        met = np.zeros(len(self._copies) + 1)
        for m, other in enumerate(self._copies):
            if m != n and other.x < spot.x + columns and other.y < spot.y + rows:
                met[m] = _shared(inside, spot, self._board.turned[other.key][other.turn].depth, other)
        blocked = self._blocked[spot.y : spot.y + rows, spot.x : spot.x + columns]
        met[-1] = float((inside * blocked).sum())
        # What sticks out at the end is moved first, however little it is.
        met[-1] += rows * columns if spot.y + rows > self._rows else 0.0
        self.met[n] = met
        self.met[:, n] = met[:-1]

    def _add(self, on: Floats, spot: Spot, weight: float) -> None:
        depth = self._board.turned[spot.key][spot.turn].depth
        rows, columns = depth.shape
        on[spot.y : spot.y + rows, spot.x : spot.x + columns] += depth * np.float32(weight)


def _shared(inside: Floats, mine: Spot, depth: Floats, other: Spot) -> float:
    left, right = max(mine.x, other.x), min(mine.x + inside.shape[1], other.x + depth.shape[1])
    top, bottom = max(mine.y, other.y), min(mine.y + inside.shape[0], other.y + depth.shape[0])
    if left >= right or top >= bottom:
        return 0.0
    own = inside[top - mine.y : bottom - mine.y, left - mine.x : right - mine.x]
    return float((own * depth[top - other.y : bottom - other.y, left - other.x : right - other.x]).sum())
