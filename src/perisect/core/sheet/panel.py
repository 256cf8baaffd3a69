"""The area that a job's sheets offer; of a roll, panels as long as they have to be."""

from math import ceil

from perisect.core.sheet.fill import Footprint
from perisect.core.sheet.grid import clear_band
from perisect.core.sheet.nest import USUAL_SHARE
from perisect.core.sheet.perimeter import area_inside_perimeter
from perisect.core.sheet.placing import boxes_on, locked_on, set_by_hand
from perisect.core.sheet.recipe import SheetRecipe
from perisect.core.sheet.rows import rows_plan
from perisect.core.sheet.usable import UsableArea, usable_area

STEP_MM = 5.0
"""Panels are as many of these long."""


def area_of(sheet: SheetRecipe, footprints: list[Footprint]) -> UsableArea:
    """A sheet's area; by number, a roll's panels are the shortest that need no more of them."""
    whole = _area(sheet, sheet.on.height_mm)
    if sheet.on.kind == "sheet" or not footprints:
        return whole
    if sheet.panel_mm is not None:
        return _area(sheet, min(sheet.panel_mm, sheet.on.height_mm))
    if sheet.method == "hand" and sheet.card is None:
        return _area(sheet, _below(sheet, whole, footprints))
    if sheet.fill:
        return whole
    if sheet.method == "nest":
        needed = sum(f.area_mm2 * f.copies for f in footprints) / USUAL_SHARE
        panels = ceil(needed / whole.polygon.area) if whole.polygon.area else 1
        length = needed / panels / max(1.0, whole.right_mm - whole.left_mm)
        bare = sheet.on.height_mm - (whole.bottom_mm - whole.top_mm)
        tallest = max(max(f.right_mm - f.left_mm, f.bottom_mm - f.top_mm) for f in footprints)
        return _area(sheet, _step(max(length, tallest) + bare + 2 * STEP_MM, sheet.on.height_mm))
    most = _sheets(sheet, whole, footprints)
    low, high = 0, ceil(sheet.on.height_mm / STEP_MM)
    while high - low > 1:
        middle = (low + high) // 2
        if _sheets(sheet, _area(sheet, middle * STEP_MM), footprints) == most:
            high = middle
        else:
            low = middle
    return _area(sheet, _step(high * STEP_MM, sheet.on.height_mm))


def _below(sheet: SheetRecipe, whole: UsableArea, footprints: list[Footprint]) -> float:
    """Length that ends below the lowest piece set by hand and leaves room for the lower marks."""
    by_key = {f.key: f for f in footprints}
    lowest = max((box[3] for box in boxes_on(by_key, set_by_hand(footprints, sheet))), default=0.0)
    return _step(lowest + sheet.on.height_mm - clear_band(whole)[1], sheet.on.height_mm)


def _area(sheet: SheetRecipe, height_mm: float) -> UsableArea:
    return usable_area(sheet.on.panel(height_mm), sheet.machine, sheet.marks_at)


def _sheets(sheet: SheetRecipe, area: UsableArea, footprints: list[Footprint]) -> tuple[int, int]:
    if area.polygon.is_empty:
        return -1, -1
    plan = rows_plan(area_inside_perimeter(area, sheet), footprints, sheet, locked_on(footprints, sheet))
    return len(plan.sheets), sum(plan.missing.values())


def _step(length_mm: float, most_mm: float) -> float:
    return min(most_mm, ceil(length_mm / STEP_MM) * STEP_MM)
