"""A placed copy: which piece, where, how far turned; and its geometry on the sheet."""

from dataclasses import dataclass, replace
from math import cos, radians, sin

import numpy as np
import shapely
from numpy.typing import NDArray


@dataclass(frozen=True)
class Placement:
    """One copy of a piece on a sheet. Lengths in mm, sheet coordinates (y down).

    `x_mm`, `y_mm` are the top left of the piece's box before turning, `rotation_deg` its clockwise turn about
    that box's centre, and the box `width_mm` by `height_mm` is that of its outline. Searches work with a box of
    no size: a turn about the piece's own origin, which lies at `x_mm`, `y_mm` (see `pose`).
    """

    key: str
    x_mm: float
    y_mm: float
    width_mm: float = 0.0
    height_mm: float = 0.0
    rotation_deg: float = 0.0
    locked: bool = False
    """Set by hand: it keeps its place when the rest is filled again."""
    sheet: int = 0
    """Number of its sheet, from 0."""


def pose(key: str, rotation_deg: float, x_mm: float, y_mm: float, sheet: int = 0) -> Placement:
    """A copy turned about its own origin, which then lies at (x, y)."""
    return Placement(key, x_mm, y_mm, rotation_deg=rotation_deg, sheet=sheet)


def boxed(placement: Placement, width_mm: float, height_mm: float) -> Placement:
    """The same copy, told by a box of another size that begins at the piece's origin."""
    a = radians(placement.rotation_deg)
    # The origin stays where it is: the old centre less the old half box turned, and the new one added.
    u, v = (placement.width_mm - width_mm) / 2, (placement.height_mm - height_mm) / 2
    x = placement.x_mm + u - (u * cos(a) - v * sin(a))
    y = placement.y_mm + v - (u * sin(a) + v * cos(a))
    turn = placement.rotation_deg % 360
    return replace(placement, x_mm=x, y_mm=y, width_mm=width_mm, height_mm=height_mm, rotation_deg=turn)


def centre(placement: Placement) -> tuple[float, float]:
    """Middle of its box, sheet mm."""
    return placement.x_mm + placement.width_mm / 2, placement.y_mm + placement.height_mm / 2


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
