"""A printer that is a little off, as printers are.

Its own scale error belongs to the device and stays; how the paper was drawn in differs from sheet to
sheet. Both follow from the seed.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.prepress.raster import render_page
from perisect.stand_ins.printer_faults import (
    DRAWN,
    MOVED,
    NOZZLES,
    PRINTER_FAULTS,
    REFUSALS,
    dropped,
    lacking_nozzles,
)

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


class PrinterStopped(Exception):
    """No sheet comes out; the text is what the machine says."""


class Printer:
    """The simulated printer. Every sheet it prints is another draw from its seed.

    Args:
        fault: a name of `PRINTER_FAULTS` that every sheet suffers; None for a printer that is well.
        gaps: groups of nozzles that do not fire; None for those of the fault.
    """

    def __init__(
        self,
        seed: int,
        largest_mm: tuple[float, float] = LARGEST_MM,
        fault: str | None = None,
        gaps: set[tuple[str, int]] | None = None,
    ) -> None:
        if fault is not None and fault not in PRINTER_FAULTS:
            raise ValueError(f"no printer fault is called {fault}")
        self._largest_mm = largest_mm
        self._fault = fault
        device = np.random.default_rng([seed, 1])
        self._scale = device.uniform(-0.002, 0.002, 2)
        self._feed = np.random.default_rng([seed, 2])
        self._faults = np.random.default_rng([seed, 5])
        self.gaps = gaps if gaps is not None else dropped(self._faults) if fault == NOZZLES else set()

    def print_page(self, pdf: bytes) -> tuple[NDArray[np.uint8], float, PrintFault]:
        """The printed sheet (h, w, 3), its px per mm, and what went wrong with it.

        Raises:
            RasterError: as `render_page`.
            PrinterStopped: no sheet comes out.
        """
        page, px_per_mm = render_page(pdf, largest_mm=self._largest_mm)
        if self._fault in REFUSALS:
            raise PrinterStopped(REFUSALS[self._fault])
        turn = self._feed.uniform(-0.15, 0.15)
        shift = self._feed.uniform(-0.8, 0.8, 2)
        scale = self._scale
        match MOVED.get(self._fault or ""):
            case "turn":
                turn = self._faults.choice([-1, 1]) * self._faults.uniform(0.8, 1.6)
            case "shift":
                way = self._faults.uniform(0, 2 * np.pi)
                shift = self._faults.uniform(1.5, 2.5) * np.array([np.cos(way), np.sin(way)])
            case "scale":
                scale = self._faults.choice([-1, 1]) * self._faults.uniform(0.008, 0.016, 2)
        if self._fault in DRAWN:
            page = DRAWN[self._fault](page, px_per_mm, self._faults)
        page = lacking_nozzles(page, px_per_mm, self.gaps)
        fault = PrintFault(float(scale[0]), float(scale[1]), float(turn), *map(float, shift))
        height, width = page.shape[:2]
        middle = np.array([width, height]) / 2 - 0.5
        a = np.radians(turn)
        linear = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]]) @ np.diag(1 + scale)
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
