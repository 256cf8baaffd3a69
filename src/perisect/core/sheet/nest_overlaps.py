"""Copies on a raster that overlap, moved one by one to where they overlap least, until none does.

A guided local search (Egeblad, Nielsen and Odgaard, 2007; on rasters Umetani and Murakami, 2022): who still overlaps
weighs more from pass to pass, so that the search leaves places from which no single move leads on.
"""

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from perisect.core.sheet.nest_board import Board, Floats, Spot

MET = 0.5
"""Overlaps below this, in cells times their depth, are none."""
HEAVIER, LIGHTER, HEAVIEST = (1.2, 0.8), 0.95, 1e3
NEAR_LEAST = 0.02
"""Places that overlap so little more than the least are as good, and one of them is drawn."""
TURNS_TRIED = 8
"""Of many turns, as many are tried in one move."""


class Overlaps:
    """Copies on a board whose pieces may lie down to a length from its top.

    Args:
        spend: told of each transform; True when there is to be no more.
    """

    def __init__(self, board: Board, rng: np.random.Generator, spend: Callable[[], bool]) -> None:
        self.board, self._rng, self._spend = board, rng, spend
        self.copies: list[Spot] = []
        self.until(board.height_mm)
        self._weights = np.ones((0, 1))
        self._met = np.zeros((0, 1))
        self._laid = board.room()

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
        self._laid = self.board.room()
        for n, spot in enumerate(self.copies):
            self._lay(spot, 1.0, self._laid)
            self._measure(n)

    def scatter(self, keys: Sequence[str]) -> None:
        """Copies anywhere, turned anyhow."""
        copies = []
        for key in keys:
            turn = int(self._rng.integers(len(self.board.angles)))
            rows, columns = self.board.turned[key][turn].inside.shape
            free = self.board.size[1] - columns, self._rows - rows
            x, y = (int(self._rng.integers(max(0, room) + 1)) for room in free)
            copies.append(Spot(key, turn, x, y))
        self.begin(copies)

    @property
    def total(self) -> float:
        """Of all overlaps, in cells times their depth."""
        return float(self._met[:, :-1].sum() / 2 + self._met[:, -1].sum())

    def add(self, key: str) -> bool:
        """One more, where it overlaps least, nearest to the top; False when it fits nowhere."""
        place = self._best_place(
            key, self._field(len(self.copies)), range(len(self.board.angles)), first=True
        )
        if place is None:
            return False
        self.copies.append(place)
        self._lay(place, 1.0, self._laid)
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
            place = self._best_place(self.copies[n].key, self._field(n), turns)
            if place is None:
                break
            if place != self.copies[n]:
                self._lay(self.copies[n], -1.0, self._laid)
                self._lay(place, 1.0, self._laid)
                self.copies[n] = place
                self._measure(n)
        most = float(self._met.max(initial=0.0))
        least, more = HEAVIER
        heavier = least + more * self._met / max(most, MET)
        weights = self._weights * np.where(self._met > MET, heavier, LIGHTER)
        self._weights = np.clip(weights, 1.0, HEAVIEST)

    def _lay(self, spot: Spot, weight: float, on: Floats) -> None:
        """Add what a copy is to others that come to lie on it."""
        depth = self.board.turned[spot.key][spot.turn].depth
        rows, columns = depth.shape
        on[spot.y : spot.y + rows, spot.x : spot.x + columns] += (
            depth if weight == 1 else depth * np.float32(weight)
        )

    def _field(self, n: int) -> NDArray[np.complex64]:
        """What copy n (or one more) would overlap, weighted."""
        whole = self._laid.copy()
        rows, columns = self._blocked.shape
        if n == len(self.copies):
            whole[:rows, :columns] += self._blocked
            return self.board.field(whole)
        weights = self._weights[n].tolist()
        whole[:rows, :columns] += self._blocked * np.float32(weights[-1])
        self._lay(self.copies[n], -1.0, whole)
        for m in np.flatnonzero(self._weights[n, :-1] > 1).tolist():
            if m != n:
                self._lay(self.copies[m], weights[m] - 1, whole)
        return self.board.field(whole)

    def _best_place(
        self, key: str, field: NDArray[np.complex64], turns: Sequence[int], first: bool = False
    ) -> Spot | None:
        """Where a piece overlaps least; of places as good one that is drawn, or the first."""
        best: tuple[float, int, Floats] | None = None
        for turn in turns:
            if self._spend():
                return None
            met = self.board.met(field, key, turn)
            met = met[: max(0, self._rows - self.board.turned[key][turn].inside.shape[0] + 1)]
            if not met.size:
                continue
            least = float(met.min())
            cost = max(least, 0.0)
            if first:
                cost = round(cost / MET) + int((met <= least + MET).argmax()) // met.shape[1] / 1e4
            if best is None or cost < best[0]:
                best = cost, turn, met
        if best is None:
            return None
        _, turn, met = best
        least = float(met.min())
        as_good = np.flatnonzero(met <= least + max(NEAR_LEAST * abs(least), MET))
        at = int(as_good[0] if first else as_good[self._rng.integers(len(as_good))])
        y, x = divmod(at, met.shape[1])
        return Spot(key, turn, x, y)

    def _measure(self, n: int) -> None:
        """Overlaps of copy n with all others and with what is blocked."""
        mine = self.copies[n]
        inside = self._inside(mine)
        rows, columns = inside.shape
        met = np.zeros(len(self.copies) + 1)
        for m, other in enumerate(self.copies):
            if m == n or other.x >= mine.x + columns or other.y >= mine.y + rows:
                continue
            depth = self.board.turned[other.key][other.turn].depth
            met[m] = _shared(inside, mine, depth, other)
        met[-1] = float((inside * self._blocked[mine.y : mine.y + rows, mine.x : mine.x + columns]).sum())
        # What sticks out at the end is moved first, however little it is.
        met[-1] += rows * columns if mine.y + rows > self._rows else 0.0
        self._met[n] = met
        self._met[:, n][: len(self.copies)] = met[:-1]

    def _inside(self, spot: Spot) -> Floats:
        return self.board.turned[spot.key][spot.turn].inside


def _shared(inside: Floats, mine: Spot, depth: Floats, other: Spot) -> float:
    left, right = max(mine.x, other.x), min(mine.x + inside.shape[1], other.x + depth.shape[1])
    top, bottom = max(mine.y, other.y), min(mine.y + inside.shape[0], other.y + depth.shape[0])
    if left >= right or top >= bottom:
        return 0.0
    own = inside[top - mine.y : bottom - mine.y, left - mine.x : right - mine.x]
    return float((own * depth[top - other.y : bottom - other.y, left - other.x : right - other.x]).sum())
