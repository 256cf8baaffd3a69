"""What the shop has: it counts itself down from prints and cuts, and is set right by deliveries and counts."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import structlog
from sqlalchemy.orm import Session

from perisect.core.job import JobRecipe
from perisect.core.ledger.cost import MM2_PER_M2
from perisect.core.ledger.reorder import Forecast, forecast
from perisect.core.ledger.stock_item import ItemSettings, Place, unit_of
from perisect.core.sheet.shop_records import PlotterRecord, PrinterRecord, StockRecord
from perisect.services.plans import plan
from perisect.services.rest import ink_mm2
from perisect.store import equipment, scraps, stock_moves
from perisect.store.models import Print, Run
from perisect.store.stock_moves import Level

log = structlog.get_logger()

DAYS = 60
"""Of use that a forecast looks back on."""


@dataclass(frozen=True)
class Use:
    """So much of an item."""

    item: str
    quantity: float


def used_by_sheet(recipe: JobRecipe, number: int) -> list[Use]:
    """Return what sheet `number` (from 0) of a job takes: a sheet or its length of a roll, and ink where it is printed.

    A sheet that was opened before is not taken again.
    """
    planned = plan(recipe).plan
    sheet = recipe.sheet
    metres = planned.area.stock.height_mm / 1000
    uses = []
    if sheet.on.kind == "roll":
        uses.append(Use(f"stock:{sheet.on.id}", metres))
    elif sheet.from_mm == 0 and sheet.scrap is None:
        uses.append(Use(f"stock:{sheet.on.id}", 1.0))
    if sheet.cut_only:
        return uses
    copies: dict[str, int] = {}
    for placement in planned.sheets.sheets[number]:
        copies[placement.key] = copies.get(placement.key, 0) + 1
    printed = sum(
        ink_mm2(planned, design) * copies[design.id] for design in recipe.designs if design.id in copies
    )
    ink = printed / MM2_PER_M2 * sheet.printed_by.ink_ml_m2
    return [*uses, Use(f"ink:{sheet.printed_by.id}", ink)]


def safely_used_by(recipe: JobRecipe, number: int) -> list[Use]:
    """The same; nothing where it cannot be told, for a sheet is printed all the same."""
    try:
        return used_by_sheet(recipe, number)
    except Exception:
        log.exception("use of a sheet not known")
        return []


def take(
    session: Session, uses: Sequence[Use], of: str, why: str, job_id: int | None, into: Place = "used"
) -> None:
    """Take things from the shelf for something, once."""
    for use in uses:
        open_item(session, use.item)
        stock_moves.move(session, use.item, "shelf", into, use.quantity, why, f"{of} {use.item}"[:80], job_id)


def open_item(session: Session, item: str) -> None:
    """Begin to keep an item, with what the shop's record says is left of it."""
    if stock_moves.is_kept(session, item):
        return
    kind, name = item.split(":", 1)
    if kind != "stock":
        return
    left = next((s.left for s in equipment.all_of(session, "stock", StockRecord) if s.id == name), 0.0)
    stock_moves.move(session, item, "found", "shelf", left, "From the shop's record", f"open {item}")


def sheet_printed(session: Session, row: Print, uses: Sequence[Use]) -> None:
    """A sheet came to paper in this shop; a scrap is none any more."""
    of = (row.recipe["sheet"].get("scrap") or {}).get("of_print")
    if of is not None:
        scraps.spend(session, of)
    take(session, uses, f"print {row.id}", f"Print {row.id}, sheet {row.sheet + 1}", row.job_id)


def sheet_spoiled(session: Session, row: Print) -> None:
    """A printed sheet is of no use: its stock was waste."""
    recipe = JobRecipe.model_validate(row.recipe)
    item = f"stock:{recipe.sheet.on.id}"
    level = stock_moves.level_of(session, item)
    if (
        row.way == "shop"
        or level.used < 1
        or recipe.sheet.on.kind == "roll"
        or recipe.sheet.scrap is not None
    ):
        return
    again = stock_moves.times(session, f"unspoiled {row.id} ")
    key = f"spoiled {row.id} again {again}" if again else f"spoiled {row.id}"
    stock_moves.move(session, item, "used", "waste", 1.0, f"Print {row.id}: {row.message}", key, row.job_id)


def sheet_not_spoiled(session: Session, row: Print) -> None:
    """Book back the stock of a sheet that is of use after all, where it was booked as waste."""
    item = f"stock:{JobRecipe.model_validate(row.recipe).sheet.on.id}"
    booked = stock_moves.is_moved(session, f"spoiled {row.id}") + stock_moves.times(
        session, f"spoiled {row.id} again "
    )
    back = stock_moves.times(session, f"unspoiled {row.id} ")
    if booked > back:
        why, key = f"Print {row.id} is not spoiled", f"unspoiled {row.id} {back}"
        stock_moves.move(session, item, "waste", "used", 1.0, why, key, row.job_id)


