"""Figures worth looking at: yield and slip over time with their limits, causes, hours and waste."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime

import numpy as np
from numpy.typing import NDArray
from sqlalchemy.orm import Session

from perisect.core.ledger.control import Limits, Share, limits_of_shares, limits_of_values, pareto
from perisect.core.ledger.count import Count, found_on
from perisect.services.costing import get_rates
from perisect.store import figures
from perisect.store.figures import CutPoint


@dataclass(frozen=True)
class Point:
    """A value of one cut, its limits where there are any, and, of one outside them, what changed that day."""

    run: int
    job: int
    at: datetime
    value: float
    low: float | None
    high: float | None
    outside: bool
    changed: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class Chart:
    """Points in time, with the middle line where there is one."""

    points: list[Point]
    middle: float | None


@dataclass(frozen=True)
class Figures:
    """What the shop's records show of some days."""

    yields: Chart
    slips: Chart
    causes: Sequence[Share]
    hours: dict[str, float]
    """By station; those at machines as measured, those by hand as the shop reckons them."""
    waste: Sequence[Share]


def figures_of(session: Session, days: int, plotter: str | None, stock: str | None) -> Figures:
    """Of the last days, of one plotter or stock or of all."""
    cuts = figures.cuts(session, days, plotter, stock)
    changes = figures.changes(session, days)
    counted = [cut for cut in cuts if cut.of]
    measured = [cut for cut in cuts if cut.slip_mm is not None]
    good = np.array([cut.good or 0 for cut in counted], np.int64)
    of = np.array([cut.of or 0 for cut in counted], np.int64)
    slips = np.array([cut.slip_mm or 0.0 for cut in measured], np.float64)
    causes = Counter[str]()
    for cut in counted:
        stickers = [str(each["design"]) for each in cut.stickers or []]
        causes += found_on(Count.model_validate(cut.count), stickers).causes
    return Figures(
        _chart(counted, good / np.maximum(of, 1), limits_of_shares(good, of), changes),
        _chart(measured, slips, limits_of_values(slips), changes),
        pareto(causes),
        _hours(session, days, cuts),
        pareto(figures.spoiled(session, days)),
    )


def _chart(
    cuts: Sequence[CutPoint],
    values: NDArray[np.float64],
    limits: Limits | None,
    changes: Sequence[tuple[datetime, str]],
) -> Chart:
    outside = np.zeros(len(values), np.bool_) if limits is None else limits.outside(values)
    points = [
        Point(
            cut.run,
            cut.job,
            cut.at,
            float(values[n]),
            None if limits is None else float(limits.low[n]),
            None if limits is None else float(limits.high[n]),
            bool(outside[n]),
            [what for when, what in changes if when.date() == cut.at.date()] if outside[n] else [],
        )
        for n, cut in enumerate(cuts)
    ]
    return Chart(points, None if limits is None else limits.middle)


def _hours(session: Session, days: int, cuts: Sequence[CutPoint]) -> dict[str, float]:
    rates, sheets = get_rates(session), figures.printed(session, days)
    stickers = sum(len(cut.stickers or []) for cut in cuts)
    return {
        "Print": sheets * rates.print_min / 60,
        "Cut": sum(cut.seconds for cut in cuts) / 3600,
        "Load and unload": len(cuts) * rates.sheet_min / 60,
        "Weed and count": stickers * rates.sticker_s / 3600,
    }
