"""How a plotter scatters, by what was measured: what the map of the expected cut error stands on."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.error_map import SENSING_MM, History, registration_spread
from perisect.core.cutting.trueing import AS_IT_IS, Trueing
from perisect.core.ledger.calibration import LEAST_SHEETS, SheetSlips, calibrate, without_loose

TRUST_SHEETS = 1.0
"""Sheets that weigh as much as what is believed of a plotter before."""
SCATTER_MM = 0.02
"""How much a plotter is believed to scatter beside its sensing, along each axis, once it has a log."""
LEAST_MARKS = 3
MOST_STICKERS = 40
"""Of a sheet; what more of them would tell is little."""
ROUNDS = 12
SETTLED = 1e-3
LEAST_MM = 1e-4


def history_of(sheets: Sequence[SheetSlips], trueing: Trueing = AS_IT_IS) -> History:
    """What is to be expected of a plotter's next cut.

    What is left of each slip, beside what is systematic, varies by sheet with what sensing is off by, which grows
    outside the marks, and with a shift of the whole sheet; along the cut with a sheet that creeps on its mat, a little
    at each line; and from sticker to sticker. The four variances are those of the greatest likelihood (Harville 1977),
    drawn to what is believed of plotters without a log, the more the fewer the sheets.

    Args:
        trueing: what the next cut is trued by.
    """
    found = calibrate(sheets)
    if found is None:
        return History()
    bias = found.trueing
    known = [
        _thinned(without_loose(sheet.trued_by(bias)))
        for sheet in sheets
        if len(sheet.marks_mm) >= LEAST_MARKS and len(sheet.places_mm)
    ]
    if len(known) < LEAST_SHEETS:
        return History()
    sensing, shift, creep, scatter = _variances(known)
    # The bias was fitted to these sheets, so they lie nearer to it than the next one will.
    more = (len(known) + 1) / (len(known) - 1)
    share = found.sheets / (found.sheets + TRUST_SHEETS)
    return History(
        sensing_mm=float(np.sqrt(share * sensing * more + (1 - share) * SENSING_MM**2)),
        scatter_mm=float(np.sqrt(share * (scatter + shift * more) + (1 - share) * SCATTER_MM**2)),
        creep_mm=float(np.sqrt(share * creep)),
        bias=Trueing(**{name: getattr(bias, name) - getattr(trueing, name) for name in Trueing.model_fields}),
        sheets=found.sheets,
    )


def _thinned(sheet: SheetSlips) -> SheetSlips:
    many = len(sheet.places_mm)
    return sheet if many <= MOST_STICKERS else sheet.only(np.arange(MOST_STICKERS) * many // MOST_STICKERS)


def _variances(sheets: Sequence[SheetSlips]) -> NDArray[np.float64]:
    """Variances along an axis of a mark's sensing, of a sheet's shift, of its creep at each line, and of a sticker.

    Of a sheet's slips the covariance is the sum of each variance times a matrix that is known. Where the likelihood is
    greatest, the variances are those of a weighed least squares fit of the slips' products, with weights that follow
    from the variances; a few rounds of that settle it.
    """
    parts, left = _covariances(sheets)
    variances = np.full(4, 0.25 * float(np.median(left**2)) + LEAST_MM**2)
    for _ in range(ROUNDS):
        whole = np.tensordot(variances, parts, 1) + LEAST_MM**2 * np.eye(parts.shape[-1])
        inverse = np.linalg.inv(whole)
        weighed = np.einsum("snm,ksmj->ksnj", inverse, parts)
        information = np.einsum("ksnm,jsmn->kj", weighed, weighed)
        once = np.einsum("snm,sma->sna", inverse, left)
        seen = np.einsum("sna,ksnm,sma->k", once, parts, once) / left.shape[2]
        new = _not_negative(information, seen)
        is_settled = np.abs(new - variances).max() <= SETTLED * variances.max()
        variances = new
        if is_settled:
            break
    return variances


def _covariances(sheets: Sequence[SheetSlips]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(4, s, n, n) what a unit of each variance gives, and (s, n, 2) slips, both filled up with zeros."""
    most = max(len(sheet.places_mm) for sheet in sheets)
    parts, left = np.zeros((4, len(sheets), most, most)), np.zeros((len(sheets), most, 2))
    for number, sheet in enumerate(sheets):
        many = len(sheet.places_mm)
        here = (number, slice(many), slice(many))
        left[number, :many] = sheet.slips_mm
        parts[0][here] = registration_spread(sheet.marks_mm, sheet.places_mm)
        parts[1][here] = 1.0
        if sheet.turns is not None:
            parts[2][here] = np.minimum(sheet.turns[:, None], sheet.turns[None])
        parts[3][here] = np.eye(many)
    return parts, left


def _not_negative(information: NDArray[np.float64], seen: NDArray[np.float64]) -> NDArray[np.float64]:
    """Variances x of least x'Ax / 2 - b'x, none below zero."""
    from scipy.optimize import nnls  # A quarter of a second to load, and few ask.

    size = np.sqrt(np.diag(information))
    # What no sheet tells, as creep where no order was kept, is none.
    told = np.flatnonzero(size > 1e-9 * size.max())
    scaled = information[np.ix_(told, told)] / np.outer(size[told], size[told])
    root = np.linalg.cholesky(scaled + 1e-9 * np.eye(len(told)))
    found, _ = nnls(root.T, np.linalg.solve(root, seen[told] / size[told]))
    variances = np.zeros(len(size))
    variances[told] = found / size[told]
    return variances
