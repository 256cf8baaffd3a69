"""What a blade loses by the metre, from the test cuts that were taken over.

The logarithm of the force that a test proposes is taken to grow by the same for every metre the blade has cut, from a
level of its own for each stock, process and film: least squares within them (fixed effects; Wooldridge, Introductory
Econometrics, 14.1). A dull blade needs more force; what cannot be told from none, or is less, is none.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

from perisect.core.cutting.book import BookKey

NOISE, NOISE_TESTS = 0.06, 4
"""Of the logarithm of a proposed force beside wear, as is believed before, and how many tests that weighs."""
SURE = 0.95
LEAST_FREE = 2
"""Tests more than there are levels and the wear itself."""
MOST_FACTOR = 1.5
"""Nobody is told more than that without a test: further than its tests a slope is a guess, and too much force goes
through."""


@dataclass(frozen=True)
class TakenTest:
    """A test cut that was taken over: what it was of, its force, and what the blade had cut until then, metres."""

    key: BookKey
    force: float
    blade_m: float


@dataclass(frozen=True)
class Wear:
    """By how much the logarithm of force grows a metre, its standard error, and from how many tests."""

    per_m: float
    error: float
    tests: int

    def factor(self, metres: float) -> float:
        """Force so many metres later, as a share of what it was: between 1 / `MOST_FACTOR` and `MOST_FACTOR`."""
        most = float(np.log(MOST_FACTOR))
        return float(np.exp(np.clip(self.per_m * metres, -most, most)))


def wear_of(tests: Sequence[TakenTest]) -> Wear | None:
    """The wear of one plotter's blade; None as long as its tests do not show any."""
    if not tests:
        return None
    _, level = np.unique([repr(test.key) for test in tests], return_inverse=True)
    metres = np.array([test.blade_m for test in tests])
    force = np.log([test.force for test in tests])
    counts = np.bincount(level)
    x, y = (each - (np.bincount(level, each) / counts)[level] for each in (metres, force))
    free, spread = len(tests) - len(counts) - 1, float(x @ x)
    if free < LEAST_FREE or spread <= 0:
        return None
    per_m = float(x @ y) / spread
    left = y - per_m * x
    variance = (float(left @ left) + NOISE_TESTS * NOISE**2) / (free + NOISE_TESTS)
    error = float(np.sqrt(variance / spread))
    if per_m <= stdtrit(free + NOISE_TESTS, SURE) * error:
        return None
    return Wear(per_m, error, len(tests))
