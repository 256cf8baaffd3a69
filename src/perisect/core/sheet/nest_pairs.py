"""Tables of what turned pieces overlap of each other, so that laying one and asking what lies there need no
transform."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy import fft

Floats = NDArray[np.float32]
Ints = NDArray[np.intp]

MOST_ENTRIES = 40_000_000
"""Numbers in all tables together, 160 MB."""
EIGHTHS = 8
NOTHING = 0.5
"""A single cell counts 1 at least; what a transform leaves below is rounding."""


class Pairs:
    """What each turned piece overlaps of each other, wherever one lies beside the other.

    Places on a sheet are counted row by row, `stride` to a row: its columns and so many more that what a table holds
    to the left of a row falls beyond the end of the one before. So to lay a table on a map of the sheet is one sum of
    two runs of numbers, and where one piece lies beside another is one number.

    Args:
        inside: of each, 1 where a cell is in it.
        depth: of each, how deep a cell is in it, `exact`.
        columns: of the sheet.
    """

    def __init__(self, inside: Sequence[Floats], depth: Sequence[Floats], columns: int) -> None:
        self.high, wide = _most(inside)
        self.stride = columns + wide - 1
        self.reach = (self.high - 1) * self.stride + wide - 1
        """From where a piece begins back to the first place where another overlaps it."""
        rows = np.array([each.shape[0] for each in depth])
        # One more, which is 0, for all places that are out of reach.
        self._lengths = (rows + self.high - 1) * self.stride + 1
        areas = len(inside) * self._lengths
        self._begins = np.cumsum(areas) - areas
        self._flat = np.zeros(int(areas.sum()), np.float32)
        self.tables = [
            self._flat[begin : begin + area].reshape(len(inside), -1)
            for begin, area in zip(self._begins, areas, strict=True)
        ]
        """Of each that is laid what each other overlaps of it, in its cells times how deep they lie in the first."""
        padded = [fft.next_fast_len(2 * most, True) for most in (self.high, wide)]
        moved = np.conj([fft.rfft2(each, padded) for each in inside])
        for table, each in zip(self.tables, depth, strict=True):
            met = fft.irfft2(moved * fft.rfft2(each, padded), padded)
            # One that is wider than the sheet is never laid.
            down, right = (
                np.arange(1 - self.high, each.shape[0]),
                np.arange(1 - wide, min(each.shape[1], columns)),
            )
            lines = table[:, :-1].reshape(len(inside), -1, self.stride)
            lines[:, :, : len(right)] = exact(met[:, down[:, None], right])
            table[:, :-1] = lines.reshape(len(inside), -1)

    def met(self, moved: Ints | int, laid: Ints, by: Ints) -> Floats:
        """What pieces overlap of others that lie so many places before them; all broadcast."""
        lengths = self._lengths[laid]
        # What is before the first place is far beyond the last one, counted without a sign.
        place = np.minimum((by + self.reach).view(np.uintp), (lengths - 1).view(np.uintp)).view(np.intp)
        return self._flat.take(place + (self._begins[laid] + moved * lengths))


def exact(depths: Floats) -> Floats:
    """Eighths of a cell: sums of them are the same in whatever order they are made."""
    return np.where(depths < NOTHING, np.float32(0), np.rint(depths * EIGHTHS) / EIGHTHS)


def entries(inside: Sequence[Floats], columns: int) -> int:
    """Numbers that tables of these would hold, at most."""
    high, wide = _most(inside)
    return 2 * high * (columns + wide) * len(inside) ** 2


def _most(inside: Sequence[Floats]) -> tuple[int, int]:
    return max(each.shape[0] for each in inside), max(each.shape[1] for each in inside)
