"""What the combs of a calibration page show on a scan of it.

Beside each comb's axis lie printed teeth on one side and cut teeth alone on the other. Both strips are sampled along
the axis in mm of the page and averaged along the teeth; the place of a comb is where its teeth, all 25 at once, stand
out most from what is about them. A reading is by how much the cut comb lies beside the printed one.
"""

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.ledger.flat_sheet import NotTheSheet, located_however
from perisect.core.prepress.vernier import COMBS, PITCH_MM, STEP_MM, TEETH, Comb, combs
from perisect.core.sheet import Stock
from perisect.core.sheet.marks import Mark, MarkSettings

READS_TO_MM = 0.02
"""A reading of a scan of 300 ppi is good to so much."""
LEAST_PX_PER_MM = 7.5
LEAST_LEVELS = 8
NEAR_MM, FAR_MM = (1.8, 4.0), (4.4, 6.6)
"""From and to so far beside the axis there are teeth of one kind alone; from both follows where they meet it."""
PER_MM, ROWS = 40, 12
WIDTH_MM, ABOUT_MM = 0.08, 1.0
REACH_MM = 1.6
CLEAR = 7.0
"""A comb stands so many times above what other places of it would show."""

Grey = NDArray[np.uint8]


def scanned_readings(
    grey: Grey, marks: Sequence[Mark], settings: MarkSettings, stock: Stock
) -> dict[str, float]:
    """By comb, mm: what an (h, w) scan of the cut page shows, whichever way up it lay.

    Raises:
        NotTheSheet: its marks, or its cut teeth, are not seen, or the scan is too coarse, or black and white alone.
    """
    turned, page_to_px = located_however(grey, marks, settings, stock.width_mm, stock.height_mm)
    if np.count_nonzero(np.bincount(grey.ravel(), minlength=256)) < LEAST_LEVELS:
        raise NotTheSheet(
            "The scan is black and white alone, which moves every edge: scan in grey or colour."
        )
    if float(np.sqrt(abs(np.linalg.det(page_to_px[:2, :2])))) < LEAST_PX_PER_MM:
        raise NotTheSheet("The scan is too coarse for the combs: scan the page at 300 ppi.")
    readings = {}
    for name, comb in zip(COMBS, combs(stock), strict=True):
        printed = _at_the_axis(turned, page_to_px, comb, -1, PITCH_MM)
        cut = _at_the_axis(turned, page_to_px, comb, 1, PITCH_MM - STEP_MM)
        if printed is None:
            raise NotTheSheet("The printed combs are not seen: scan the calibration page whole, at 300 ppi.")
        if cut is None:
            raise NotTheSheet(
                f"The cut teeth of the {name} comb are not seen. Scan at 600 ppi without the lid's light through the "
                "sheet, or read the combs by eye."
            )
        readings[name] = cut - printed
    return readings


def _at_the_axis(
    grey: Grey, page_to_px: NDArray[np.float64], comb: Comb, side: int, pitch_mm: float
) -> float | None:
    """By how much a comb's teeth, drawn on to its axis, lie beside their places, mm; None where none stand out."""
    near, far = (
        _place(grey, page_to_px, comb, (side * strip[0], side * strip[1]), pitch_mm)
        for strip in (NEAR_MM, FAR_MM)
    )
    if near is None or far is None:
        return None
    there, beyond = sum(NEAR_MM) / 2, sum(FAR_MM) / 2
    return near - (far - near) / (beyond - there) * there


def _place(
    grey: Grey,
    page_to_px: NDArray[np.float64],
    comb: Comb,
    strip_mm: tuple[float, float],
    pitch_mm: float,
) -> float | None:
    """By how much a comb's teeth lie beside their places in a strip along its axis, mm."""
    from scipy.interpolate import CubicSpline  # Nearly half a second to load, and few ask.
    from scipy.ndimage import gaussian_filter1d, median_filter

    half = TEETH * PITCH_MM + REACH_MM + ABOUT_MM
    along = np.arange(-half, half, 1 / PER_MM)
    beside = np.linspace(*strip_mm, ROWS)
    a, b = np.meshgrid(along, beside)
    x, y = (comb.x_mm + a, comb.y_mm + b) if comb.across else (comb.x_mm + b, comb.y_mm + a)
    there = np.stack([x, y, np.ones_like(x)], axis=-1) @ page_to_px.T
    at = (there[..., :2] / there[..., 2:]).astype(np.float32)
    seen = cv2.remap(grey, at[..., 0], at[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    profile = seen.mean(axis=0, dtype=float)
    sharp = gaussian_filter1d(profile - median_filter(profile, round(ABOUT_MM * PER_MM)), WIDTH_MM * PER_MM)
    offsets = np.arange(-REACH_MM, REACH_MM, 0.005)
    teeth = pitch_mm * np.arange(-TEETH, TEETH + 1)
    shown = CubicSpline(along, sharp)(offsets[:, None] + teeth).mean(axis=1)
    shown *= np.sign(shown[np.abs(shown).argmax()])
    best = int(shown.argmax())
    away = np.abs(offsets - offsets[best]) > 4 * WIDTH_MM
    if not 0 < best < len(offsets) - 1 or shown[best] < CLEAR * max(float(shown[away].std()), 1e-3):
        return None
    before, top, after = shown[best - 1 : best + 2]
    return float(offsets[best] + 0.005 * 0.5 * (before - after) / (before - 2 * top + after))
