"""Registration: the affine map from sheet to plotter that fits the marks best."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import atan2, degrees, hypot

import numpy as np
from numpy.typing import ArrayLike, NDArray

TOLERANCE_MM = 0.15
"""Residual at the worst mark above which cutting would miss: the run stops and says why."""


@dataclass(frozen=True)
class Registration:
    """`matrix` (2, 3) takes sheet mm to plotter mm; `residuals_mm` (n,) is what is left over a mark."""

    matrix: NDArray[np.float64]
    residuals_mm: NDArray[np.float64]

    @property
    def residual_mm(self) -> float:
        """Largest residual."""
        return float(self.residuals_mm.max())

    @property
    def worst(self) -> int:
        """Number of the mark with the largest residual, from 0."""
        return int(self.residuals_mm.argmax())

    @property
    def within_tolerance(self) -> bool:
        """Whether cutting may begin."""
        return self.residual_mm <= TOLERANCE_MM

    def apply(self, points_mm: ArrayLike) -> NDArray[np.float64]:
        """(n, 2) sheet mm to (n, 2) plotter mm."""
        return np.asarray(points_mm) @ self.matrix[:, :2].T + self.matrix[:, 2]

    def describe(self) -> dict[str, float]:
        """Two scales (per cent off), turn and skew (degrees, clockwise as loaded), residual (mm)."""
        # The plotter's y runs up: flip it so that the linear part is near the identity.
        (a, b), (c, d) = np.array([[1], [-1]]) * self.matrix[:, :2]
        return {
            "scale_x_pct": (hypot(a, c) - 1) * 100,
            "scale_y_pct": (hypot(b, d) - 1) * 100,
            "turn_deg": degrees(atan2(c, a)),
            "skew_deg": degrees(atan2(-b, d) - atan2(c, a)),
            "residual_mm": self.residual_mm,
        }


def register_similar(
    sheet_mm: Sequence[tuple[float, float]], plotter_mm: Sequence[tuple[float, float]]
) -> Registration:
    """Least-squares shifts, turn and one scale from two pairs of points or more, the plotter's y up and the sheet's
    down.

    Raises:
        ValueError: fewer than two pairs, or all at one place.
    """
    if len(sheet_mm) < 2 or len(sheet_mm) != len(plotter_mm):
        raise ValueError("this registration takes two marks or more")
    # As complex numbers, with the sheet's y turned up, a turn with a scale is one multiplication.
    source, target = np.asarray(sheet_mm, float), np.asarray(plotter_mm, float)
    here, there = source[:, 0] - 1j * source[:, 1], target[:, 0] + 1j * target[:, 1]
    a, b = here - here.mean(), there - there.mean()
    spread = float(np.vdot(a, a).real)
    if spread < 1e-9:
        raise ValueError("the marks lie at one place")
    turn = complex(np.vdot(a, b) / spread)
    linear = np.array([[turn.real, turn.imag], [turn.imag, -turn.real]])
    shift = target.mean(axis=0) - linear @ source.mean(axis=0)
    return Registration(np.column_stack([linear, shift]), np.abs(turn * a - b))


def register(
    sheet_mm: Sequence[tuple[float, float]], plotter_mm: Sequence[tuple[float, float]]
) -> Registration:
    """Least-squares affine from at least three pairs of points (two shifts, turn, two scales, skew).

    Raises:
        ValueError: fewer than three pairs, or all on one line.
    """
    source, target = np.asarray(sheet_mm, float), np.asarray(plotter_mm, float)
    if len(source) < 3 or len(source) != len(target):
        raise ValueError("a registration needs at least three marks")
    # Centred, so that the solution is well conditioned wherever the origin is.
    middle = source.mean(axis=0)
    design = np.column_stack([source - middle, np.ones(len(source))])
    solution, _, rank, _ = np.linalg.lstsq(design, target, rcond=None)
    if rank < 3:
        raise ValueError("the marks lie on one line")
    residuals = np.hypot(*(design @ solution - target).T)
    linear = solution[:2].T
    shift = solution[2] - linear @ middle
    return Registration(np.column_stack([linear, shift]), residuals)
