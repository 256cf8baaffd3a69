"""What orders of a job cost, part by part, and what they would cost at other sizes, stocks and quantities."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from perisect.core.job import JobPlan, JobRecipe
from perisect.core.job.effort import cut_seconds
from perisect.core.job.files import line_totals
from perisect.core.ledger.cost import (
    BREAKS,
    MM2_PER_M2,
    USUAL_RATES,
    CostRates,
    OrderCost,
    SheetUse,
    breaks,
    order_cost,
    sheets_needed,
)
from perisect.core.ledger.work_times import WorkTime, print_time, sheet_time, sticker_time
from perisect.core.lines import LineError
from perisect.core.prepress.film import film_size
from perisect.core.sheet.equipment import StockRecipe
from perisect.services.plans import Planned, plan
from perisect.services.rest import ink_mm2
from perisect.store import figures, sign_ins
from perisect.store.versions import version_of

RATES = "cost_rates"
SIZES = (0.5, 0.65, 0.8, 1.0, 1.25, 1.5)
"""Of the size that it has: where a cost is asked for beside it."""
MOST_STOCKS = 12


def get_rates(session: Session) -> CostRates:
    """What hours and wear cost in this shop; usual ones until it has said."""
    kept = sign_ins.get_setting(session, RATES)
    return USUAL_RATES if not kept else CostRates.model_validate_json(kept)


def rates_version(session: Session) -> str:
    """Return the version of the rates."""
    return version_of(sign_ins.get_setting(session, RATES))


def set_rates(session: Session, rates: CostRates, expected: str | None = None) -> None:
    """Say what hours and wear cost."""
    sign_ins.set_setting(session, RATES, rates.model_dump_json(), expected)


def work_times(session: Session) -> list[WorkTime]:
    """What the log says of the rates that are times, as far as it has enough of each."""
    found = (
        print_time(figures.print_spans(session)),
        sheet_time(figures.cut_spans(session)),
        sticker_time(figures.counts(session)),
    )
    return [each for each in found if each is not None]


def sheet_use(planned: Planned, number: int = 0) -> SheetUse:
    """What sheet `number` (from 0) takes."""
    made = planned.plan
    on_it = Counter(placement.key for placement in made.sheets.sheets[number])
    sheet = made.recipe.sheet
    panel_m = made.area.stock.height_mm / 1000
    ink = sum(
        ink_mm2(made, design) * on_it[design.id] for design in made.recipe.designs if design.id in on_it
    )
    film = film_size(made.area)
    return SheetUse(
        stock=sheet.on.price * (panel_m if sheet.on.kind == "roll" else 1.0),
        ink=ink / MM2_PER_M2 * sheet.printed_by.ink_ml_m2 * sheet.printed_by.ink_price,
        cut_m=sum(total.length_mm for total in line_totals(planned.cut_files.sheet(number)).values()) / 1000,
        cut_s=sheet_seconds(made, on_it),
        film_mm2=0.0 if film is None else film[0] * film[1],
        up=float(on_it.total()),
    )


def sheet_seconds(made: JobPlan, on_it: Counter[str]) -> float:
    """About how long a sheet with so many of each piece is cut."""
    return sum(cut_seconds(made.lines[key]) * many for key, many in on_it.items() if key in made.lines)


def job_cost(planned: Planned, reject_share: float, rates: CostRates) -> OrderCost | None:
    """What the job costs as it is planned; None as long as nothing is on its sheets."""
    sheets = planned.plan.sheets.sheets
    if not sheets or not sheets[0]:
        return None
    good = max(1, round(planned.plan.sheets.count * (1 - reject_share)))
    without = len(sheets) * (1 - reject_share)
    return order_cost(sheet_use(planned), good, len(sheets), without, rates)


@dataclass(frozen=True)
class WhatIf:
    """What so many of a piece cost at a size on a stock; None where none fits."""

    longest_mm: float
    stock: str
    cost: OrderCost | None


@dataclass(frozen=True)
class WhatIfs:
    """By quantity at its size, by size and by stock at its quantity."""

    quantities: list[OrderCost]
    sizes: list[WhatIf]
    stocks: list[WhatIf]


def what_if(
    recipe: JobRecipe,
    design_id: str,
    quantity: int,
    reject_share: float,
    rates: CostRates,
    stocks: Sequence[StockRecipe],
) -> WhatIfs:
    """What a piece costs alone on full sheets, and beside that at other quantities, sizes and on other stocks.

    Raises:
        KeyError: the job has no such piece.
        ArtworkError, LineError.
    """
    longest = recipe.design(design_id).longest_mm
    own = _use(recipe, design_id, longest, recipe.sheet.on)
    asked = sorted({*BREAKS, quantity})

    def at(mm: float, stock: StockRecipe) -> WhatIf:
        try:
            use = _use(recipe, design_id, mm, stock)
        except LineError:
            use = None  # So small nothing of it is left to cut.
        cost = (
            None
            if use is None
            else order_cost(use, quantity, *sheets_needed(quantity, use.up, reject_share), rates)
        )
        return WhatIf(mm, stock.id, cost)

    sizes = [round(longest * share, 1) for share in SIZES]
    return WhatIfs(
        [] if own is None else breaks(own, reject_share, rates, asked),
        [at(mm, recipe.sheet.on) for mm in sizes if 5 <= mm <= 400],
        [at(longest, stock) for stock in stocks[:MOST_STOCKS]],
    )


def _use(recipe: JobRecipe, design_id: str, longest_mm: float, stock: StockRecipe) -> SheetUse | None:
    design = recipe.design(design_id).model_copy(
        update={"longest_mm": longest_mm, "copies": 1, "labels": None}
    )
    sheet = recipe.sheet.model_copy(
        update={
            "paper": stock,
            "fill": True,
            "method": "rows",
            "placements": (),
            "card": None,
            "marks_at": (),
            "scrap": None,
            "from_mm": 0.0,
            "until_mm": None,
            "panel_mm": None,
        }
    )
    planned = plan(JobRecipe(designs=(design,), sheet=sheet))
    if not planned.plan.sheets.sheets or not planned.plan.sheets.sheets[0]:
        return None
    return sheet_use(planned)
