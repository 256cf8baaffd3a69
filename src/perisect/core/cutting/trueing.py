"""What is systematically off about a plotter, taken out of every cut before it is made."""

from typing import Annotated

import numpy as np
from numpy.typing import ArrayLike, NDArray
from pydantic import BaseModel, ConfigDict, Field

from perisect.core.cutting.registration import Registration

MOST_SHIFT_MM, MOST_SHARE = 10.0, 0.05
Shift = Annotated[float, Field(ge=-MOST_SHIFT_MM, le=MOST_SHIFT_MM, allow_inf_nan=False)]
Share = Annotated[float, Field(ge=-MOST_SHARE, le=MOST_SHARE, allow_inf_nan=False)]


def basis(points_mm: ArrayLike, middle_mm: tuple[float, float]) -> NDArray[np.float64]:
    """(n, 2, 6): where a unit of each component takes points, sheet mm, y down: two shifts, a turn (clockwise, rad),
    two scales and a skew about the sheet's middle."""
    x, y = (np.asarray(points_mm, float).reshape(-1, 2) - middle_mm).T
    zero, one = np.zeros_like(x), np.ones_like(x)
    across = np.column_stack([one, zero, -y, x, zero, y / 2])
    along = np.column_stack([zero, one, x, zero, y, x / 2])
    return np.stack([across, along], axis=1)


class Trueing(BaseModel):
    """Components of a plotter's error: shifts mm, turn and skew rad, scales as shares."""

    model_config = ConfigDict(frozen=True)

    shift_x: Shift = 0.0
    shift_y: Shift = 0.0
    turn: Share = 0.0
    scale_x: Share = 0.0
    scale_y: Share = 0.0
    skew: Share = 0.0

    @property
    def vector(self) -> NDArray[np.float64]:
        """(6,) in the order of `basis`."""
        return np.array([self.shift_x, self.shift_y, self.turn, self.scale_x, self.scale_y, self.skew])

    def error_at(self, points_mm: ArrayLike, middle_mm: tuple[float, float]) -> NDArray[np.float64]:
        """(n, 2) by how much the plotter cuts beside points, mm."""
        return np.asarray(basis(points_mm, middle_mm) @ self.vector)

    def trued(self, fit: Registration, middle_mm: tuple[float, float]) -> Registration:
        """A registration that aims so much the other way."""
        shift = self.vector[:2]
        linear = np.array(
            [[self.scale_x, self.skew / 2 - self.turn], [self.skew / 2 + self.turn, self.scale_y]]
        )
        matrix = fit.matrix[:, :2] @ (np.eye(2) - linear)
        aim = fit.matrix[:, :2] @ (linear @ np.array(middle_mm) - shift)
        return Registration(np.column_stack([matrix, fit.matrix[:, 2] + aim]), fit.residuals_mm)


AS_IT_IS = Trueing()
COMPONENTS = tuple(Trueing.model_fields)
