"""How a plotter scatters, by what was measured: what the map of the expected cut error stands on."""

from collections.abc import Sequence

import numpy as np

from perisect.core.cutting.error_map import SENSING_MM, History, predicted_error
from perisect.core.cutting.trueing import AS_IT_IS, Trueing
from perisect.core.ledger.calibration import LEAST_SHEETS, SheetSlips, calibrate

TRUST_SHEETS = 1.0
"""Sheets that weigh as much as what is believed of a plotter before."""
SCATTER_MM = 0.02
"""How much a plotter is believed to scatter beside its sensing, along each axis, once it has a log."""


def history_of(sheets: Sequence[SheetSlips], trueing: Trueing = AS_IT_IS) -> History:
    """What is to be expected of a plotter's next cut.

    The mean square of what is left of each slip, beside what is systematic, is fitted as the part that sensing has,
    which grows outside the marks, and a part that is the same everywhere; both are drawn to what is believed of
    plotters without a log, the more the fewer the sheets.

    Args:
        trueing: what the next cut is trued by.
    """
    from scipy.optimize import nnls  # A quarter of a second to load, and few ask.

    found = calibrate(sheets)
    if found is None:
        return History()
    bias = found.trueing
    unit, square = [], []
    for sheet in sheets:
        if len(sheet.marks_mm) < LEAST_MARKS or len(sheet.places_mm) == 0:
            continue
        error = sheet.slips_mm + (sheet.trued.error_at(sheet.places_mm, sheet.middle_mm))
        error = error - bias.error_at(sheet.places_mm, sheet.middle_mm)
        unit.append(predicted_error(sheet.marks_mm, sheet.places_mm, History(sensing_mm=1.0)) ** 2)
        square.append((error**2).sum(axis=1))
    if len(unit) < LEAST_SHEETS:
        return History()
    h, y = np.concatenate(unit), np.concatenate(square)
    # Squares of normal errors spread as their mean: each counts by its inverse, after one look.
    weight = 1 / np.maximum(h * SENSING_MM**2 + np.median(y), 1e-9)
    (sensing, scatter), _ = nnls(np.column_stack([h, np.ones_like(h)]) * weight[:, None], y * weight)
    share = found.sheets / (found.sheets + TRUST_SHEETS)
    return History(
        sensing_mm=float(np.sqrt(share * sensing + (1 - share) * SENSING_MM**2)),
        scatter_mm=float(np.sqrt(share * scatter / 2 + (1 - share) * SCATTER_MM**2)),
        bias=Trueing(**{name: getattr(bias, name) - getattr(trueing, name) for name in Trueing.model_fields}),
        sheets=found.sheets,
    )


LEAST_MARKS = 3
