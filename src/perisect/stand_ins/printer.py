"""A printer that is a little off, as printers are.

Its own scale error belongs to the device and stays; how the paper was drawn in differs from sheet to
sheet. Both follow from the seed.
"""

from dataclasses import dataclass

import cv2
import numpy as np
import pypdfium2
from numpy.typing import NDArray

PPI = 300
PX_PER_MM = PPI / 25.4
LARGEST_MM = 500.0


class PrintError(ValueError):
    """The file cannot be printed."""


@dataclass(frozen=True)
class PrintFault:
    """What happened to one sheet: scale error (fraction), turn (degrees), shift (mm)."""

    scale_x: float
    scale_y: float
    turn_deg: float
    shift_x_mm: float
    shift_y_mm: float


def render_page(pdf: bytes, page: int = 0, ppi: float = PPI) -> NDArray[np.uint8]:
    """(h, w, 3) picture of a page on white paper, pixel (i, j) showing the square from i / k, j / k mm on.

    pdfium stretches a page to whole pixels; that is taken back, for it would be a scale error of its own.

    Raises:
        PrintError: not a PDF, no such page, or a page larger than 500 mm.
    """
    try:
        document = pypdfium2.PdfDocument(pdf)
        try:
            sheet = document[page]
            width, height = sheet.get_size()
            if not 0 < max(width, height) * 25.4 / 72 <= LARGEST_MM:
                raise PrintError("the page is larger than the printer takes")
            stretched = np.ascontiguousarray(
                sheet.render(scale=ppi / 72, rev_byteorder=True).to_numpy()[..., :3]
            )
            exact = np.array([width, height]) * ppi / 72
            scale = exact / stretched.shape[1::-1]
            warp = np.column_stack([np.diag(scale), scale / 2 - 0.5])
            size = tuple(int(n) for n in np.ceil(exact - 0.5))
            paper = (255, 255, 255)
            return np.asarray(
                cv2.warpAffine(
                    stretched,
                    warp,
                    size,
                    flags=cv2.INTER_LINEAR,
                    borderMode=cv2.BORDER_CONSTANT,
                    borderValue=paper,
                ),
                np.uint8,
            )
        finally:
            document.close()
    except (pypdfium2.PdfiumError, IndexError) as error:
        raise PrintError("the file is not a PDF the printer can read") from error


class Printer:
    """The simulated printer. Every sheet it prints is another draw from its seed."""

    def __init__(self, seed: int) -> None:
        device = np.random.default_rng([seed, 1])
        self._scale = device.uniform(-0.002, 0.002, 2)
        self._feed = np.random.default_rng([seed, 2])

    def print_page(self, pdf: bytes) -> tuple[NDArray[np.uint8], PrintFault]:
        """The printed sheet (h, w, 3) at 300 ppi, and what went wrong with it.

        Raises:
            PrintError: as `render_page`.
        """
        page = render_page(pdf)
        turn = self._feed.uniform(-0.15, 0.15)
        shift = self._feed.uniform(-0.8, 0.8, 2)
        fault = PrintFault(float(self._scale[0]), float(self._scale[1]), float(turn), *map(float, shift))
        height, width = page.shape[:2]
        middle = np.array([width, height]) / 2 - 0.5
        a = np.radians(turn)
        linear = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]]) @ np.diag(1 + self._scale)
        offset = middle - linear @ middle + shift * PX_PER_MM
        printed = cv2.warpAffine(
            page,
            np.column_stack([linear, offset]),
            (width, height),
            flags=cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_CONSTANT,
            borderValue=(255, 255, 255),
        )
        return np.asarray(printed, np.uint8), fault
