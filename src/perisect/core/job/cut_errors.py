"""The cut error to expect at every sticker of a plan."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.error_map import NO_HISTORY, VISIBLE_MM, History, outside_marks, predicted_error
from perisect.core.job.plan import JobPlan
from perisect.core.sheet.placement import matrix

FEWEST_MARKS = 3
"""Marks that a registration needs."""
MOST_IN_ORDER = 60
"""Stickers of a sheet for which the order of their cut is found for this."""


@dataclass(frozen=True)
class SheetErrors:
    """Per sheet the predicted error (rms, mm) at the farthest corner of each sticker, and which of them
    reach outside the marks' hull; both empty where a sheet has no marks."""

    by_sheet: tuple[tuple[float, ...], ...]
    outside_by_sheet: tuple[tuple[bool, ...], ...]
    worst_lost: float | None = None
    """The largest chance of a sticker to slip beyond its border."""

    @property
    def worst_mm(self) -> float | None:
        """The largest of all."""
        return max((error for sheet in self.by_sheet for error in sheet), default=None)


def sheet_errors(
    plan: JobPlan, history: History = NO_HISTORY, turns: Callable[[int], NDArray[np.int64]] | None = None
) -> SheetErrors:
    """Predicted errors from where the marks stand and what the plotter's log says of it.

    Args:
        turns: of each sticker of a sheet the line that it is cut as, asked for where sheets creep; to find the way of
            the knife takes some time, so where it is not given, or stickers are many, each counts as one in the middle.
    """
    if len(plan.area.marks) < FEWEST_MARKS:
        # Nothing tells how a sheet lies that is cut from the corner it was laid into.
        return SheetErrors((), ())
    on = plan.area.stock
    middle = (on.width_mm / 2, on.height_mm / 2)
    marks = [(mark.x_mm, mark.y_mm) for mark in plan.area.marks]
    boxes = {key: _corners(lines.taken.bounds) for key, lines in plan.lines.items()}
    edges = {d.id: plan.lines[d.id].border_mm(d.border_mm) for d in plan.recipe.designs if d.id in plan.lines}
    by_sheet, outside, lost = [], [], []
    for number, sheet in enumerate(plan.sheets.sheets):
        turned = [(matrix(p), boxes[p.key]) for p in sheet]
        places = np.array([corners @ m[:, :2].T + m[:, 2] for m, corners in turned])
        at: NDArray[np.float64] | float = (len(sheet) + 1) / 2
        if turns is not None and history.creep_mm > 0 and len(sheet) <= MOST_IN_ORDER:
            at = np.repeat(turns(number).astype(float), 4)
        errors = predicted_error(marks, places, history, middle, at).reshape(len(sheet), 4).max(axis=1)
        beyond = np.any(outside_marks(marks, places).reshape(len(sheet), 4), axis=1)
        outside.append(tuple(bool(each) for each in beyond))
        by_sheet.append(tuple(np.round(errors, 4).tolist()))
        borders = np.array([max(edges[p.key], VISIBLE_MM) for p in sheet])
        # A slip is normal along each axis: its square is exponential, its mean the square of the error.
        lost.append(float(np.exp(-((borders / np.maximum(errors, 1e-6)) ** 2)).max(initial=0.0)))
    return SheetErrors(tuple(by_sheet), tuple(outside), max(lost, default=None))


def _corners(bounds: tuple[float, float, float, float]) -> np.ndarray:
    left, top, right, bottom = bounds
    return np.array([(left, top), (right, top), (right, bottom), (left, bottom)])
