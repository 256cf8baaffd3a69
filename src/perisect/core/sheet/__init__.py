"""Station 3: stock, marks, usable area and where each sticker stands."""

from perisect.core.sheet.fill import Footprint, SheetPlan, fill_sheets
from perisect.core.sheet.mark_pattern import marks_for
from perisect.core.sheet.marks import Mark, MarkSettings
from perisect.core.sheet.placement import Placement
from perisect.core.sheet.stock import A4, LETTER, STOCKS, Stock
from perisect.core.sheet.usable import Machine, UsableArea, usable_area

__all__ = [
    "A4",
    "LETTER",
    "STOCKS",
    "Footprint",
    "Machine",
    "Mark",
    "MarkSettings",
    "Placement",
    "SheetPlan",
    "Stock",
    "UsableArea",
    "fill_sheets",
    "marks_for",
    "usable_area",
]
