"""Perisect's own registration mark: a disc with two opposite black quarters.

The black quarters meet in the centre, a saddle that a sensor finds to a fraction of a pixel whatever
the exposure. Four stand at the corners; the first, at the top left, wears a ring, so that a turned
sheet is noticed.
"""

from dataclasses import dataclass
from typing import Literal

from perisect.core.sheet.stock import Stock

MarkKind = Literal["ringed", "plain"]


@dataclass(frozen=True)
class MarkSettings:
    """Size and place of the marks, a setting of the plotter. All mm."""

    radius_mm: float = 3.0
    ring_inner_mm: float = 3.6
    ring_outer_mm: float = 4.2
    clear_mm: float = 5.5
    """Radius about the centre in which nothing else may stand."""
    side_mm: float = 11.0
    top_mm: float = 12.0
    bottom_mm: float = 15.0
    """Distance of the lower marks from the foot of the sheet: printers lose most there."""


@dataclass(frozen=True)
class Mark:
    """Centre of a mark in sheet coordinates."""

    x_mm: float
    y_mm: float
    kind: MarkKind


def marks_for(stock: Stock, settings: MarkSettings) -> tuple[Mark, Mark, Mark, Mark]:
    """The four marks: top left (ringed), top right, lower left, lower right."""
    left, right = settings.side_mm, stock.width_mm - settings.side_mm
    top, bottom = settings.top_mm, stock.height_mm - settings.bottom_mm
    return (
        Mark(left, top, "ringed"),
        Mark(right, top, "plain"),
        Mark(left, bottom, "plain"),
        Mark(right, bottom, "plain"),
    )


WHERE = ("top left", "top right", "lower left", "lower right")
"""Names of the four places, in the order of `marks_for`."""