def sheet_cut(session: Session, run: Run) -> None:
    """A run is over: its blade and its mat have so much less before them."""
    if run.cut_m <= 0:
        return
    blade = f"blade:{run.plotter}"
    # A run that was given up for lost, and went on, has more to say the second time.
    more = run.cut_m - stock_moves.moved_for(session, f"run {run.id} {blade}")
    stock_moves.move(
        session,
        blade,
        "shelf",
        "used",
        more,
        f"Cut {run.id}",
        f"run {run.id} {blade} {run.cut_m:.3f}",
        run.job_id,
    )
    uses = []
    plotters = {each.id: each for each in equipment.all_of(session, "plotter", PlotterRecord)}
    if (plotter := plotters.get(run.plotter)) is not None and plotter.mat_width_mm > 0:
        uses.append(Use(f"mat:{run.plotter}", 1.0))
    take(session, uses, f"run {run.id}", f"Cut {run.id}", run.job_id)


What = Literal["delivery", "waste", "count", "fitted"]


def book(session: Session, item: str, what: What, quantity: float, note: str, key: str) -> None:
    """Enter what a person says, once a key: a delivery, waste, what a count found, or a new blade or mat in the
    machine."""
    open_item(session, item)
    if stock_moves.was_moved(session, item, key):
        return
    why = (
        note.strip() or {"delivery": "Delivered", "waste": "Waste", "count": "Counted", "fitted": "New"}[what]
    )
    match what:
        case "delivery":
            stock_moves.move(session, item, "supplier", "shelf", quantity, why, key)
        case "waste":
            stock_moves.move(session, item, "shelf", "waste", quantity, why, key)
        case "count":
            stock_moves.count(session, item, quantity, why, key)
        case "fitted":
            # What was left of the old one goes with it.
            stock_moves.count(session, item, 0.0, f"{why}: the old one taken out")
            stock_moves.move(session, item, "supplier", "shelf", quantity, why, key)


def count_stock(session: Session, record: StockRecord) -> None:
    """What is typed into a stock's record is a count of it."""
    item = f"stock:{record.id}"
    open_item(session, item)
    if abs(stock_moves.level_of(session, item).shelf - record.left) >= 0.001:
        stock_moves.count(session, item, record.left, "Entered in the stock's record")


def with_levels(session: Session, stocks: Sequence[StockRecord]) -> list[StockRecord]:
    """Stocks with what the ledger says is left of them."""
    levels = stock_moves.levels(session)
    return [
        each.model_copy(update={"left": max(0.0, levels[f"stock:{each.id}"].shelf)})
        if f"stock:{each.id}" in levels
        else each
        for each in stocks
    ]


@dataclass(frozen=True)
class ItemNow:
    """An item as it stands; without a level nobody has counted it yet."""

    item: str
    name: str
    unit: str
    level: float | None
    used: float
    waste: float
    settings: ItemSettings
    forecast: Forecast | None
    cut_in: dict[str, float]
    """Metres by stock, of a blade."""


def items_now(session: Session) -> list[ItemNow]:
    """Everything the shop uses up."""
    levels, used = stock_moves.levels(session), stock_moves.used_by_day(session, DAYS)
    bought = stock_moves.settings_by_item(session)
    stocks = equipment.all_of(session, "stock", StockRecord)
    found = []
    for item, name, roll in _items(session, stocks):
        level = levels.get(item)
        record = next((each.left for each in stocks if item == f"stock:{each.id}"), None)
        there = level.shelf if level is not None else record
        if level is not None and level.supplied <= 0 and level.shelf < 0 and not item.startswith("stock:"):
            there = None  # It only ever went out: nobody has said how much there was.
        kept, by_day = used.get(item, (0, {}))
        daily = np.array([by_day.get(ago, 0.0) for ago in range(kept)], float)
        settings = bought.get(item) or stock_moves.usual_settings(item)
        told = (
            None
            if there is None
            else forecast(there, daily, settings.delivery_days, settings.pack, settings.chance)
        )
        level = level or Level(0.0, 0.0, 0.0, 0.0)
        plotter = item.removeprefix("blade:")
        cut_in = stock_moves.cut_by_stock(session, plotter) if plotter != item else {}
        found.append(
            ItemNow(item, name, unit_of(item, roll), there, level.used, level.waste, settings, told, cut_in)
        )
    return found


def is_item(session: Session, item: str) -> bool:
    """Whether the shop uses up something of this id."""
    stocks = equipment.all_of(session, "stock", StockRecord)
    return any(each == item for each, _, _ in _items(session, stocks))


def _items(session: Session, stocks: Sequence[StockRecord]) -> list[tuple[str, str, bool]]:
    """Items with their names, and whether each is a roll."""
    items = [(f"stock:{each.id}", each.name, each.kind == "roll") for each in stocks]
    printers = equipment.all_of(session, "printer", PrinterRecord)
    items += [(f"ink:{each.id}", f"Ink of the {each.name.lower()}", False) for each in printers]
    for plotter in equipment.all_of(session, "plotter", PlotterRecord):
        blade = f"Blade {plotter.blade}".strip()
        items.append((f"blade:{plotter.id}", f"{blade} of the {plotter.name.lower()}", False))
        if plotter.mat_width_mm > 0:
            items.append((f"mat:{plotter.id}", f"Mat of the {plotter.name.lower()}", False))
    return [*items, ("film:film", "Laminating film", False)]
