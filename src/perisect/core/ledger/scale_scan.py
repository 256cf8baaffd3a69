"""The size a sheet was printed at, measured on a scan of it."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from perisect.core.ledger.flat_sheet import NotTheSheet, located_however
from perisect.core.ledger.scale_check import spans
from perisect.core.sheet.marks import Mark, MarkSettings
from perisect.core.units import MM_PER_INCH

LEANS = 0.004
"""Of a scan a mm is as long at every corner, but for this share; of a photo it is not."""


def scanned_spans(
    grey: NDArray[np.uint8],
    marks: Sequence[Mark],
    settings: MarkSettings,
    size_mm: tuple[float, float],
    ppi: float,
) -> tuple[float, float]:
    """The two distances of `spans` on an (h, w) scan, mm by its ppi; whichever way up the sheet lay.

    Raises:
        NotTheSheet: its marks are not seen, or it was taken at an angle.
        NoSuchMarks.
    """
    across, along = spans(tuple(marks))
    _, matrix = located_however(grey, marks, settings, *size_mm)
    places = {mark.name: (mark.x_mm, mark.y_mm) for mark in marks}
    mm_per_px = MM_PER_INCH / ppi
    width, height = size_mm
    corners = np.array([(0, 0), (width, 0), (0, height), (width, height)], float)
    steps = np.array([(1.0, 0.0), (0.0, 1.0)])
    scales = np.array([[_apart(matrix, corner, corner + step) for step in steps] for corner in corners])
    if (scales.max(axis=0) / scales.min(axis=0) - 1).max() > LEANS:
        raise NotTheSheet(
            "The sheet was taken at an angle, which tells nothing of its size: scan it on a flatbed at 300 ppi."
        )
    first, second = (
        _apart(matrix, np.array(places[span.from_name]), np.array(places[span.to_name])) * mm_per_px
        for span in (across, along)
    )
    return first, second


def _apart(matrix: NDArray[np.float64], a: NDArray[np.float64], b: NDArray[np.float64]) -> float:
    there = np.column_stack([np.vstack([a, b]), np.ones(2)]) @ matrix.T
    there = there[:, :2] / there[:, 2:]
    return float(np.hypot(*(there[1] - there[0])))
