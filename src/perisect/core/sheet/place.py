"""Move a design's geometry to where a placement puts it on the sheet."""

from math import cos, radians, sin

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.sheet.fill import Placement


def matrix(placement: Placement) -> NDArray[np.float64]:
    """(2, 3) affine from design mm (outline's box at (0, 0)) to sheet mm.

    Clockwise as seen with y down: (u, v) from the centre goes to (u cos a - v sin a, u sin a + v cos a).
    """
    a = radians(placement.rotation_deg)
    turn = np.array([[cos(a), -sin(a)], [sin(a), cos(a)]])
    half = np.array([placement.width_mm / 2, placement.height_mm / 2])
    shift = np.array([placement.x_mm, placement.y_mm]) + half - turn @ half
    return np.column_stack([turn, shift])


def placed(shape: shapely.Geometry, placement: Placement) -> shapely.Geometry:
    """`shape` (design mm) on the sheet (sheet mm)."""
    m = matrix(placement)
    return shapely.transform(shape, lambda xy: xy @ m[:, :2].T + m[:, 2])
