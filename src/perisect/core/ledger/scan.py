"""Where the printer really put the sheet's art, read from a picture of the printed sheet."""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.registration import register
from perisect.core.cutting.sensing import MarkNotFound, sense_marks
from perisect.core.cutting.view import View
from perisect.core.sheet.marks import Mark, MarkSettings

WINDOW_MM = 16.0


@dataclass(frozen=True)
class ScannedSheet:
    """A grey picture (h, w) of a printed sheet and the affine (2, 3) from drawn to printed place, mm."""

    grey: NDArray[np.uint8]
    px_per_mm: float
    drawn_to_printed: NDArray[np.float64]

    def local_shift(
        self, drawn: NDArray[np.uint8], box_mm: tuple[float, float, float, float]
    ) -> tuple[float, float]:
        """What the marks do not explain: shift in mm of the art in a box against the drawn sheet.

        Phase correlation (Kuglin and Hines 1975) of the drawn crop with the printed crop taken back
        through the marks' affine. (0, 0) where the art has too little to hold on to.
        """
        left, top, right, bottom = box_mm
        pad = 1.0
        k = self.px_per_mm
        # OpenCV pads to a good size for its transform, and is half a pixel out when that is odd.
        width, height = (
            2 * cv2.getOptimalDFTSize(round((high - low + 2 * pad) * k / 2))
            for low, high in ((left, right), (top, bottom))
        )
        origin = np.array([left - pad, top - pad])
        expected = _crop(drawn, k, np.array([[1, 0, 0], [0, 1, 0]], float), origin, (width, height))
        seen = _crop(self.grey, k, self.drawn_to_printed, origin, (width, height))
        window = cv2.createHanningWindow((width, height), cv2.CV_32F)
        (dx, dy), response = cv2.phaseCorrelate(expected, seen, window)
        if response < 0.2 or max(abs(dx), abs(dy)) > 0.5 * k:
            return 0.0, 0.0
        return dx / k, dy / k


def _crop(
    grey: NDArray[np.uint8],
    k: float,
    affine: NDArray[np.float64],
    origin: NDArray[np.float64],
    size: tuple[int, int],
) -> NDArray[np.float32]:
    """Sample a crop whose pixel (i, j) shows the place `affine` gives for origin + (i + 0.5, j + 0.5) / k."""
    linear = affine[:, :2]
    at = (linear @ (origin + 0.5 / k) + affine[:, 2]) * k - 0.5
    warp = np.column_stack([linear, at])
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    crop = cv2.warpAffine(grey, warp, size, flags=flags, borderMode=cv2.BORDER_CONSTANT, borderValue=255)
    return crop.astype(np.float32)


def read_printed(
    grey: NDArray[np.uint8], px_per_mm: float, marks: Sequence[Mark], settings: MarkSettings
) -> ScannedSheet:
    """Find the marks in a picture of the printed sheet and fit where the print went. A mark that is gone (but the
    ringed one) is done without while three are left.

    Raises:
        MarkNotFound, SheetTurned: as `sense_marks`.
    """
    half = round(WINDOW_MM * px_per_mm / 2)
    framed = np.pad(grey, half, constant_values=255)

    def look(x_mm: float, y_mm: float) -> View:
        # The sensor's frame has y up; here it is the sheet's own with the sign turned.
        column, row = round(x_mm * px_per_mm), round(-y_mm * px_per_mm)
        column = min(max(column, 0), grey.shape[1] - 1)
        row = min(max(row, 0), grey.shape[0] - 1)
        part = framed[row : row + 2 * half + 1, column : column + 2 * half + 1]
        return View(part, (column + 0.5) / px_per_mm, -(row + 0.5) / px_per_mm, px_per_mm)

    there = list(marks)
    while True:
        try:
            found = sense_marks(there, settings, lambda x, y: (x, -y), look)
            break
        except MarkNotFound as lost:
            left = [there[0], *(mark for mark in there[1:] if mark.name != lost.where)]
            if len(left) < 3 or len(left) == len(there):
                raise
            there = left
    fit = register([(m.x_mm, m.y_mm) for m in there], [(f.x_mm, -f.y_mm) for f in found])
    return ScannedSheet(grey, px_per_mm, fit.matrix)
