"""A measured figure beside its baseline."""

import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Figure:
    """`ours` and `baseline` in the same unit; `bar` is what ours has to stay under, in that unit too."""

    name: str
    ours: float
    baseline: float
    unit: str
    baseline_is: str
    bar: float | None = None

    def __str__(self) -> str:
        bar = (
            "" if self.bar is None else f"  bar {self.bar:.3f} {'met' if self.ours <= self.bar else 'MISSED'}"
        )
        return (
            f"{self.name:<44} ours {self.ours:9.3f} {self.unit}  "
            f"{self.baseline_is} {self.baseline:9.3f} {self.unit}  ratio {self.ours / self.baseline:6.2f}{bar}"
        )


def seconds(work: Callable[[], object], times: int = 7) -> float:
    """Median time of `work`."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return float(np.median(taken))


def seconds_beside(
    work: Callable[[], object], baseline: Callable[[], object], times: int = 15
) -> tuple[float, float]:
    """Median times of both, in turns: what else the machine does falls on either."""
    taken: tuple[list[float], list[float]] = [], []
    for _ in range(times):
        for each, times_of_it in zip((work, baseline), taken, strict=True):
            times_of_it.append(seconds(each, 1))
    return float(np.median(taken[0])), float(np.median(taken[1]))
