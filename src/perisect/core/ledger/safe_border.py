"""The least border that keeps stickers whole, from what was measured: a one-sided tolerance bound.

Slips of one sheet are alike, so a sheet is a group of a one-way random model of the slips, taken to the power that
makes them most like normal (Box and Cox 1964). The bound on the wanted share of stickers is the wanted quantile of its
generalised pivotal quantity (Krishnamoorthy and Mathew 2004, "One-sided tolerance limits in balanced and unbalanced
one-way random models"), drawn by a fixed seed.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr, ndtri

SHARE, SURE = 0.95, 0.95
LEAST_SHEETS, LEAST_STICKERS = 5, 20
DRAWS = 8000
POWERS = (0.25, 0.5, 0.75, 1.0)
FLOOR_MM = 1e-3


@dataclass(frozen=True)
class SafeBorder:
    """The least border, mm, by how many sheets and stickers; `lost_at` tells what another one costs."""

    border_mm: float
    sheets: int
    stickers: int
    power: float
    means: NDArray[np.float64]
    deviations: NDArray[np.float64]
    """Draws of the mean and of the deviation of a sticker, both of the slip's power."""

    def lost_at(self, border_mm: float) -> float:
        """The share of stickers that slip further than a border, as far as is known."""
        if border_mm <= 0:
            return 1.0
        return float(ndtr((self.means - border_mm**self.power) / self.deviations).mean())


def safe_border(slips_mm: Sequence[Sequence[float]]) -> SafeBorder | None:
    """Of slips by sheet; None where there are too few.

    Args:
        slips_mm: for each sheet those of its stickers.
    """
    sheets = [np.maximum(np.asarray(sheet, float), FLOOR_MM) for sheet in slips_mm if len(sheet)]
    stickers = sum(len(sheet) for sheet in sheets)
    if len(sheets) < LEAST_SHEETS or stickers < LEAST_STICKERS:
        return None
    power = max(POWERS, key=lambda each: _likelihood(np.concatenate(sheets), each))
    means, deviations = _draws([sheet**power for sheet in sheets])
    bounds = means + ndtri(SHARE) * deviations
    border = max(float(np.quantile(bounds, SURE)), 0.0) ** (1 / power)
    return SafeBorder(border, len(sheets), stickers, power, means, deviations)


def _likelihood(slips: NDArray[np.float64], power: float) -> float:
    """Log likelihood of normal slips after a power, Box and Cox's with the Jacobian."""
    from scipy import stats  # Half a second to load, and few ask.

    return float(stats.boxcox_llf(power, slips))


def _draws(sheets: Sequence[NDArray[np.float64]]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Generalised pivotal quantities of the mean and of a sticker's whole deviation."""
    rng = np.random.default_rng(95)
    count, sizes = len(sheets), np.array([len(sheet) for sheet in sheets], float)
    own = np.array([sheet.mean() for sheet in sheets])
    between = float(((own - own.mean()) ** 2).sum())
    within = sum(float(((sheet - sheet.mean()) ** 2).sum()) for sheet in sheets)
    free = int(sizes.sum()) - count
    groups = between / rng.chisquare(count - 1, DRAWS)
    inside = within / rng.chisquare(free, DRAWS) if free else np.zeros(DRAWS)
    means = own.mean() + rng.standard_normal(DRAWS) * np.sqrt(groups / count)
    # A mean of n stickers varies by the sheets' variance and an n-th of the stickers'.
    of_sheets = np.maximum(groups - inside * (1 / sizes).mean(), 0.0)
    return means, np.sqrt(np.maximum(of_sheets + inside, 1e-18))
