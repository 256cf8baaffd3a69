"""A calibration page: printed combs with cut combs laid beside them, whose teeth stand a tenth of a mm closer.

Where cut teeth go on printed ones in one line, there the comb tells by how much the cut lies beside the print: the
principle of Vernier's scale. Two combs across, at head and foot, and two along, left and right, give both shifts, the
turn and the skew of a plotter in one sheet.
"""

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.prepress.head_pattern import PageTooSmall
from perisect.core.prepress.text_page import Words, text_page
from perisect.core.sheet import MarkSettings, Stock
from perisect.core.sheet.mark_shape import mark_shape
from perisect.core.sheet.marks import Mark

TEETH = 12
"""On each side of the middle one."""
PITCH_MM = 4.0
STEP_MM = 0.1
"""A cut comb's teeth stand so much closer."""
TOOTH_MM, OVER_MM, LINE_MM = 7.0, 1.5, 0.14
"""Length of a tooth, by how much printed and cut ones overlap, and the weight of the printed ones."""
ACROSS_AT, ALONG_AT = 0.3, 0.3
"""Combs stand this share of the page's height, and width, from its middle."""
LEAST_MM = (2 * TEETH * PITCH_MM + 60, 2 * TEETH * PITCH_MM + 100)
COMBS = ("head", "foot", "left", "right")


@dataclass(frozen=True)
class Comb:
    """One comb: its name, the middle of its axis, page mm, and whether it reads across the page."""

    name: str
    x_mm: float
    y_mm: float
    across: bool

    def tooth(self, at_mm: float, begin_mm: float, end_mm: float) -> NDArray[np.float64]:
        """(2, 2) a tooth so far along the axis, from and to so far beside it."""
        if self.across:
            return np.array(
                [(self.x_mm + at_mm, self.y_mm + begin_mm), (self.x_mm + at_mm, self.y_mm + end_mm)]
            )
        return np.array([(self.x_mm + begin_mm, self.y_mm + at_mm), (self.x_mm + end_mm, self.y_mm + at_mm)])


def combs(stock: Stock) -> list[Comb]:
    """Where the combs of a page stand.

    Raises:
        PageTooSmall: the stock has no room for them.
    """
    if stock.width_mm < LEAST_MM[0] or stock.height_mm < LEAST_MM[1]:
        raise PageTooSmall(
            f"The calibration page needs a sheet of {LEAST_MM[0]:g} × {LEAST_MM[1]:g} mm, and {stock.name} is smaller."
        )
    x, y = stock.width_mm / 2, stock.height_mm / 2
    return [
        Comb("head", x, y - ACROSS_AT * stock.height_mm, True),
        Comb("foot", x, y + ACROSS_AT * stock.height_mm, True),
        Comb("left", x - ALONG_AT * stock.width_mm, y, False),
        Comb("right", x + ALONG_AT * stock.width_mm, y, False),
    ]


def vernier_pdf(stock: Stock, marks: list[Mark], settings: MarkSettings, plotter: str) -> bytes:
    """The page to print, marks and all.

    Raises:
        PageTooSmall.
    """
    paint = ["0 g"]
    for mark in marks:
        paint += [f"{_rings(shape)} f*" for shape in shapely.get_parts(mark_shape(mark, settings))]
    words = [Words(f"Calibration · {plotter}", stock.width_mm / 2 - 28, stock.height_mm / 2 - 6, 3.0, "head")]
    told = "Load and cut it, then read where cut and printed teeth are one line."
    words.append(Words(told, stock.width_mm / 2 - 45, stock.height_mm / 2 + 1, 2.0))
    paint.append(f"{LINE_MM} w")
    for comb in combs(stock):
        for n in range(-TEETH, TEETH + 1):
            long = TOOTH_MM + (2.0 if n == 0 else 0.0)
            (x0, y0), (x1, y1) = comb.tooth(n * PITCH_MM, 0.0, -long).tolist()
            paint.append(f"{x0:.3f} {y0:.3f} m {x1:.3f} {y1:.3f} l S")
            if n % 2 == 0:
                words.append(_label(comb, n))
    return text_page(stock, words, paint)


def teeth_cut(stock: Stock) -> list[NDArray[np.float64]]:
    """(2, 2) lines to cut, page mm, comb after comb."""
    return [
        comb.tooth(n * (PITCH_MM - STEP_MM), -OVER_MM, TOOTH_MM)
        for comb in combs(stock)
        for n in range(-TEETH, TEETH + 1)
    ]


def _label(comb: Comb, n: int) -> Words:
    text = f"{n * STEP_MM:.1f}".replace("-", "−")
    (_, _), (x, y) = comb.tooth(n * PITCH_MM, 0.0, -TOOTH_MM - 3.0).tolist()
    if comb.across:
        return Words(text, x - 2.0, y, 1.7, "mono")
    return Words(text, x - 5.0, y + 0.8, 1.7, "mono")


def _rings(shape: shapely.Polygon) -> str:
    rings = [shape.exterior, *shape.interiors]
    return " ".join(
        " ".join(f"{x:.4f} {y:.4f} {'m' if n == 0 else 'l'}" for n, (x, y) in enumerate(ring.coords[:-1]))
        + " h"
        for ring in rings
    )
