"""Rows and columns of one size in the usable area, in the better of two orientations."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from perisect.core.sheet.usable import UsableArea

EPSILON_MM = 1e-6


@dataclass(frozen=True)
class Grid:
    """Cells of one size: (n, 2) top left corners in reading order, mm, and whether they are turned."""

    corners_mm: NDArray[np.float64]
    turned: bool

    @property
    def count(self) -> int:
        """How many are up."""
        return len(self.corners_mm)


def best_grid(area: UsableArea, width_mm: float, height_mm: float, gap_mm: float) -> Grid:
    """The grid that holds most cells of `width_mm` by `height_mm`, `gap_mm` apart.

    Turned grids stand a quarter turn; on equal counts the upright one wins.
    """
    upright = Grid(_cells(area, width_mm, height_mm, gap_mm), turned=False)
    turned = Grid(_cells(area, height_mm, width_mm, gap_mm), turned=True)
    return turned if turned.count > upright.count else upright


def _cells(area: UsableArea, width: float, height: float, gap: float) -> NDArray[np.float64]:
    """The fullest of three layouts: beside the marks, between them, or round them with cells left out."""
    clear_left, clear_right = area.span_at(area.top_mm, area.bottom_mm)
    clear_top = max(notch[3] for notch in area.notches if notch[1] == 0)
    clear_bottom = min(notch[1] for notch in area.notches if notch[1] > 0)
    boxes = [
        (area.left_mm, clear_top, area.right_mm, clear_bottom),
        (clear_left, area.top_mm, clear_right, area.bottom_mm),
        (area.left_mm, area.top_mm, area.right_mm, area.bottom_mm),
    ]
    candidates = [_without_notches(area, _centred(box, width, height, gap), width, height) for box in boxes]
    return max(candidates, key=len)


def _centred(
    box: tuple[float, float, float, float], width: float, height: float, gap: float
) -> NDArray[np.float64]:
    left, top, right, bottom = box
    columns = int((right - left + gap + EPSILON_MM) // (width + gap))
    rows = int((bottom - top + gap + EPSILON_MM) // (height + gap))
    if columns < 1 or rows < 1:
        return np.empty((0, 2))
    x = (left + right - columns * (width + gap) + gap) / 2 + np.arange(columns) * (width + gap)
    y = (top + bottom - rows * (height + gap) + gap) / 2 + np.arange(rows) * (height + gap)
    return np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)


def _without_notches(
    area: UsableArea, corners: NDArray[np.float64], width: float, height: float
) -> NDArray[np.float64]:
    x, y = corners[:, 0, None], corners[:, 1, None]
    left, top, right, bottom = np.array(area.notches).T
    meets = (x < right) & (x + width > left) & (y < bottom) & (y + height > top)
    return corners[~meets.any(axis=1)]
