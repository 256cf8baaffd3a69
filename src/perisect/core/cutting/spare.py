"""Room for a test cut on a sheet that is printed: where no sticker, line, mark or earlier test lies."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, floor, hypot, radians

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.ladder import LEAD_MM, ladder_columns, ladder_size
from perisect.core.sheet.usable import UsableArea

CLEAR_MM = 3
"""Bare round a ladder on a sheet whose marks are sensed before it is cut."""

LAID_MM, LAID_DEG = 2.0, 1.0
"""How far a sheet that is laid against the guide by hand lies from it, and how far it is turned."""

Box = tuple[float, float, float, float]
"""Left, top, right, bottom, sheet mm."""


@dataclass(frozen=True)
class Spare:
    """The box of a ladder on a sheet, and how many of its steps stand side by side."""

    box: Box
    columns: int


def spare_place(
    area: UsableArea,
    boxes: Sequence[Box],
    lines: Sequence[NDArray[np.float64]],
    steps: int,
    within: Box | None = None,
    clear_mm: int = CLEAR_MM,
) -> Spare | None:
    """Room for a ladder of so many steps; in one row where it can be, folded where it must, as low on the sheet as it
    can lie. None when there is none.

    Args:
        area: the usable area of the sheet, its marks in place.
        boxes: what stickers and earlier tests take.
        lines: (n, 2) points of every line that will be cut, sheet mm.
        steps: how many.
        within: a part of the sheet it has to keep to, as that under film.
        clear_mm: bare round it; `clear_unsensed` where the marks are not sensed.
    """
    taken = _taken(area, boxes, lines, within, clear_mm)
    sums = cv2.integral(taken)
    for columns in ladder_columns(steps):
        width, height = ladder_size(steps, columns)
        wide, high = ceil(width + LEAD_MM[0]), ceil(height + LEAD_MM[1])
        if wide >= sums.shape[1] or high >= sums.shape[0]:
            continue
        inside = sums[high:, wide:] - sums[:-high, wide:] - sums[high:, :-wide] + sums[:-high, :-wide]
        tops, lefts = np.nonzero(inside == 0)
        if len(tops):
            # The blade is turned to its heading on the left of the ladder and below it.
            left, top = float(lefts[-1]) + LEAD_MM[0], float(tops[-1])
            return Spare((left, top, left + width, top + height), columns)
    return None


def clear_unsensed(area: UsableArea) -> int:
    """Bare round a ladder, mm, where nobody looks how the sheet lies: it may be off by that at its far corner."""
    far = hypot(area.stock.width_mm, area.stock.height_mm)
    return ceil(LAID_MM + radians(LAID_DEG) * far)


def _taken(
    area: UsableArea,
    boxes: Sequence[Box],
    lines: Sequence[NDArray[np.float64]],
    within: Box | None,
    clear_mm: int,
) -> NDArray[np.uint8]:
    """(h, w) of the sheet by the mm: 1 where no ladder may lie."""
    taken = np.ones((ceil(area.stock.height_mm), ceil(area.stock.width_mm)), np.uint8)
    left, top, right, bottom = (area.left_mm, area.top_mm, area.right_mm, area.bottom_mm)
    if within is not None:
        left, top = max(left, within[0]), max(top, within[1])
        right, bottom = min(right, within[2]), min(bottom, within[3])
    taken[ceil(top) : max(0, floor(bottom)), ceil(left) : max(0, floor(right))] = 0
    for box in (*boxes, *area.obstacles):
        from_x, from_y = (max(0, floor(side) - clear_mm) for side in box[:2])
        taken[from_y : max(0, ceil(box[3]) + clear_mm), from_x : max(0, ceil(box[2]) + clear_mm)] = 1
    paths = [np.round(line).astype(np.int32) for line in lines if len(line)]
    cv2.polylines(taken, paths, False, 1, thickness=2 * clear_mm + 1)
    return taken
