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
    """The fullest layout: beside the marks, between them, or round them with cells left out; else the fullest
    of all phases."""
    clear_left, clear_right = area.span_at(area.top_mm, area.bottom_mm)
    clear_top, clear_bottom = clear_band(area)
    boxes = [
        (area.left_mm, clear_top, area.right_mm, clear_bottom),
        (clear_left, area.top_mm, clear_right, area.bottom_mm),
        (area.left_mm, area.top_mm, area.right_mm, area.bottom_mm),
    ]
    candidates = [_without_notches(area, _centred(box, width, height, gap), width, height) for box in boxes]
    candidates += [
        _without_notches(area, _from_corner(area, x, y, width, height, gap), width, height)
        for x in starts(area, 0)
        for y in starts(area, 1)
    ]
    return max(candidates, key=len)


def clear_band(area: UsableArea) -> tuple[float, float]:
    """Top and bottom of the band that no mark reaches into."""
    above = [notch for notch in area.notches if notch[1] <= area.top_mm]
    below = [notch for notch in area.notches if notch[3] >= area.bottom_mm and notch not in above]
    top = max((notch[3] for notch in above), default=area.top_mm)
    bottom = min((notch[1] for notch in below), default=area.bottom_mm)
    return max(top, area.top_mm), min(bottom, area.bottom_mm)


def starts(area: UsableArea, axis: int) -> list[float]:
    """Where the first column (axis 0) or row (1) of a fullest grid may begin: any grid can be pushed back
    until a cell of it meets the edge of the area or the far side of a mark's clear zone."""
    edge, end = (area.left_mm, area.top_mm)[axis], (area.right_mm, area.bottom_mm)[axis]
    return sorted({edge, *(max(edge, notch[axis + 2]) for notch in area.obstacles if notch[axis + 2] < end)})


def _from_corner(
    area: UsableArea, x: float, y: float, width: float, height: float, gap: float
) -> NDArray[np.float64]:
    """All cells of the grid in phase with a cell at (x, y) that lie in the area's box."""
    pitch_x, pitch_y = width + gap, height + gap
    left = x - np.floor((x - area.left_mm + EPSILON_MM) / pitch_x) * pitch_x
    top = y - np.floor((y - area.top_mm + EPSILON_MM) / pitch_y) * pitch_y
    columns = int((area.right_mm - left + gap + EPSILON_MM) // pitch_x)
    rows = int((area.bottom_mm - top + gap + EPSILON_MM) // pitch_y)
    if columns < 1 or rows < 1:
        return np.empty((0, 2))
    across, down = left + np.arange(columns) * pitch_x, top + np.arange(rows) * pitch_y
    return np.stack(np.meshgrid(across, down), axis=-1).reshape(-1, 2)


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
    left, top, right, bottom = np.array(area.obstacles, float).reshape(-1, 4).T
    meets = (x < right) & (x + width > left) & (y < bottom) & (y + height > top)
    return corners[~meets.any(axis=1)]
