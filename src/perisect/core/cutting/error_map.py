"""The cut error that the marks let expect at a place of the sheet."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import ArrayLike, NDArray

from perisect.core.cutting.trueing import AS_IT_IS, Trueing

VISIBLE_MM = 0.3
"""Without a border a slip shows as soon as the eye sees it."""
SENSING_MM = 0.02
"""Standard deviation of a sensed mark's place along each axis, mm: what the simulated sensor was measured to
have. A plotter's own logs may say otherwise."""


@dataclass(frozen=True)
class History:
    """What a plotter's log says of its next cut: how well it senses a mark, how it scatters beside that and how far a
    sheet creeps on its mat at each line, mm along each axis; what it is off by that nobody takes out, and how many
    sheets say so."""

    sensing_mm: float = SENSING_MM
    scatter_mm: float = 0.0
    creep_mm: float = 0.0
    bias: Trueing = AS_IT_IS
    sheets: int = 0


NO_HISTORY = History()


def predicted_error(
    marks_mm: Sequence[tuple[float, float]],
    places_mm: ArrayLike,
    history: History = NO_HISTORY,
    middle_mm: tuple[float, float] = (0.0, 0.0),
    turns: ArrayLike = 0,
) -> NDArray[np.float64]:
    """Root mean square error of a cut at (n, 2) places, mm.

    The plotter's own scatter, the way of a sheet that creeps by chance a little at each line, and the square of what
    it is always off by about the sheet's middle come to what sensing is off by; both axes add.

    Args:
        turns: (n,) lines that are cut until each place is, from when the marks were sensed.

    Raises:
        ValueError: fewer than three marks, or all on one line.
    """
    places = np.asarray(places_mm, float).reshape(-1, 2)
    at, inverse = _affine(marks_mm, places)
    sensed = history.sensing_mm**2 * np.einsum("ni,ij,nj->n", at, inverse, at)
    crept = history.creep_mm**2 * np.asarray(turns, float)
    bias = (history.bias.error_at(places, middle_mm) ** 2).sum(axis=1)
    return np.asarray(np.sqrt(2 * (sensed + crept + history.scatter_mm**2) + bias))


def registration_spread(
    marks_mm: Sequence[tuple[float, float]], places_mm: NDArray[np.float64]
) -> NDArray[np.float64]:
    """(n, n) covariance along each axis of what a registration is off by at (n, 2) places, for marks sensed with a
    variance of one.

    Raises:
        ValueError: fewer than three marks, or all on one line.
    """
    at, inverse = _affine(marks_mm, places_mm)
    return np.asarray(at @ inverse @ at.T)


def _affine(
    marks_mm: Sequence[tuple[float, float]], places_mm: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Of the least-squares affine map through marks: (n, 3) d = (x, y, 1) of the places and (D'D)^-1 with the marks' as
    the rows of D, so that what it is off by at two places has the covariance d (D'D)^-1 e'."""
    marks = np.asarray(marks_mm, float)
    if len(marks) < 3:
        raise ValueError("a registration needs at least three marks")
    middle = marks.mean(axis=0)
    design = np.column_stack([marks - middle, np.ones(len(marks))])
    if np.linalg.matrix_rank(design) < 3:
        raise ValueError("the marks lie on one line")
    at = np.column_stack([places_mm - middle, np.ones(len(places_mm))])
    return at, np.linalg.inv(design.T @ design)


def outside_marks(marks_mm: Sequence[tuple[float, float]], places_mm: ArrayLike) -> NDArray[np.bool_]:
    """Which of (n, 2) places lie outside the hull of the marks, where the error grows."""
    hull = shapely.convex_hull(shapely.multipoints(np.asarray(marks_mm, float)))
    places = shapely.points(np.asarray(places_mm, float).reshape(-1, 2))
    return np.asarray(~shapely.covers(hull, places))
