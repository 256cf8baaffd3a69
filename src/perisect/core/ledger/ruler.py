"""Slip by ruler: the white at the four sides of a few stickers says how the whole sheet was cut.

The sheet's error is taken for two shifts, a turn and two scales about its middle, with a scatter from sticker to
sticker. A reading to the nearest mark of the ruler is off evenly by up to half of it. What is usual for turns and
scales is known beforehand, so that three stickers are enough (linear model with a normal prior; Bishop, Pattern
Recognition and Machine Learning, 3.3).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

RULER_MM = 0.25
"""What a ruler is read to."""
SCATTER_MM = 0.05
"""Usual of stickers of one sheet, along each axis."""
PRIOR = np.array([1.0, 1.0, 0.004, 0.004, 0.004])
"""Usual shifts (mm), turn (rad) and scales (share)."""
FEWEST, USUAL, MOST = 3, 4, 5
SURE = 0.95
FAR_MM = 6.0
"""A sticker is not cut so far beside its art without being seen."""

Floats = NDArray[np.float64]


class RulerImpossible(ValueError):
    """Readings that cannot be; the text says why."""


@dataclass(frozen=True)
class Reading:
    """The white at the sides of a sticker, mm, from the art to its line."""

    sticker: int
    left_mm: float
    right_mm: float
    top_mm: float
    bottom_mm: float


@dataclass(frozen=True)
class RulerSlips:
    """(n, 2) slip of every sticker, and how sure each is along each axis (95 %), (n, 2), mm."""

    slips_mm: Floats
    sure_mm: Floats


def to_measure(places_mm: Floats, many: int = USUAL) -> list[int]:
    """The stickers that tell most: chosen one after the other, each with which the fit is surest (D-optimal design,
    Atkinson and Donev 1992).

    Args:
        places_mm: (n, 2) middles of all stickers.
    """
    design = _design(places_mm)
    noise = _noise()
    information = np.diag(1 / PRIOR**2)
    chosen: list[int] = []
    for _ in range(min(many, len(places_mm))):
        gains = [
            -np.inf if n in chosen else np.linalg.slogdet(information + design[n].T @ design[n] / noise)[1]
            for n in range(len(places_mm))
        ]
        best = int(np.argmax(gains))
        chosen.append(best)
        information = information + design[best].T @ design[best] / noise
    return sorted(chosen)


def ruler_slips(readings: Sequence[Reading], places_mm: Floats) -> RulerSlips:
    """Slips of all stickers by those that were measured.

    Raises:
        RulerImpossible: too few, one twice, one that is not there, or no readings of a cut sheet.
    """
    numbers = [each.sticker for each in readings]
    if len(set(numbers)) != len(numbers) or any(not 0 <= n < len(places_mm) for n in numbers):
        raise RulerImpossible("Each sticker is measured once, and is one of the sheet.")
    if len(numbers) < min(FEWEST, len(places_mm)):
        raise RulerImpossible(f"Measure {FEWEST} stickers or more: fewer do not tell a turn from a shift.")
    sides = np.array([(r.left_mm, r.right_mm, r.top_mm, r.bottom_mm) for r in readings])
    seen = np.column_stack([sides[:, 1] - sides[:, 0], sides[:, 3] - sides[:, 2]]) / 2
    if np.abs(seen).max() > FAR_MM:
        raise RulerImpossible(
            "One of these lies so far beside its art that it came loose: measure another one."
        )
    design, noise = _design(places_mm), _noise()
    mine = design[numbers].reshape(-1, design.shape[2])
    precision = np.diag(1 / PRIOR**2) + mine.T @ mine / noise
    covariance = np.linalg.inv(precision)
    fit = covariance @ mine.T @ seen.ravel() / noise
    slips = design @ fit
    spread = np.einsum("nij,jk,nik->ni", design, covariance, design) + SCATTER_MM**2
    # What the readings do not fit by says that this sheet scatters more than is usual.
    left = seen.ravel() - mine @ fit
    more = max(1.0, float(left @ left / noise / max(len(left) - 2, 1)))
    sure = float(ndtri(0.5 + SURE / 2))
    return RulerSlips(np.asarray(slips), sure * np.sqrt(spread * more))


def _noise() -> float:
    """Variance of one axis of one sticker as it is read: half the difference of two readings, which round alike where
    the border is a whole mark of the ruler, and its scatter."""
    return RULER_MM**2 / 12 + SCATTER_MM**2


def _design(places_mm: Floats) -> Floats:
    """(n, 2, 5): how shifts, turn and scales move each sticker along each axis."""
    middle = (places_mm.min(axis=0) + places_mm.max(axis=0)) / 2
    x, y = (places_mm - middle).T
    one, none = np.ones_like(x), np.zeros_like(x)
    return np.stack(
        [np.column_stack([one, none, -y, x, none]), np.column_stack([none, one, x, none, y])], axis=1
    )
