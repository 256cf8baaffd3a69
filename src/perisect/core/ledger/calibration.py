"""What the slips of many sheets say of their plotter: which part of its error is real, and how much it scatters.

All slips of a plotter are fitted with two shifts, a turn, two scales and a skew about the sheet's middle, by least
squares. Stickers of one sheet share what its sensing was off by, so what is not explained is summed by sheet before it
says how sure the fit is (the variance by clusters of Liang and Zeger 1986, with its factor S / (S - 1)); each component
is put to an F-test with 1 and S - 1 degrees of freedom, and Holm's steps (1979) keep the chance of naming any of them
falsely at five in a hundred.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import chdtri, fdtrc

from perisect.core.cutting.trueing import COMPONENTS, MOST_SHARE, MOST_SHIFT_MM, Trueing, basis

LEAST_SHEETS = 4
LEVEL = 0.05
RELEVANT_MM = 0.02
"""A component that moves no sticker by so much is left alone, however sure it is."""
STEADY_MM = 0.05
"""A plotter that is well scatters by less, along each axis."""
LOOSE_MM = 1.0
"""A sticker so far beside the others of its sheet came loose: it says nothing of the plotter."""


@dataclass(frozen=True)
class SheetSlips:
    """Slips of one sheet: (n, 2) places and slips, mm, the sheet's middle, what the cut was trued by, where the sheet's
    marks are, and (n,) how many lines were cut until each sticker's was; None where nobody kept that."""

    places_mm: NDArray[np.float64]
    slips_mm: NDArray[np.float64]
    middle_mm: tuple[float, float]
    trued: Trueing = Trueing()
    marks_mm: tuple[tuple[float, float], ...] = ()
    turns: NDArray[np.int64] | None = None

    def only(self, stickers: NDArray[np.int64]) -> "SheetSlips":
        """The same sheet with these stickers alone."""
        turns = None if self.turns is None else self.turns[stickers]
        return replace(
            self, places_mm=self.places_mm[stickers], slips_mm=self.slips_mm[stickers], turns=turns
        )

    def trued_by(self, trueing: Trueing) -> "SheetSlips":
        """The same sheet, had it been cut by another trueing."""
        slips = self.slips_mm + self.trued.error_at(self.places_mm, self.middle_mm)
        slips = slips - trueing.error_at(self.places_mm, self.middle_mm)
        return replace(self, slips_mm=slips, trued=trueing)


@dataclass(frozen=True)
class Component:
    """One part of the error: its size and standard error (mm, rad or share), by how much it moves the sticker it moves
    most, mm, the chance of seeing so much where there is none, and whether it is real."""

    name: str
    value: float
    error: float
    largest_mm: float
    p: float
    is_real: bool


@dataclass(frozen=True)
class Calibration:
    """What many sheets say of a plotter.

    `within_mm` is how much stickers of one sheet scatter, `between_mm` how much sheets are shifted against each other
    beyond that, both along each axis; `loose` stickers were left out.
    """

    sheets: int
    stickers: int
    loose: int
    components: tuple[Component, ...]
    within_mm: float
    between_mm: float
    is_scattered: bool
    is_uneven: bool
    mean_slip_mm: float
    """Of the stickers as they were cut."""

    @property
    def real(self) -> tuple[Component, ...]:
        """Components that are."""
        return tuple(each for each in self.components if each.is_real)

    @property
    def trueing(self) -> Trueing:
        """What is real, to be taken out of every cut; of what is out of all reason as much as can be taken out."""
        most = {
            each.name: MOST_SHIFT_MM if each.name.startswith("shift") else MOST_SHARE for each in self.real
        }
        return Trueing(**{c.name: float(np.clip(c.value, -most[c.name], most[c.name])) for c in self.real})


