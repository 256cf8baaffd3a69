"""The area that a job's sheets offer; of a roll, panels as long as they have to be."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

import shapely

from perisect.core.sheet.fill import Footprint, SheetPlan
from perisect.core.sheet.grid import clear_band
from perisect.core.sheet.mark_check import marks_hold
from perisect.core.sheet.nest import USUAL_SHARE
from perisect.core.sheet.perimeter import area_inside_perimeter
from perisect.core.sheet.placement import placed
from perisect.core.sheet.placing import boxes_on, locked_on, set_by_hand
from perisect.core.sheet.recipe import PANEL_STEP_MM, SheetRecipe
from perisect.core.sheet.rows import rows_plan
from perisect.core.sheet.usable import UsableArea, usable_area

NOWHERE = -1, -1
"""Sheets and missing pieces where there is no room, or none for marks."""
EDGE_MM = 1e-3
"""A piece may touch the edge."""


@dataclass(frozen=True)
class PanelRoom:
    """Where stickers may stand on a roll's panel of a length, mm; None where its marks do not hold."""

    sheet: SheetRecipe

    def __call__(self, length_mm: float) -> UsableArea | None:
        panel = _area(self.sheet, length_mm)
        return area_inside_perimeter(panel, self.sheet) if marks_hold(panel) else None


def area_of(sheet: SheetRecipe, footprints: list[Footprint]) -> UsableArea:
    """A sheet's area; by number, a roll's panels are the shortest that need no more of them in rows, or as long as they
    can be where a nest may need fewer. What is nested then ends where it ends: `ended`."""
    whole = _area(sheet, sheet.on.height_mm)
    if sheet.on.kind == "sheet" or not footprints:
        return whole
    if sheet.panel_mm is not None:
        return _area(sheet, min(sheet.panel_mm, sheet.on.height_mm))
    if sheet.method == "hand" and sheet.card is None:
        return _area(sheet, _below(sheet, whole, footprints))
    if sheet.fill:
        return whole
    most = _sheets(sheet, whole, footprints)
    if most == NOWHERE:
        return whole
    if sheet.method == "nest":
        needed = sum(f.area_mm2 * f.copies for f in footprints) / USUAL_SHARE
        if needed < (most[0] - 1) * whole.polygon.area:
            return whole
    low, high = 0, ceil(sheet.on.height_mm / PANEL_STEP_MM)
    while high - low > 1:
        middle = (low + high) // 2
        if _sheets(sheet, _area(sheet, middle * PANEL_STEP_MM), footprints) == most:
            high = middle
        else:
            low = middle
    return _area(sheet, _step(high * PANEL_STEP_MM, sheet.on.height_mm))


def ended(
    sheet: SheetRecipe, area: UsableArea, footprints: Sequence[Footprint], plan: SheetPlan
) -> UsableArea:
    """The area of the shortest panels of a roll that hold what was nested as it stands, lower marks and all."""
    if not sheet.ends_free or not plan.count:
        return area
    outlines = {f.key: f.outline for f in footprints}
    pieces = [placed(outlines[piece.key], piece) for on_it in plan.sheets for piece in on_it]
    lowest = max(piece.bounds[3] for piece in pieces)
    bare = area.stock.height_mm - area.bottom_mm
    for steps in range(ceil((lowest + bare) / PANEL_STEP_MM), ceil(area.stock.height_mm / PANEL_STEP_MM)):
        shorter = _area(sheet, steps * PANEL_STEP_MM)
        # Marks stand elsewhere on a shorter panel, and may need the room of a piece.
        room = shapely.buffer(area_inside_perimeter(shorter, sheet).polygon, EDGE_MM)
        if marks_hold(shorter) and shapely.covers(room, pieces).all():
            return shorter
    return area


def _below(sheet: SheetRecipe, whole: UsableArea, footprints: list[Footprint]) -> float:
    """Length that ends below the lowest piece set by hand and leaves room for the lower marks."""
    by_key = {f.key: f for f in footprints}
    lowest = max((box[3] for box in boxes_on(by_key, set_by_hand(footprints, sheet))), default=0.0)
    length = _step(lowest + sheet.on.height_mm - clear_band(whole)[1], sheet.on.height_mm)
    while length < sheet.on.height_mm and not marks_hold(_area(sheet, length)):
        length = _step(length + PANEL_STEP_MM, sheet.on.height_mm)
    return length


def _area(sheet: SheetRecipe, height_mm: float) -> UsableArea:
    return usable_area(sheet.on.panel(height_mm), sheet.machine, sheet.marks_at, sheet.used_shapes)


def _sheets(sheet: SheetRecipe, area: UsableArea, footprints: list[Footprint]) -> tuple[int, int]:
    if area.polygon.is_empty or not marks_hold(area):
        return NOWHERE
    plan = rows_plan(area_inside_perimeter(area, sheet), footprints, sheet, locked_on(footprints, sheet))
    return len(plan.sheets), sum(plan.missing.values())


def _step(length_mm: float, most_mm: float) -> float:
    return min(most_mm, ceil(length_mm / PANEL_STEP_MM) * PANEL_STEP_MM)
