"""What people ask of a planned job: how large, how many, how many sheets."""

from collections.abc import Mapping
from dataclasses import dataclass

from perisect.core.job.block import area_inside_block
from perisect.core.job.plan import JobPlan, LinesOf, footprint, lines_of
from perisect.core.ledger.spares import least_to_print
from perisect.core.sheet import fill_sheets
from perisect.core.sheet.grid import best_grid
from perisect.core.sheet.largest import LEAST_MM, largest_for

TRIES, STEP_MM = 5, 0.015


@dataclass(frozen=True)
class OrderAnswer:
    """Copies of each design to print, the sheets they take, and how many are left out of them."""

    to_print: Mapping[str, int]
    sheets: int
    left_out: int


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
    area = area_inside_block(plan.area, plan.recipe.sheet)
    size = largest_for(area, footprint(design, plan.lines[design_id]), gap, up)
    for _ in range(TRIES):
        if size is None or size < LEAST_MM:
            return None
        tried = design.model_copy(update={"longest_mm": size})
        taken = footprint(tried, lines(plan.artworks[design_id], tried))
        width, height = taken.right_mm - taken.left_mm, taken.bottom_mm - taken.top_mm
        if best_grid(area, width, height, gap).count >= up:
            return size
        size -= STEP_MM
    return size


def order_answer(plan: JobPlan, orders: Mapping[str, int], reject_rate: float) -> OrderAnswer:
    """What to print for an order, and on how many sheets.

    Raises:
        NeverEnough: so many are rejected that no number is enough.
    """
    wanted = {key: least_to_print(count, reject_rate) for key, count in orders.items() if key in plan.lines}
    recipe = plan.recipe
    prints = [
        footprint(design.model_copy(update={"copies": wanted[design.id]}), plan.lines[design.id])
        for design in recipe.designs
        if wanted.get(design.id)
    ]
    area = area_inside_block(plan.area, recipe.sheet)
    filled = fill_sheets(area, prints, recipe.sheet.between_mm, fill=False)
    return OrderAnswer(wanted, len(filled.sheets), sum(filled.missing.values()))
