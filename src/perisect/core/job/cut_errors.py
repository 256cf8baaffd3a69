"""The cut error to expect at every sticker of a plan."""

from dataclasses import dataclass

import numpy as np

from perisect.core.cutting.error_map import outside_marks, predicted_error
from perisect.core.job.plan import JobPlan
from perisect.core.sheet.placement import matrix


@dataclass(frozen=True)
class SheetErrors:
    """Per sheet the predicted error (rms, mm) at the farthest corner of each sticker, and which of them
    reach outside the marks' hull."""

    by_sheet: tuple[tuple[float, ...], ...]
    outside_by_sheet: tuple[tuple[bool, ...], ...]

    @property
    def worst_mm(self) -> float | None:
        """The largest of all."""
        return max((error for sheet in self.by_sheet for error in sheet), default=None)


def sheet_errors(plan: JobPlan) -> SheetErrors:
    """Predicted errors from where the marks stand and how well one is sensed."""
    marks = [(mark.x_mm, mark.y_mm) for mark in plan.area.marks]
    boxes = {key: _corners(lines.taken.bounds) for key, lines in plan.lines.items()}
    by_sheet, outside = [], []
    for sheet in plan.sheets.sheets:
        turned = [(matrix(p), boxes[p.key]) for p in sheet]
        places = np.array([corners @ m[:, :2].T + m[:, 2] for m, corners in turned])
        errors = predicted_error(marks, places).reshape(len(sheet), 4).max(axis=1)
        beyond = np.any(outside_marks(marks, places).reshape(len(sheet), 4), axis=1)
        outside.append(tuple(bool(each) for each in beyond))
        by_sheet.append(tuple(np.round(errors, 4).tolist()))
    return SheetErrors(tuple(by_sheet), tuple(outside))


def _corners(bounds: tuple[float, float, float, float]) -> np.ndarray:
    left, top, right, bottom = bounds
    return np.array([(left, top), (right, top), (right, bottom), (left, bottom)])
