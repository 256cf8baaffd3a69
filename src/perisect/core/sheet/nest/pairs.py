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

    Args:
        inside: of each, 1 where a cell is in it.
        depth: of each, how deep a cell is in it, `exact`.
    """

    def __init__(self, inside: Sequence[Floats], depth: Sequence[Floats]) -> None:
        self.high, self.wide = _most(inside)
        self.rows = np.array([each.shape[0] for each in depth], np.intp)
        self.columns = np.array([each.shape[1] for each in depth], np.intp)
        sizes = len(inside) * (self.rows + self.high - 1) * (self.columns + self.wide - 1)
        self.begins = np.asarray(np.cumsum(sizes) - sizes, np.intp)
        self.flat = np.zeros(int(sizes.sum()), np.float32)
        """Of each that is laid what each other overlaps of it, in its cells times how deep they lie in the first:
        (others, rows, columns), from `high` - 1 rows and `wide` - 1 columns before it on."""
        padded = [fft.next_fast_len(2 * most, True) for most in (self.high, self.wide)]
        moved = np.conj([fft.rfft2(each, padded) for each in inside])
        for n, each in enumerate(depth):
            met = fft.irfft2(moved * fft.rfft2(each, padded), padded)
            down, right = np.arange(1 - self.high, self.rows[n]), np.arange(1 - self.wide, self.columns[n])
            self.table(n)[:] = exact(met[:, down[:, None], right])

    def table(self, laid: int) -> Floats:
        """(others, rows, columns) of one that is laid."""
        shape = -1, self.rows[laid] + self.high - 1, self.columns[laid] + self.wide - 1
        end = self.begins[laid + 1] if laid + 1 < len(self.begins) else len(self.flat)
        return self.flat[self.begins[laid] : end].reshape(shape)


def exact(depths: Floats) -> Floats:
    """Eighths of a cell: sums of them are the same in whatever order they are made."""
    return np.where(depths < NOTHING, np.float32(0), np.rint(depths * EIGHTHS) / EIGHTHS)


def entries(inside: Sequence[Floats]) -> int:
    """Numbers that tables of these would hold, at most."""
    high, wide = _most(inside)
    return 4 * high * wide * len(inside) ** 2


def _most(inside: Sequence[Floats]) -> tuple[int, int]:
    return max(each.shape[0] for each in inside), max(each.shape[1] for each in inside)
