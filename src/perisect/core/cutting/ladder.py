"""The shapes of a test cut and where they stand: for each force a small square, a triangle and a capital letter."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.knife import KnifeSettings, axis_path, with_overcut
from perisect.core.cutting.program import Motion, Step, Tool, drawn, stroke
from perisect.core.cutting.setting import CutSetting
from perisect.core.process import process

Points = NDArray[np.float64]

SIDE_MM = 6.0
PITCH_MM = 9.0
"""From step to step, and from row to row."""
FOLD_MM = 5.0
"""Further between the rows of a folded ladder, where the forces are written."""
ROWS = 3
LEAD_MM = (6.0, 4.0)
"""Room on the left of a ladder and below it, where the blade is turned to a known heading."""
LETTER = np.array(
    [[0, 0], [4, 0], [4, 1.2], [1.4, 1.2], [1.4, 2.4], [3.2, 2.4], [3.2, 3.6], [1.4, 3.6], [1.4, 6], [0, 6]],
    float,
)
"""A capital F: a letter with inner and outer corners and no curve to hide a dull blade."""


@dataclass(frozen=True)
class LadderPlace:
    """Where a ladder stands: its lower left corner, mm of the plate, y up; and how many steps side by side, further
    ones above them."""

    x_mm: float
    y_mm: float
    columns: int = 40


def ladder_columns(steps: int) -> list[int]:
    """Ways to fold so many steps, by how many stand side by side: in one row first, in one column last."""
    return list(dict.fromkeys([steps, -(-steps // 2), -(-steps // 3), 2, 1]))


def ladder_size(steps: int, columns: int | None = None) -> tuple[float, float]:
    """Width and height of a ladder, mm, so many of its steps side by side (all of them)."""
    columns = min(columns or steps, steps)
    folds = -(-steps // columns) - 1
    high = folds * (ROWS * PITCH_MM + FOLD_MM) + (ROWS - 1) * PITCH_MM + SIDE_MM
    return (columns - 1) * PITCH_MM + SIDE_MM, high


def step_corner(step: int, columns: int) -> tuple[float, float]:
    """Lower left corner of a step (from 0) in its ladder, mm, y up."""
    return step % columns * PITCH_MM, step // columns * (ROWS * PITCH_MM + FOLD_MM)


def shapes() -> tuple[NDArray[np.float64], ...]:
    """Square, triangle and letter, (n, 2) rings in mm with their lower left at (0, 0), y up."""
    s = SIDE_MM
    square = np.array([[0, 0], [s, 0], [s, s], [0, s]], float)
    triangle = np.array([[0, 0], [s, 0], [s / 2, s * np.sqrt(3) / 2]], float)
    letter = LETTER * (1, -1) + (0, s)
    return square, triangle, letter


def ladder_program(
    process_name: str,
    setting: CutSetting,
    forces: Sequence[float],
    at: LadderPlace,
    knife: KnifeSettings,
    lies: Callable[[Points], Points] = lambda points: points,
) -> list[Step]:
    """The motions of a ladder, a step for each force; the first step turns the blade to a known heading beside it.

    Args:
        lies: (n, 2) places of a sheet that lies perfectly to those where it lies, mm of the plate.
    """
    record = process(process_name)
    heading = 0.0
    before = np.array([[at.x_mm - 5, at.y_mm - 3], [at.x_mm, at.y_mm - 3]])
    opening = Tool(record.name, record.pen, setting.speed_cm_s, forces[0])
    done = [Step(None, (opening, *drawn(lies(before))))]
    for number, force in enumerate(forces):
        motions: list[Motion] = [Tool(record.name, record.pen, setting.speed_cm_s, force)]
        right, up = step_corner(number, at.columns)
        for row, ring in enumerate(shapes()):
            there = lies(ring + (at.x_mm + right, at.y_mm + up + row * PITCH_MM))
            path = with_overcut(there, setting.overcut_mm)
            for _ in range(setting.passes):
                axis = axis_path(path, heading, knife)
                heading = axis.heading
                motions += stroke(axis, knife, force)
        done.append(Step(number, tuple(motions)))
    return done
