"""Where everything stands: rows and columns, a nest, or by hand."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from perisect.core.sheet.fill import MAX_SHEETS, Footprint, SheetPlan
from perisect.core.sheet.nest import Nest, NestQuestion
from perisect.core.sheet.panel import PanelRoom, ended
from perisect.core.sheet.placement import Placement, centre
from perisect.core.sheet.placing import plan_of, rank, set_by_hand, shapes_on
from perisect.core.sheet.recipe import PANEL_STEP_MM, PlacementRecipe, SheetRecipe
from perisect.core.sheet.rows import rows_plan
from perisect.core.sheet.scrap import on_scrap
from perisect.core.sheet.usable import UsableArea

NestedOf = Callable[[NestQuestion], Nest | None]
"""Where the answer to a question comes from; None while there is none."""


@dataclass(frozen=True)
class Layout:
    """Filled sheets; `question` is the nest that was asked for, `waiting` when it has no answer yet and rows
    stand in its place, `rows_won` when rows hold more than what was nested, `is_cut_short` when the search for it was
    stopped early."""

    plan: SheetPlan
    question: NestQuestion | None = None
    waiting: bool = False
    rows_won: bool = False
    is_cut_short: bool = False


def lay_out(
    area: UsableArea, footprints: Sequence[Footprint], sheet: SheetRecipe, nested: NestedOf
) -> Layout:
    """Place designs as the sheet's recipe says."""
    fixed = set_by_hand(footprints, sheet)
    if sheet.method == "hand":
        return Layout(plan_of(area, footprints, fixed, sheet.fill))
    rows = rows_plan(area, footprints, sheet, fixed)
    if sheet.scrap is not None:
        shapes = shapes_on({f.key: f for f in footprints}, fixed)
        standing = on_scrap(area, footprints, sheet, fixed, shapes)
        # One by one the first of large pieces may stand in the way of the next.
        if len(footprints) == 1 and not fixed and rows.sheets:
            standing = max(standing, rows.sheets[0], key=len)
        return Layout(plan_of(area, footprints, standing, sheet.fill))
    if sheet.method == "rows" or not footprints:
        return Layout(rows)
    # More pieces than one sheet holds one of each of: as many sheets as each of them once takes, all filled.
    one_each = sheet.fill and len(rows.sheets) > 1
    wanted = {f.key: 1 if one_each else f.copies for f in footprints}
    shorter = sheet.ends_free and not fixed
    question = NestQuestion(
        area=area,
        shapes={f.key: f.outline for f in footprints},
        wanted=wanted if one_each or not sheet.fill else None,
        gap_mm=sheet.gap_mm,
        turns=sheet.turns,
        seconds=sheet.nest_s,
        seed=sheet.seed,
        most_sheets=MAX_SHEETS if one_each or not sheet.fill else 1,
        fixed=tuple(fixed),
        step_mm=PANEL_STEP_MM if shorter else None,
        panels=PanelRoom(sheet) if shorter else None,
        fills=one_each,
    )
    found = nested(question)
    if found is None:
        return Layout(rows, question, waiting=True)
    # What is fixed comes first in what was found, and stands as it was set, not as it was written down.
    plan = plan_of(area, footprints, [*fixed, *found.placements[len(fixed) :]], sheet.fill)
    if _cost(area, footprints, sheet, rows) < _cost(area, footprints, sheet, plan):
        return Layout(rows, question, rows_won=True, is_cut_short=found.is_cut_short)
    return Layout(plan, question, is_cut_short=found.is_cut_short)


def _cost(
    area: UsableArea, footprints: Sequence[Footprint], sheet: SheetRecipe, plan: SheetPlan
) -> tuple[float, ...]:
    """Less is better; of a roll's panels those that can be cut shorter, lower marks and all."""
    if sheet.ends_free:
        return *plan.cost, ended(sheet, area, footprints, plan).stock.height_mm
    return rank(area, footprints, plan)


def as_recipes(placements: Sequence[Placement]) -> tuple[PlacementRecipe, ...]:
    """Places as they would be set by hand."""
    found = []
    for p in placements:
        x, y = centre(p)
        found.append(
            PlacementRecipe(
                design=p.key, sheet=p.sheet, x_mm=x, y_mm=y, rotation_deg=p.rotation_deg, locked=p.locked
            )
        )
    return tuple(found)
