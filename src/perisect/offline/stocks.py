"""The stock that is named on the command line."""

from pathlib import Path

from pydantic import ValidationError

from perisect.core.sheet.equipment import StockRecipe
from perisect.core.sheet.recipe import SheetRecipe
from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS, EXAMPLE_PRINTERS, EXAMPLE_STOCKS, StockRecord

MOST_BYTES = 100_000
_MACHINES = {"sheet": ("desk", "desk"), "roll": ("roll-printer", "roll-plotter")}
"""Printer and plotter of the examples by the kind of stock."""


class StockError(Exception):
    """No such stock; the text says which there are."""


def stock_of(named: str) -> StockRecipe:
    """A stock by its id or name in any case, or by the JSON file of a shop's record.

    Raises:
        StockError: there is none, or the file holds no record of a stock.
    """
    wanted = named.strip().casefold()
    for stock in EXAMPLE_STOCKS:
        if wanted in (stock.id.casefold(), stock.name.casefold()):
            return stock.recipe
    path = Path(named)
    if path.suffix.casefold() != ".json":
        known = ", ".join(stock.id for stock in EXAMPLE_STOCKS)
        raise StockError(
            f"--stock: there is no {named[:80]}; there are {known}, or the JSON file of a record."
        )
    try:
        if path.stat().st_size > MOST_BYTES:
            raise StockError(f"--stock: {path} is too large for the record of a stock.")
        return StockRecord.model_validate_json(path.read_bytes()).recipe
    except OSError as error:
        raise StockError(f"--stock: {path} cannot be read ({error.strerror}).") from error
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"])) or "it"
        raise StockError(f"--stock: {path} is no record of a stock: {where}: {first['msg']}.") from error


def sheet_of(stock: StockRecipe, gap_mm: float, fill: bool) -> SheetRecipe:
    """That stock on the example machines that take it: a roll goes through those for rolls.

    Raises:
        ValidationError: a number is outside its limits.
    """
    printer_id, plotter_id = _MACHINES[stock.kind]
    printer = next(record for record in EXAMPLE_PRINTERS if record.id == printer_id)
    plotter = next(record for record in EXAMPLE_PLOTTERS if record.id == plotter_id)
    return SheetRecipe.model_validate(
        {
            "paper": stock.model_dump(),
            "printer": printer.recipe.model_dump(),
            "plotter": plotter.recipe.model_dump(),
            "gap_mm": gap_mm,
            "fill": fill,
        }
    )
