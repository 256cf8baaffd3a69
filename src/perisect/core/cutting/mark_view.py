"""A mark as the sensor saw it, as a picture with the fit drawn in, and what is said of it."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.causes import LIKE, Cause, Sight
from perisect.core.cutting.registration import Registration
from perisect.core.cutting.sensing import MATCH
from perisect.core.sheet.marks import Mark, MarkSettings

Verdict = Literal["clear", "weak", "not found"]
FITTED, ODD = (15, 92, 87), (163, 48, 30)
"""Red, green and blue of the fit, and of a mark that is not clear."""
BITS = 4


@dataclass(frozen=True)
class SeenMark:
    """A mark: its name, how it was seen, how alike to its picture (0 to 1), how far the fit is from it (mm), and what
    is the matter with it."""

    name: str
    verdict: Verdict
    likeness: float
    off_mm: float | None
    cause: str | None


def seen_marks(
    marks: Sequence[Mark], sights: Sequence[Sight], fit: Registration | None, cause: Cause | None
) -> list[SeenMark]:
    """What is said of each mark that was looked at."""
    found = []
    for sight in sights:
        verdict: Verdict = "not found"
        if sight.score >= MATCH:
            verdict = "clear" if sight.likeness >= LIKE else "weak"
        its = cause.name if cause is not None and (cause.mark == sight.mark or verdict != "clear") else None
        off = float(fit.residuals_mm[sight.mark]) if fit is not None else None
        found.append(SeenMark(marks[sight.mark].name, verdict, sight.likeness, off, its))
    return found


def draw_sight(
    mark: Mark, settings: MarkSettings, sight: Sight, fit: Registration | None
) -> NDArray[np.uint8]:
    """(h, w, 3) the view, a circle of the mark's size where the fit has it, or where the sensor looked."""
    view = sight.view
    picture = np.repeat(view.grey[..., None], 3, axis=2)
    height, width = view.grey.shape
    x = y = 0.0
    if fit is not None:
        ((u, v),) = fit.apply([(mark.x_mm, mark.y_mm)])
        x, y = float(u) - view.x_mm, view.y_mm - float(v)
    centre = (width - 1) / 2 + x * view.px_per_mm, (height - 1) / 2 + y * view.px_per_mm
    at = tuple(round(c * (1 << BITS)) for c in centre)
    radius = round((settings.ring_outer_mm + 0.6) * view.px_per_mm * (1 << BITS))
    colour = FITTED if fit is not None and sight.likeness >= LIKE else ODD
    cv2.circle(picture, at, radius, colour, 2, cv2.LINE_AA, BITS)
    for dx, dy in ((1, 0), (0, 1)):
        arm = 14 << BITS
        a, b = (at[0] - dx * arm, at[1] - dy * arm), (at[0] + dx * arm, at[1] + dy * arm)
        cv2.line(picture, a, b, colour, 1, cv2.LINE_AA, BITS)
    return np.asarray(picture, np.uint8)
