"""A printer that is a little off, as printers are.

Its own scale error belongs to the device and stays; how the paper was drawn in differs from sheet to
sheet. Both follow from the seed.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.prepress.raster import render_page

LARGEST_MM = (330.0, 490.0)
"""Width and length of the largest sheet of a desk printer."""


@dataclass(frozen=True)
class PrintFault:
    """What happened to one sheet: scale error (fraction), turn (degrees), shift (mm)."""

    scale_x: float
    scale_y: float
    turn_deg: float
    shift_x_mm: float
    shift_y_mm: float


class Printer:
    """The simulated printer. Every sheet it prints is another draw from its seed."""

    def __init__(self, seed: int, largest_mm: tuple[float, float] = LARGEST_MM) -> None:
        self._largest_mm = largest_mm
        device = np.random.default_rng([seed, 1])
        self._scale = device.uniform(-0.002, 0.002, 2)
        self._feed = np.random.default_rng([seed, 2])

    def print_page(self, pdf: bytes) -> tuple[NDArray[np.uint8], float, PrintFault]:
        """The printed sheet (h, w, 3), its px per mm, and what went wrong with it.

        Raises:
            RasterError: as `render_page`.
        """
        page, px_per_mm = render_page(pdf, largest_mm=self._largest_mm)
        turn = self._feed.uniform(-0.15, 0.15)
        shift = self._feed.uniform(-0.8, 0.8, 2)
        fault = PrintFault(float(self._scale[0]), float(self._scale[1]), float(turn), *map(float, shift))
        height, width = page.shape[:2]
        middle = np.array([width, height]) / 2 - 0.5
        a = np.radians(turn)
        linear = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]]) @ np.diag(1 + self._scale)
        offset = middle - linear @ middle + shift * px_per_mm
        printed = cv2.warpAffine(
            page,
            np.column_stack([linear, offset]),
            (width, height),
            flags=cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_CONSTANT,
            borderValue=(255, 255, 255),
        )
        return np.asarray(printed, np.uint8), px_per_mm, fault
