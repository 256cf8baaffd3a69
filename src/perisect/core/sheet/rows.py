"""Rows and columns, straight or staggered, round what is locked."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

from perisect.core.sheet.fill import MAX_SHEETS, Footprint, SheetPlan, fill_sheets
from perisect.core.sheet.placement import Placement
from perisect.core.sheet.placing import plan_of, round_locked
from perisect.core.sheet.recipe import SheetRecipe
from perisect.core.sheet.staggered import staggered
from perisect.core.sheet.usable import UsableArea

MOST_CELLS_LOST = 9
"""Cells of a grid that a piece somewhere among them can touch, when it is no larger than they are."""


def rows_plan(
    area: UsableArea, footprints: Sequence[Footprint], sheet: SheetRecipe, locked: Sequence[Placement]
) -> SheetPlan:
    """Rows and columns, round what is locked; what gives way and is wanted still stands on a further sheet."""
    if not locked:
        return _in_rows(area, footprints, sheet)
    # One design takes further cells in place of those that give way.
    spare = MOST_CELLS_LOST * len(locked) if len(footprints) == 1 else 0
    more = [replace(f, copies=f.copies + spare) for f in footprints]
    standing = round_locked(_in_rows(area, more, sheet), footprints, locked, sheet.gap_mm)
    # When sheets are filled, one of each has to be there; by number, all of them.
    wanted = [replace(f, copies=1) for f in footprints] if sheet.fill else footprints
    if not sheet.fill:
        standing = _no_more_than_wanted(wanted, standing)
    standing += _on_further_sheets(area, wanted, standing, sheet.gap_mm)
    return plan_of(area, footprints, standing, sheet.fill)


def _on_further_sheets(
    area: UsableArea, footprints: Sequence[Footprint], standing: Sequence[Placement], gap_mm: float
) -> list[Placement]:
    """What does not stand yet, on sheets after the last."""
    count = Counter(placement.key for placement in standing)
    rest = [replace(f, copies=f.copies - count[f.key]) for f in footprints if f.copies > count[f.key]]
    first = max((placement.sheet for placement in standing), default=-1) + 1
    return [
        replace(placement, sheet=first + placement.sheet)
        for placements in fill_sheets(area, rest, gap_mm, fill=False).sheets
        for placement in placements
        if first + placement.sheet < MAX_SHEETS
    ]


def _no_more_than_wanted(footprints: Sequence[Footprint], standing: Sequence[Placement]) -> list[Placement]:
    left = {f.key: f.copies for f in footprints}
    kept = []
    for placement in standing:
        if placement.locked or left[placement.key] > 0:
            left[placement.key] -= 1
            kept.append(placement)
    return kept


def _in_rows(area: UsableArea, footprints: Sequence[Footprint], sheet: SheetRecipe) -> SheetPlan:
    """Rows of one piece in the style that is asked for where they hold more than straight ones; rows of several
    are always straight."""
    straight = fill_sheets(area, list(footprints), sheet.gap_mm, sheet.fill)
    if sheet.rows == "straight" or len(footprints) != 1 or area.polygon.is_empty:
        return straight
    (footprint,) = footprints
    laid = staggered(area, footprint, sheet.gap_mm, sheet.rows)
    if len(laid) <= max((len(each) for each in straight.sheets), default=0) and sheet.fill:
        return straight
    wanted = len(laid) if sheet.fill else min(footprint.copies, len(laid) * MAX_SHEETS)
    standing = [replace(laid[n % len(laid)], sheet=n // len(laid)) for n in range(wanted)]
    plan = plan_of(area, footprints, standing, sheet.fill)
    return plan if plan.cost < straight.cost else straight
