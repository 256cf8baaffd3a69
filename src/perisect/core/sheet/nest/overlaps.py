"""Copies on a raster that overlap, moved one by one to where they overlap least, until none does.

A guided local search (Egeblad, Nielsen and Odgaard, 2007; on rasters Umetani and Murakami, 2022): who still overlaps
weighs more from pass to pass, so that the search leaves places from which no single move leads on.
"""

from collections.abc import Callable, Sequence

import numpy as np

from perisect.core.sheet.nest.board import Board, Spot
from perisect.core.sheet.nest.laid import MET, Laid, grown
from perisect.core.sheet.nest.pairs import Ints
from perisect.core.sheet.nest.transforms import ByTransforms

HEAVIER, LIGHTER, HEAVIEST = (1.2, 0.8), 0.95, 1e3
TURNS_TRIED = 8
"""Of many turns, as many are tried in one move."""


class Overlaps:
    """Copies on a board whose pieces may lie down to a length from its top.

    Args:
        spend: told what has been done by what it takes, s; True when there is to be no more.
    """

    def __init__(self, board: Board, rng: np.random.Generator, spend: Callable[[float], bool]) -> None:
        self.board, self._rng, self._spend = board, rng, spend
        self._laid = _laid_on(board)
        self.copies: list[Spot] = []
        self.until(board.height_mm)
        self._weights = np.ones((0, 1))
        self._laid.begin(self._blocked, self._rows, ())

    def until(self, length_mm: float) -> None:
        """From now on pieces end there."""
        self.length_mm = length_mm
        self._rows = int(length_mm / self.board.cell + 1e-9)
        self._blocked = self.board.blocked(length_mm)

    def begin(self, copies: Sequence[Spot]) -> None:
        """Other copies instead of those that were there, none heavier than another."""
        self.copies = list(copies)
        size = len(self.copies)
        self._weights = np.ones((size, size + 1))
        self._laid.begin(self._blocked, self._rows, self.copies)

    def scatter(self, keys: Sequence[str]) -> None:
        """Copies anywhere, turned anyhow."""
        self.begin([self._anywhere(key) for key in keys])

    def anywhere(self, some: Sequence[int]) -> None:
        """Some of the copies anywhere else."""
        moved = {n: self._anywhere(self.copies[n].key) for n in some}
        self.begin([moved.get(n, spot) for n, spot in enumerate(self.copies)])

    def _anywhere(self, key: str) -> Spot:
        turns = [t for t in range(len(self.board.angles)) if all(self.board.free(key, t))]
        turn = turns[self._rng.integers(len(turns))]
        rows, columns = self.board.turned[key][turn].inside.shape
        free = self.board.size[1] - columns, self._rows - rows
        x, y = (int(self._rng.integers(max(0, room) + 1)) for room in free)
        return Spot(key, turn, x, y)

    @property
    def total(self) -> float:
        """Of all overlaps, in cells times their depth."""
        met = self._laid.met
        return float(met[:, :-1].sum() / 2 + met[:, -1].sum())

    def add(self, key: str) -> bool:
        """One more, where it overlaps least, nearest to the top; False when it fits nowhere."""
        place = self._laid.first(key)
        if self._spent() or place is None:
            return False
        self.copies.append(place)
        self._laid.append(place)
        self._weights = grown(self._weights, 1.0)
        return True

    def remove_worst(self) -> None:
        """Without the copy that overlaps most."""
        worst = int(self._laid.met.sum(axis=1).argmax())
        self.begin([spot for n, spot in enumerate(self.copies) if n != worst])

    def step(self) -> None:
        """Every copy that overlaps is moved once, then weights change."""
        order = self._rng.permutation(len(self.copies))
        for first in range(0, len(order), self._laid.at_once):
            some = order[first : first + self._laid.at_once]
            self._laid.move(some, self._turns(some), self._rng.random(len(some)), self._weights)
            for n in some.tolist():
                self.copies[n] = self._laid.spot(n)
            if self._spent():
                break
        met = self._laid.met
        least, more = HEAVIER
        heavier = least + more * met / max(float(met.max(initial=0.0)), MET)
        weights = self._weights * np.where(met > MET, heavier, LIGHTER)
        self._weights = np.clip(weights, 1.0, HEAVIEST)

    def _turns(self, some: Ints) -> Ints:
        """(some, tried): all turns; of many its own and others."""
        count = len(self.board.angles)
        if count <= TURNS_TRIED:
            return np.tile(np.arange(count), (len(some), 1))
        others = [self._rng.permutation(count)[: TURNS_TRIED - 1] for _ in some]
        return np.c_[[self.copies[n].turn for n in some.tolist()], others]

    def _spent(self) -> bool:
        spent, self._laid.spent_s = self._laid.spent_s, 0.0
        return self._spend(spent)


def _laid_on(board: Board) -> Laid:
    """The faster way that a board allows."""
    if board.pairs is None:
        return ByTransforms(board)
    # What is compiled takes a second to load, which only a search should wait for.
    from perisect.core.sheet.nest.tables import ByTables

    return ByTables(board, board.pairs)
