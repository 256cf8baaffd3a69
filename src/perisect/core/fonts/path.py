"""A filled path: letters and the points they take."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

TAKES = {"M": 1, "L": 1, "C": 3, "Z": 0}
"""Points of each letter."""


@dataclass(frozen=True)
class Path:
    """Letters M, L, C, Z in turn, and the (n, 2) points of them all."""

    letters: str
    points: NDArray[np.float64]

    def svg(self) -> str:
        """Path data."""
        return "".join(f"{letter}{' '.join(taken)}" for letter, taken in self._steps(3))

    def pdf(self) -> str:
        """Path operators of a PDF (ISO 32000, 8.5.2)."""
        words = {"M": "m", "L": "l", "C": "c", "Z": "h"}
        return "\n".join(f"{' '.join(taken)} {words[letter]}" for letter, taken in self._steps(4))

    def _steps(self, decimals: int) -> Iterator[tuple[str, list[str]]]:
        numbers, at = [f"{x:.{decimals}f} {y:.{decimals}f}" for x, y in self.points.tolist()], 0
        for letter in self.letters:
            yield letter, numbers[at : at + TAKES[letter]]
            at += TAKES[letter]


def joined(paths: Sequence[Path]) -> Path:
    """All of them as one."""
    return Path(
        "".join(path.letters for path in paths),
        np.concatenate([path.points for path in paths]) if paths else np.empty((0, 2)),
    )
