"""What a search asks of copies that lie on a board."""

from collections.abc import Sequence
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from perisect.core.sheet.nest.board import Spot
from perisect.core.sheet.nest.pairs import Floats, Ints

MET = 0.5
"""Overlaps below this, in cells times their depth, are none."""
NEAR_LEAST = 0.02
"""Places that overlap so little more than the least are as good."""

Weights = NDArray[np.float64]


class Laid(Protocol):
    """Copies on a board, and what of it is blocked."""

    spent_s: float
    """What all of it took since somebody put this to 0, as it would on a usual machine: the same on any."""
    at_once: int
    """As many copies are moved soon enough to wait for all of them."""

    @property
    def met(self) -> NDArray[np.float64]:
        """(n, n + 1): what copies overlap of each, and last of what is blocked, in cells times their depth."""

    def spot(self, n: int) -> Spot:
        """Where copy n lies."""

    def begin(self, blocked: Floats, rows: int, copies: Sequence[Spot]) -> None:
        """Other copies, blocked (rows, columns) so many cells deep, and pieces that end after so many rows."""

    def append(self, spot: Spot) -> None:
        """One more."""

    def first(self, key: str) -> Spot | None:
        """Of places where a piece overlaps as good as least the one nearest to the top; None where it never fits."""

    def move(self, some: Ints, turns: Ints, chances: NDArray[np.float64], weights: Weights) -> None:
        """Those of some copies that overlap, one after the other, to one of the places where they overlap as good as
        least.

        Args:
            turns: (some, tried) numbers of turns.
            chances: (some,) which of the places, 0 to 1.
            weights: (n, n + 1) what each counts for to each, and last what is blocked, at least 1; to itself 1.
        """


def as_good(least: float) -> float:
    """What a place may overlap to be as good as one that overlaps least."""
    return least + max(NEAR_LEAST * abs(least), MET)


def grown(square: NDArray[np.float64], filled: float) -> NDArray[np.float64]:
    """(n, n + 1) with one copy more before the last column."""
    more = np.full((len(square) + 1, len(square) + 2), filled)
    more[:-1, :-2], more[:-1, -1] = square[:, :-1], square[:, -1]
    return more
