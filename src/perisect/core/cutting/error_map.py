"""The cut error that the marks let expect at a place of the sheet."""

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import ArrayLike, NDArray

SENSING_MM = 0.02
"""Standard deviation of a sensed mark's place along each axis, mm: what the simulated sensor was measured to
have. A plotter's own logs may say otherwise."""


def predicted_error(
    marks_mm: Sequence[tuple[float, float]], places_mm: ArrayLike, sensing_mm: float = SENSING_MM
) -> NDArray[np.float64]:
    """Root mean square error of the registration at (n, 2) places, mm.

    The registration is a least-squares affine map: along each axis the variance at (x, y) is
    s^2 d (D'D)^-1 d' with d = (x, y, 1) and the rows of D those of the marks; both axes add.

    Raises:
        ValueError: fewer than three marks, or all on one line.
    """
    marks, places = np.asarray(marks_mm, float), np.asarray(places_mm, float).reshape(-1, 2)
    if len(marks) < 3:
        raise ValueError("a registration needs at least three marks")
    middle = marks.mean(axis=0)
    design = np.column_stack([marks - middle, np.ones(len(marks))])
    if np.linalg.matrix_rank(design) < 3:
        raise ValueError("the marks lie on one line")
    inverse = np.linalg.inv(design.T @ design)
    at = np.column_stack([places - middle, np.ones(len(places))])
    return np.asarray(sensing_mm * np.sqrt(2 * np.einsum("ni,ij,nj->n", at, inverse, at)))


def outside_marks(marks_mm: Sequence[tuple[float, float]], places_mm: ArrayLike) -> NDArray[np.bool_]:
    """Which of (n, 2) places lie outside the hull of the marks, where the error grows."""
    hull = shapely.convex_hull(shapely.multipoints(np.asarray(marks_mm, float)))
    places = shapely.points(np.asarray(places_mm, float).reshape(-1, 2))
    return np.asarray(~shapely.covers(hull, places))
