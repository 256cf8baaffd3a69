"""Many shops on all cores, and what they come to."""

import os
from collections import defaultdict
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from typing import Any

import numpy as np
from numpy.typing import NDArray

from perisect.offline.judge.play import Outcome, Play
from perisect.offline.judge.truth import Shop
from perisect.offline.judge.ways import ADVICE, HABITS, Way

Progress = Callable[[int, int], None]
FIGURES = ("first_sheet_yield", "sheets_per_100_good", "minutes_per_100_good", "test_cuts", "late_orders")


def judge(shops: int, seed: int, habit: str | None, progress: Progress = lambda *_: None) -> dict[str, Any]:
    """Play shops by advice and by each habit, or by one; their figures with 95 % intervals, how much better the advice
    is (paired, shop by shop), and whether what was stated came true.

    Args:
        progress: hears how many shops are done, and of how many.
    """
    names = list(HABITS) if habit is None else [habit]
    asked = [(seed * 1_000_003 + number, tuple(names)) for number in range(shops)]
    played: list[dict[str, Outcome]] = []
    # One process a core; each shop is the same, whichever process plays it.
    with ProcessPoolExecutor(max_workers=os.cpu_count() or 1) as pool:
        for done, outcome in enumerate(pool.map(_play, asked, chunksize=4), start=1):
            played.append(outcome)
            progress(done, shops)
    advice = [each["advice"] for each in played]
    habits = {name: [each[name] for each in played] for name in names}
    first = [each.first_sheets[0] >= 0.95 and each.tests_before_first <= 1 for each in advice]
    return {
        "shops": shops,
        "seed": seed,
        "advice": _summed(advice),
        "habits": {name: _summed(outcomes) for name, outcomes in habits.items()},
        "margins": {name: _margins(advice, outcomes) for name, outcomes in habits.items()},
        "first_production_sheet": {"good_in_95_of_100": float(np.mean(first)), "n": shops},
        "calibration": _calibration(advice),
    }


def _play(asked: tuple[int, Sequence[str]]) -> dict[str, Outcome]:
    seed, names = asked
    ways: dict[str, Way] = {"advice": ADVICE, **{name: HABITS[name] for name in names}}
    return {name: Play(Shop(seed), way).run() for name, way in ways.items()}


def _figures(outcomes: Sequence[Outcome]) -> dict[str, NDArray[np.float64]]:
    """(shops,) each; what is by a hundred good ones is weighed by the good ones in the mean."""
    good = np.maximum([each.delivered for each in outcomes], 1) / 100
    return {
        "first_sheet_yield": np.array([np.mean(each.first_sheets) for each in outcomes]),
        "sheets_per_100_good": np.array([each.sheets for each in outcomes]) / good,
        "minutes_per_100_good": np.array([each.minutes for each in outcomes]) / good,
        "test_cuts": np.array([each.test_cuts for each in outcomes], float),
        "late_orders": np.array([each.late / each.orders for each in outcomes]),
    }


def _mean(values: NDArray[np.float64]) -> tuple[float, list[float]]:
    """Mean and its 95 % interval."""
    middle = float(values.mean())
    half = 1.96 * float(values.std(ddof=1)) / len(values) ** 0.5 if len(values) > 1 else float("inf")
    return middle, [middle - half, middle + half]


def _summed(outcomes: Sequence[Outcome]) -> dict[str, Any]:
    told: dict[str, Any] = {"intervals": {}}
    for name, values in _figures(outcomes).items():
        told[name], told["intervals"][name] = _mean(values)
    return told


def _margins(advice: Sequence[Outcome], habit: Sequence[Outcome]) -> dict[str, Any]:
    """By how much the advice is better, with its interval: above 0 is better."""
    ours, theirs = _figures(advice), _figures(habit)
    better = {name: (theirs[name] - ours[name]) for name in FIGURES}
    better["first_sheet_yield"] = -better["first_sheet_yield"]
    return {
        name: dict(zip(("better_by", "interval"), _mean(better[name]), strict=True))
        for name in FIGURES
        if name != "test_cuts"
    }


def _calibration(outcomes: Sequence[Outcome]) -> list[dict[str, Any]]:
    """Statements of the advice: what was stated on the average, and how often it came true."""
    by_name = defaultdict(list)
    for outcome in outcomes:
        for each in outcome.statements:
            by_name[each.name].append(each)
    return [
        {
            "statement": name,
            "stated": float(np.mean([each.stated for each in statements])),
            "came_true": float(np.mean([each.came_true for each in statements])),
            "n": len(statements),
        }
        for name, statements in sorted(by_name.items())
    ]
