"""Copies on a raster that overlap, moved one by one to where they overlap least, until none does.

A guided local search (Egeblad, Nielsen and Odgaard, 2007; on rasters Umetani and Murakami, 2022): who still overlaps
weighs more from pass to pass, so that the search leaves places from which no single move leads on.
"""

from collections.abc import Callable, Sequence

import numpy as np

from perisect.core.sheet.nest_board import Board, Spot
from perisect.core.sheet.nest_laid import MET
from perisect.core.sheet.nest_transforms import laid_on

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
        self._laid = laid_on(board)
        self.copies: list[Spot] = []
        self.until(board.height_mm)
        self._weights = np.ones((0, 1))
        self._met = np.zeros((0, 1))
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
        self._weights, self._met = np.ones((size, size + 1)), np.zeros((size, size + 1))
        self._laid.begin(self._blocked, self._rows, self.copies)
        for n in range(size):
            self._measure(n)

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
        return float(self._met[:, :-1].sum() / 2 + self._met[:, -1].sum())

    def add(self, key: str) -> bool:
        """One more, where it overlaps least, nearest to the top; False when it fits nowhere."""
        place = self._laid.first(key)
        if self._spent() or place is None:
            return False
        self.copies.append(place)
        self._laid.append(place)
        size = len(self.copies)
        weights, met = np.ones((size, size + 1)), np.zeros((size, size + 1))
        for grown, old in ((weights, self._weights), (met, self._met)):
            grown[: size - 1, : size - 1] = old[:, :-1]
            grown[: size - 1, -1] = old[:, -1]
        self._weights, self._met = weights, met
        self._measure(size - 1)
        return True

    def remove_worst(self) -> None:
        """Without the copy that overlaps most."""
        worst = int(self._met.sum(axis=1).argmax())
        self.begin([spot for n, spot in enumerate(self.copies) if n != worst])

    def step(self) -> None:
        """Every copy that overlaps is moved once, then weights change."""
        size = len(self.copies)
        for n in self._rng.permutation(size).tolist():
            if self._met[n].sum() <= MET:
                continue
            turns = range(len(self.board.angles))
            if len(turns) > TURNS_TRIED:
                others = self._rng.permutation(len(turns))[: TURNS_TRIED - 1]
                turns = [self.copies[n].turn, *others.tolist()]  # type: ignore[assignment]
            self._laid.take_up(n)
            place = self._least(n, turns)
            self._laid.lay(n, place or self.copies[n])
            if place is None:
                break
            if place != self.copies[n]:
                self.copies[n] = place
                self._measure(n)
        most = float(self._met.max(initial=0.0))
        least, more = HEAVIER
        heavier = least + more * self._met / max(most, MET)
        weights = self._weights * np.where(self._met > MET, heavier, LIGHTER)
        self._weights = np.clip(weights, 1.0, HEAVIEST)

    def _least(self, n: int, turns: Sequence[int]) -> Spot | None:
        """Where copy n, which is not laid, overlaps least, weighted: one of places as good; None when there is to be no
        more."""
        key = self.copies[n].key
        place = self._laid.draw(key, turns, self._weights[n], self._rng)
        return None if self._spent() else place

    def _spent(self) -> bool:
        spent, self._laid.spent_s = self._laid.spent_s, 0.0
        return self._spend(spent)

    def _measure(self, n: int) -> None:
        """Overlaps of copy n with all others and with what is blocked."""
        mine = self.copies[n]
        met = self._laid.shared(n)
        rows, columns = self.board.turned[mine.key][mine.turn].inside.shape
        # What sticks out at the end is moved first, however little it is.
        met[-1] += rows * columns if mine.y + rows > self._rows else 0.0
        self._met[n] = met
        self._met[:, n] = met[:-1]
