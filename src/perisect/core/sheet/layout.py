"""Where everything stands: rows and columns, a nest, or by hand."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from perisect.core.sheet.fill import MAX_SHEETS, Footprint, SheetPlan, fill_sheets
from perisect.core.sheet.nest import NestQuestion
from perisect.core.sheet.placement import Placement, boxed, centre
from perisect.core.sheet.placing import centred, plan_of, round_locked
from perisect.core.sheet.recipe import PlacementRecipe, SheetRecipe
from perisect.core.sheet.staggered import staggered
from perisect.core.sheet.usable import UsableArea

MOST_CELLS_LOST = 9
"""Cells of a grid that a piece somewhere among them can touch, when it is no larger than they are."""

NestedOf = Callable[[NestQuestion], Sequence[Placement] | None]
"""Where the answer to a question comes from; None while there is none."""


@dataclass(frozen=True)
class Layout:
    """Filled sheets; `question` is the nest that was asked for, `waiting` when it has no answer yet and rows
    stand in its place, `rows_won` when rows hold more than what was nested."""

    plan: SheetPlan
    question: NestQuestion | None = None
    waiting: bool = False
    rows_won: bool = False


def lay_out(
    area: UsableArea, footprints: Sequence[Footprint], sheet: SheetRecipe, nested: NestedOf
) -> Layout:
    """Place designs as the sheet's recipe says."""
    by_key = {f.key: f for f in footprints}
    fixed = set_by_hand(footprints, sheet)
    if sheet.method == "hand":
        return Layout(plan_of(area, footprints, fixed, sheet.fill))
    rows = rows_plan(area, footprints, sheet)
    if sheet.method == "rows" or not footprints:
        return Layout(rows)
    question = NestQuestion(
        area=area,
        shapes={f.key: f.outline for f in footprints},
        wanted=None if sheet.fill else {f.key: f.copies for f in footprints},
        gap_mm=sheet.gap_mm,
        turns=sheet.turns,
        seconds=sheet.nest_s,
        seed=sheet.seed,
        most_sheets=1 if sheet.fill else MAX_SHEETS,
        fixed=tuple(boxed(placement, 0.0, 0.0) for placement in fixed),
    )
    found = nested(question)
    if found is None:
        return Layout(rows, question, waiting=True)
    locked = len(fixed)
    pieces = [replace(_of(by_key[p.key], p), locked=n < locked) for n, p in enumerate(found)]
    plan = plan_of(area, footprints, pieces, sheet.fill)
    if _cost(rows) < _cost(plan):
        return Layout(rows, question, rows_won=True)
    return Layout(plan, question)


def _cost(plan: SheetPlan) -> tuple[float, ...]:
    """Missing pieces first, then sheets, then what is left of them."""
    return sum(plan.missing.values()), len(plan.sheets) or 99, -round(plan.used_share, 6)


def _of(footprint: Footprint, piece: Placement) -> Placement:
    """A placement that a search found, with the box of its outline."""
    return boxed(
        replace(piece, rotation_deg=piece.rotation_deg % 360), footprint.width_mm, footprint.height_mm
    )


def set_by_hand(footprints: Sequence[Footprint], sheet: SheetRecipe) -> list[Placement]:
    """What was set by hand and counts."""
    by_key = {f.key: f for f in footprints}
    return [
        centred(by_key[s.design], s.x_mm, s.y_mm, s.rotation_deg, s.locked, s.sheet)
        for s in sheet.placements
        if s.design in by_key and (sheet.method == "hand" or s.locked)
    ]


def rows_plan(area: UsableArea, footprints: Sequence[Footprint], sheet: SheetRecipe) -> SheetPlan:
    """Rows and columns, round what is locked; by number, what gives way stands on a further sheet."""
    locked = [each for each in set_by_hand(footprints, sheet) if each.locked]
    if not locked:
        return _in_rows(area, footprints, sheet)
    # One design takes further cells in place of those that give way.
    spare = MOST_CELLS_LOST * len(locked) if len(footprints) == 1 else 0
    more = [replace(f, copies=f.copies + spare) for f in footprints]
    plan = _in_rows(area, more, sheet)
    standing = round_locked(plan, footprints, locked, sheet.gap_mm)
    if sheet.fill:
        return plan_of(area, footprints, [each for each in standing if each.sheet == 0], fill=True)
    standing = _no_more_than_wanted(footprints, standing)
    rest = plan_of(area, footprints, standing, fill=False).missing
    more = [replace(f, copies=rest[f.key]) for f in footprints if rest.get(f.key)]
    first = max((placement.sheet for placement in standing), default=-1) + 1
    further = fill_sheets(area, more, sheet.gap_mm, fill=False)
    standing += [
        replace(placement, sheet=first + placement.sheet)
        for placements in further.sheets
        for placement in placements
        if first + placement.sheet < MAX_SHEETS
    ]
    return plan_of(area, footprints, standing, fill=False)


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
    standing = [replace(_of(footprint, laid[n % len(laid)]), sheet=n // len(laid)) for n in range(wanted)]
    plan = plan_of(area, footprints, standing, sheet.fill)
    return plan if _cost(plan) < _cost(straight) else straight


def _no_more_than_wanted(footprints: Sequence[Footprint], standing: Sequence[Placement]) -> list[Placement]:
    left = {f.key: f.copies for f in footprints}
    kept = []
    for placement in standing:
        if placement.locked or left[placement.key] > 0:
            left[placement.key] -= 1
            kept.append(placement)
    return kept


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