def calibrate(sheets: Sequence[SheetSlips]) -> Calibration | None:
    """Of a plotter by its sheets; None where there are too few to tell."""
    kept = [without_loose(sheet) for sheet in sheets if len(sheet.places_mm)]
    if len(kept) < LEAST_SHEETS:
        return None
    stickers = sum(len(sheet.places_mm) for sheet in kept)
    designs = [basis(sheet.places_mm, sheet.middle_mm).reshape(-1, 6) for sheet in kept]
    # What a cut was trued by is part of what the plotter does.
    errors = [
        (sheet.slips_mm + sheet.trued.error_at(sheet.places_mm, sheet.middle_mm)).ravel() for sheet in kept
    ]
    design, error = np.vstack(designs), np.concatenate(errors)
    inverse = np.linalg.pinv(design.T @ design)
    values = inverse @ design.T @ error
    left = [e - d @ values for d, e in zip(designs, errors, strict=True)]
    scores = np.array([d.T @ r for d, r in zip(designs, left, strict=True)])
    count = len(kept)
    variance = inverse @ (scores.T @ scores) @ inverse * count / (count - 1)
    deviations = np.sqrt(np.maximum(np.diag(variance), 0))
    reach = np.abs(design).max(axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        p = fdtrc(1, count - 1, np.where(deviations > 0, values**2 / deviations**2, 0.0))
    named = _holm(p)
    components = tuple(
        Component(
            name,
            float(values[n]),
            float(deviations[n]),
            float(abs(values[n]) * reach[n]),
            float(p[n]),
            bool(named[n] and abs(values[n]) * reach[n] >= RELEVANT_MM),
        )
        for n, name in enumerate(COMPONENTS)
    )
    within, within_free, between, between_free = _scatter(left)
    return Calibration(
        count,
        stickers,
        sum(len(sheet.places_mm) for sheet in sheets) - stickers,
        components,
        within,
        between,
        _exceeds(within, within_free),
        _exceeds(between, between_free),
        float(np.hypot(*np.vstack([sheet.slips_mm for sheet in kept]).T).mean()),
    )


def _holm(p: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which hypotheses fall, at LEVEL for all together."""
    order = np.argsort(p)
    falls = np.minimum.accumulate(p[order] <= LEVEL / (len(p) - np.arange(len(p))))
    named = np.zeros(len(p), bool)
    named[order] = falls
    return named


def without_loose(sheet: SheetSlips) -> SheetSlips:
    """A sheet without stickers that came loose."""
    off = np.hypot(*(sheet.slips_mm - np.median(sheet.slips_mm, axis=0)).T)
    return sheet.only(np.flatnonzero(off <= LOOSE_MM))


def _scatter(left: Sequence[NDArray[np.float64]]) -> tuple[float, int, float, int]:
    """Standard deviations along an axis within sheets and of sheets' shifts beyond that, and their degrees of freedom.

    One-way analysis of variance with random groups of unequal size (Searle 1971), each axis by itself and both pooled.
    """
    pairs = [each.reshape(-1, 2) for each in left]
    sizes = np.array([len(each) for each in pairs], float)
    means = np.array([each.mean(axis=0) for each in pairs])
    free = int(2 * (sizes.sum() - len(pairs)))
    inside = sum(float(((each - mean) ** 2).sum()) for each, mean in zip(pairs, means, strict=True))
    within = inside / free if free else 0.0
    grand = (means * sizes[:, None]).sum(axis=0) / sizes.sum()
    groups = float((sizes[:, None] * (means - grand) ** 2).sum()) / (2 * (len(pairs) - 1))
    size = (sizes.sum() - (sizes**2).sum() / sizes.sum()) / (len(pairs) - 1)
    between = max(groups - within, 0.0) / size if free else groups / size
    return within**0.5, free, between**0.5, 2 * (len(pairs) - 1)


def _exceeds(deviation: float, free: int) -> bool:
    """Whether a standard deviation is beyond STEADY_MM, 95 % sure."""
    return bool(free > 0 and free * deviation**2 / STEADY_MM**2 > chdtri(free, LEVEL))
