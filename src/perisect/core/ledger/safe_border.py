"""The least border that keeps stickers whole, from what was measured: a one-sided tolerance bound.

Slips of one sheet are alike, so a sheet is a group of a one-way random model of the slips, taken to a power that makes
them like normal (Box and Cox 1964); what few slips leave open of the power, widens the bound: each has the share of its
likelihood. The bound on the wanted share of stickers is the wanted quantile of its
generalised pivotal quantity (Krishnamoorthy and Mathew 2004, "One-sided tolerance limits in balanced and unbalanced
one-way random models"), drawn by a fixed seed. Where slips are measured with noise, they are drawn by each way in
which they may truly be.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr, ndtri

from perisect.core.ledger.measured_slips import MeasuredSheet, as_they_may_be

SHARE, SURE = 0.95, 0.95
LEAST_SHEETS, LEAST_STICKERS = 5, 20
DRAWS = 8000
POWERS = (0.25, 0.5, 0.75, 1.0)
FLOOR_MM = 1e-3
COUNT_AS = 7
"""Stickers of a sheet are alike: in what they say of the power they count as no more than so many. Chosen by simulated
shops of 10, 27 and 100 sheets: 95.0, 96.0 and 97.0 of a hundred borders hold so, 92.8, 94.5 and 95.8 with all counted
and the likeliest power alone."""


@dataclass(frozen=True)
class SafeBorder:
    """The least border, mm, by how many sheets and stickers; `lost_at` tells what another one costs."""

    border_mm: float
    sheets: int
    stickers: int
    powers: NDArray[np.float64]
    means: NDArray[np.float64]
    deviations: NDArray[np.float64]
    """Draws of the power, and of the mean and the deviation of a sticker's slip to that power."""

    def lost_at(self, border_mm: float) -> float:
        """The share of stickers that slip further than a border, as far as is known."""
        if border_mm <= 0:
            return 1.0
        return float(ndtr((self.means - border_mm**self.powers) / self.deviations).mean())


def safe_border(sheets: Sequence[MeasuredSheet]) -> SafeBorder | None:
    """By what was measured; None where there are too few sheets or stickers."""
    sheets = [sheet for sheet in sheets if len(sheet.slips_mm)]
    stickers = sum(len(sheet.slips_mm) for sheet in sheets)
    if len(sheets) < LEAST_SHEETS or stickers < LEAST_STICKERS:
        return None
    ways = [[np.maximum(sheet, FLOOR_MM) for sheet in way] for way in as_they_may_be(sheets)]
    middle = np.concatenate(ways[len(ways) // 2])
    rng = np.random.default_rng(95)
    drawn = [
        (np.full(many, power), *_draws([sheet**power for sheet in way], rng, many))
        for power, share in zip(POWERS, _shares(middle, len(sheets)), strict=True)
        if (many := round(DRAWS * share / len(ways))) > 0
        for way in ways
    ]
    powers, means, deviations = (np.concatenate(each) for each in zip(*drawn, strict=True))
    bounds = np.maximum(means + ndtri(SHARE) * deviations, 0.0) ** (1 / powers)
    return SafeBorder(float(np.quantile(bounds, SURE)), len(sheets), stickers, powers, means, deviations)


def _shares(slips: NDArray[np.float64], sheets: int) -> NDArray[np.float64]:
    """Of each power, as probable as it makes the slips of so many sheets."""
    if np.ptp(slips) <= FLOOR_MM:
        # What is nothing but noise has no shape.
        return np.array([float(power == 1.0) for power in POWERS])
    likelihoods = np.array([_likelihood(slips, power) for power in POWERS])
    shares = np.exp((likelihoods - likelihoods.max()) * min(1.0, COUNT_AS * sheets / len(slips)))
    return np.asarray(shares / shares.sum())


def _likelihood(slips: NDArray[np.float64], power: float) -> float:
    """Log likelihood of normal slips after a power, Box and Cox's with the Jacobian."""
    from scipy import stats  # Half a second to load, and few ask.

    return float(stats.boxcox_llf(power, slips))


def _draws(
    sheets: Sequence[NDArray[np.float64]], rng: np.random.Generator, many: int
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(many,) generalised pivotal quantities of the mean and of a sticker's whole deviation."""
    count, sizes = len(sheets), np.array([len(sheet) for sheet in sheets], float)
    own = np.array([sheet.mean() for sheet in sheets])
    between = float(((own - own.mean()) ** 2).sum())
    within = sum(float(((sheet - sheet.mean()) ** 2).sum()) for sheet in sheets)
    free = int(sizes.sum()) - count
    groups = between / rng.chisquare(count - 1, many)
    inside = within / rng.chisquare(free, many) if free else np.zeros(many)
    means = own.mean() + rng.standard_normal(many) * np.sqrt(groups / count)
    # A mean of n stickers varies by the sheets' variance and an n-th of the stickers'.
    of_sheets = np.maximum(groups - inside * (1 / sizes).mean(), 0.0)
    return means, np.sqrt(np.maximum(of_sheets + inside, 1e-18))
