"""What a plotter's sensor saw."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class View:
    """What the sensor saw: (h, w) grey, its centre and scale. x right, y down in the picture.

    `x_mm`, `y_mm` are the picture's middle in the plotter's frame (y up).
    """

    grey: NDArray[np.uint8]
    x_mm: float
    y_mm: float
    px_per_mm: float

    def to_plotter(self, at: tuple[float, float]) -> tuple[float, float]:
        """A pixel of the picture in the plotter's frame; its middle lies between its middle pixels."""
        height, width = self.grey.shape
        return (
            self.x_mm + (at[0] - (width - 1) / 2) / self.px_per_mm,
            self.y_mm - (at[1] - (height - 1) / 2) / self.px_per_mm,
        )
