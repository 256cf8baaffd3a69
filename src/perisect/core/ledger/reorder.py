"""When to order: from the use of past days, the level at which what is there lasts until the delivery, with a stated
chance of running out."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from scipy import stats

LEAST_DAYS = 7
"""Of use known, before a forecast is made."""


@dataclass(frozen=True)
class Forecast:
    """Use a day in the mean, days that the level lasts at it, the level to order at, how likely it runs out before a
    delivery ordered now, and how much to order (0 for nothing)."""

    a_day: float
    lasts_days: float
    reorder_at: float
    runs_out: float
    order: float


def use_within(daily: NDArray[np.float64], days: int) -> "stats.distributions.rv_frozen":
    """What is used within the next days, as a distribution over whole units.

    The days before are taken for draws of one law. The sum of the next ones has their mean, and a variance that holds
    the mean's own uncertainty; a negative binomial law of these moments where it spreads more than a Poisson law, which
    it is otherwise (Hyndman and Athanasopoulos, Forecasting: Principles and Practice, 3rd ed., 13.2; moments by Cameron
    and Trivedi, Regression Analysis of Count Data, 3.3).

    Args:
        daily: (n,) use of each past day.
    """
    from scipy import stats  # Half a second to load, and few ask.

    mean = max(float(daily.mean()) * days, 1e-9)
    spread = float(daily.var(ddof=1)) if len(daily) > 1 else mean
    variance = spread * days * (1 + days / len(daily))
    if variance <= mean:
        return stats.poisson(mean)
    return stats.nbinom(mean**2 / (variance - mean), mean / variance)


def forecast(
    level: float, daily: NDArray[np.float64], delivery_days: int, pack: float, chance: float
) -> Forecast | None:
    """What is to be said of an item; None as long as fewer than `LEAST_DAYS` of use are known, or nothing was used.

    Args:
        level: what is there.
        daily: (n,) use of each past day, in its unit.
        delivery_days: until what is ordered is there.
        pack: what is bought at once.
        chance: of running out before a delivery, that the shop takes.
    """
    if len(daily) < LEAST_DAYS or daily.sum() <= 0:
        return None
    # Small use is counted in parts of a unit, so that whole numbers do not hide it.
    unit = min(1.0, float(daily[daily > 0].mean()) / 20)
    # A day longer: it is used up on the day of the delivery too.
    until = use_within(daily / unit, delivery_days + 1)
    reorder_at = float(until.ppf(1 - chance)) * unit
    a_day = float(daily.mean())
    runs_out = float(until.sf(np.floor(max(level, 0) / unit)))
    packs = 0.0 if level > reorder_at else np.ceil(max(reorder_at + pack / 2 - level, pack) / pack)
    return Forecast(a_day, max(level, 0) / a_day, reorder_at, runs_out, float(packs * pack))
