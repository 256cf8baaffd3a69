"""Figures of what was counted and measured: control limits, points outside them, and causes by weight."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

LEAST_POINTS = 5
"""Before limits are drawn."""
MOVING_RANGE = 0.954
"""Median of the range of two draws of a normal law, in its deviations: a single bad day does not widen its own limits
(Wheeler, Understanding Variation)."""


@dataclass(frozen=True)
class Limits:
    """Middle line and control limits of each point, (n,) each."""

    middle: float
    low: NDArray[np.float64]
    high: NDArray[np.float64]

    def outside(self, values: NDArray[np.float64]) -> NDArray[np.bool_]:
        """Which points lie beyond the limits."""
        return (values < self.low) | (values > self.high)


def limits_of_shares(good: NDArray[np.int64], of: NDArray[np.int64]) -> Limits | None:
    """Of shares of unlike counts: three deviations of the binomial law round the common share (p chart, Montgomery,
    Introduction to Statistical Quality Control, 7.2), which widens by what shares spread between sheets beyond that
    law (Laney 2002); None for too few."""
    if len(of) < LEAST_POINTS or of.min() < 1:
        return None
    share = float(good.sum() / of.sum())
    deviation = np.sqrt(max(share * (1 - share), 1e-9) / of)
    scores = (good / of - share) / deviation
    between = float(np.median(np.abs(np.diff(scores))) / MOVING_RANGE)
    reach = 3 * deviation * max(between, 1.0)
    return Limits(share, np.clip(share - reach, 0, 1), np.clip(share + reach, 0, 1))


def limits_of_values(values: NDArray[np.float64]) -> Limits | None:
    """Of single values: three deviations round their mean, the deviation from the median moving range of neighbours
    (individuals chart, Montgomery 6.4); None for too few. Lengths do not go below 0."""
    if len(values) < LEAST_POINTS:
        return None
    middle = float(values.mean())
    reach = 3 * float(np.median(np.abs(np.diff(values)))) / MOVING_RANGE
    low, high = max(0.0, middle - reach), middle + reach
    return Limits(middle, np.full(len(values), low), np.full(len(values), high))


@dataclass(frozen=True)
class Share:
    """A cause with how often it was, and the share of it and of all before it."""

    name: str
    count: int
    cumulative: float


def pareto(counts: Mapping[str, int]) -> Sequence[Share]:
    """Causes, the most frequent first, with the share that they make together."""
    ranked = sorted(((name, n) for name, n in counts.items() if n > 0), key=lambda each: (-each[1], each[0]))
    total = sum(n for _, n in ranked)
    passed = np.cumsum([n for _, n in ranked]) / max(total, 1)
    return [Share(name, n, float(share)) for (name, n), share in zip(ranked, passed, strict=True)]
