"""What people ask of a planned job: how large, how many, how many sheets."""

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from math import ceil

from perisect.core.job.plan import JobPlan, LinesOf, lines_of
from perisect.core.job.recipe import DesignRecipe
from perisect.core.ledger.spares import MOST_SHEETS_DRAWN, RejectLog, least_to_print
from perisect.core.lines import CutLines
from perisect.core.sheet import Footprint, fill_sheets
from perisect.core.sheet.cards import card_footprint
from perisect.core.sheet.footprints import clearance_mm, footprint_of, with_clearance
from perisect.core.sheet.grid import best_grid
from perisect.core.sheet.largest import LEAST_MM, largest_for
from perisect.core.sheet.panel import area_of
from perisect.core.sheet.perimeter import area_inside_perimeter
from perisect.core.sheet.recipe import CardRecipe, SheetRecipe
from perisect.core.sheet.rows import rows_plan

TRIES, STEP_MM = 5, 0.015


@dataclass(frozen=True)
class OrderAnswer:
    """Copies of each design to print, the sheets they take in rows, and how many are left out of them; of theme
    sheets how many cards that is."""

    to_print: Mapping[str, int]
    sheets: int
    left_out: int
    cards: int | None = None


def largest_size(plan: JobPlan, design_id: str, up: int, lines: LinesOf = lines_of) -> float | None:
    """The longest side at which a sheet holds `up` of a design in rows and columns, mm; None when none does.

    Fitted lines are a few hundredths wider or narrower from size to size: the size found is tried, and
    taken back a little while it does not do.

    Args:
        lines: how to get a design's lines; a caller with a cache passes its own.

    Raises:
        KeyError: no such design.
    """
    design, gap = plan.recipe.design(design_id), plan.recipe.sheet.between_mm
    area = area_inside_perimeter(plan.area, plan.recipe.sheet)
    size = largest_for(area, _kept_free(design, plan.lines[design_id], plan), gap, up)
    for _ in range(TRIES):
        if size is None or size < LEAST_MM:
            return None
        tried = design.model_copy(update={"longest_mm": size})
        taken = _kept_free(tried, lines(plan.artworks[design_id], tried, plan.recipe.sheet.tooling), plan)
        width, height = taken.right_mm - taken.left_mm, taken.bottom_mm - taken.top_mm
        if best_grid(area, width, height, gap).count >= up:
            return size
        size -= STEP_MM
    return size


def order_answer(
    plan: JobPlan, orders: Mapping[str, int], reject_rate: float, log: RejectLog | None = None
) -> OrderAnswer:
    """What to print for an order, and on how many sheets.

    Args:
        log: sheets that were counted, whose stickers share their fate; without it each is rejected by itself.

    Raises:
        NeverEnough: so many are rejected that no number is enough.
    """
    up = (
        Counter(placement.key for placement in plan.sheets.sheets[0])
        if plan.sheets.sheets
        else Counter[str]()
    )

    def least(key: str, count: int) -> int:
        if log is None or count > MOST_SHEETS_DRAWN * up[key]:
            return least_to_print(count, reject_rate)
        return log.least(count, up[key])[0]

    wanted = {key: least(key, count) for key, count in orders.items() if key in plan.lines}
    sheet = plan.recipe.sheet.model_copy(
        update={"gap_mm": plan.recipe.sheet.between_mm, "fill": False, "method": "rows", "placements": ()}
    )
    if plan.cards is not None and sheet.card is not None:
        return _on_cards(plan, sheet, sheet.card, wanted)
    prints = [
        _kept_free(design.model_copy(update={"copies": wanted[design.id]}), plan.lines[design.id], plan)
        for design in plan.recipe.designs
        if wanted.get(design.id)
    ]
    filled = rows_plan(area_inside_perimeter(area_of(sheet, prints), sheet), prints, sheet, locked=())
    return OrderAnswer(wanted, len(filled.sheets), sum(filled.missing.values()))


def _on_cards(plan: JobPlan, sheet: SheetRecipe, card: CardRecipe, wanted: Mapping[str, int]) -> OrderAnswer:
    """As many cards as the piece needs of which there are fewest on one for its order."""
    on_card = Counter(placement.key for placement in plan.cards.on_card) if plan.cards else Counter[str]()
    nowhere = sum(count for key, count in wanted.items() if not on_card[key])
    cards = max((ceil(count / on_card[key]) for key, count in wanted.items() if on_card[key]), default=0)
    to_print = {key: cards * on_card[key] for key in wanted}
    box = card_footprint(card, cards)
    filled = fill_sheets(area_inside_perimeter(area_of(sheet, [box]), sheet), [box], sheet.gap_mm, fill=False)
    missing = filled.missing.get(box.key, 0) * sum(on_card.values())
    return OrderAnswer(to_print, len(filled.sheets), nowhere + missing, cards)


def _kept_free(design: DesignRecipe, lines: CutLines, plan: JobPlan) -> Footprint:
    return with_clearance(
        footprint_of(design.id, design.copies, lines), clearance_mm(lines, plan.recipe.sheet)
    )
