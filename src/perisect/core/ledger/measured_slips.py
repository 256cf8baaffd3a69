"""Slips as they were measured, and as they truly are: the noise of the measuring taken out.

What is measured of a slip is the slip and the measuring's own error, so measured slips lie further apart than true
ones, and a border that keeps the measured ones is too wide. How far true slips scatter within sheets, and sheets among
each other, follows from the squares of what was measured and what each is sure to: the weighed sum of squares is a
chi-square whatever each is sure to (Paule and Mandel 1982, "Consensus values and weighting factors"), and each of its
quantiles gives a scatter that may be the true one. Deviations are drawn in to that scatter.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import chdtri

from perisect.core.cutting.trueing import COMPONENTS, Trueing, basis
from perisect.core.ledger.calibration import SheetSlips

MAY_BE = 8
"""As many scatters, evenly probable, stand for what is not known of it."""
HALVINGS = 60
WIDEST_MM = 1e3


@dataclass(frozen=True)
class MeasuredSheet:
    """Slips (n, 2) of a sheet's stickers and the deviation of what was measured from them, each way, (n,), mm."""

    slips_mm: NDArray[np.float64]
    noise_mm: NDArray[np.float64]


def as_trued(
    sheets: Sequence[SheetSlips], noise_mm: Sequence[NDArray[np.float64]], now: Trueing
) -> list[MeasuredSheet]:
    """Sheets of one plotter as it would cut them now.

    What it is trued by was fitted to those that were cut otherwise, so they lie nearer to it than what is to come. What
    all stickers of a sheet share (shifts, turn, scales and skew) has (S - 1) / S of its variance beside a fit to S
    sheets that it is one of, and (S + 1) / S beside a fit to others: by the root of their ratio it is put further out.
    """
    fitted = sum(sheet.trued != now for sheet in sheets)
    more = np.sqrt((fitted + 1) / (fitted - 1)) if fitted > 1 else 1.0
    found = []
    for sheet, noise in zip(sheets, noise_mm, strict=True):
        slips = sheet.trued_by(now).slips_mm
        if sheet.trued != now and len(slips):
            design = basis(sheet.places_mm, sheet.middle_mm).reshape(-1, len(COMPONENTS))
            shared = design @ np.linalg.lstsq(design, slips.ravel(), rcond=None)[0]
            slips = slips + (more - 1) * shared.reshape(-1, 2)
        found.append(MeasuredSheet(slips, noise))
    return found


def as_they_may_be(sheets: Sequence[MeasuredSheet]) -> list[list[NDArray[np.float64]]]:
    """How far stickers slip, mm, by sheet: as measured where that is exact, otherwise in several ways that are as
    probable as each other.

    Args:
        sheets: each with a sticker at least.
    """
    slips = [np.asarray(sheet.slips_mm, float) for sheet in sheets]
    squares = [np.asarray(sheet.noise_mm, float) ** 2 for sheet in sheets]
    if not any(each.any() for each in squares):
        return [[np.hypot(*each.T) for each in slips]]
    means = np.array([each.mean(axis=0) for each in slips])
    of_means = np.array([each.sum() / len(each) ** 2 for each in squares])
    off = [each - mean for each, mean in zip(slips, means, strict=True)]
    whole = means.mean(axis=0)
    free = 2 * (sum(map(len, slips)) - len(slips))
    shares = (np.arange(MAY_BE) + 0.5) / MAY_BE
    within = _scatters(np.concatenate(off), np.concatenate(squares), free, shares)
    # Nothing joins how stickers scatter to how sheets do: each is taken with another's share.
    between = _scatters(means - whole, of_means, 2 * (len(slips) - 1), np.roll(shares[::-1], MAY_BE // 2))
    found = []
    for inside, outside in zip(within, between, strict=True):
        drawn = whole + (means - whole) * _drawn_in(outside, of_means)[:, None]
        found.append(
            [
                np.hypot(*(mean + each * _drawn_in(inside, noise)[:, None]).T)
                for mean, each, noise in zip(drawn, off, squares, strict=True)
            ]
        )
    return found


def _drawn_in(scatter: float, noise: NDArray[np.float64]) -> NDArray[np.float64]:
    """By which part a deviation is the true one's, for squares of scatter and noise."""
    return np.sqrt(scatter / np.maximum(scatter + noise, 1e-18))


def _scatters(
    off: NDArray[np.float64], noise: NDArray[np.float64], free: int, shares: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Squares of the true scatter, each way: as probable as not to be less than each with these shares, for deviations
    (n, 2) and squares of their noise (n,)."""
    if free < 1:
        return np.zeros(len(shares))
    square = (off**2).sum(axis=1)
    wanted = chdtri(free, shares)
    # The sum falls as the scatter grows: halving finds where it is as wanted, for all shares at once.
    low, high = np.zeros(len(shares)), np.full(len(shares), WIDEST_MM**2)
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        is_more = (square / np.maximum(middle[:, None] + noise, 1e-18)).sum(axis=1) > wanted
        low, high = np.where(is_more, middle, low), np.where(is_more, high, middle)
    return np.where(high < 1e-12, 0.0, high)
