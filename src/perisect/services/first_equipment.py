"""Begin an empty shop with what the person has."""

from collections.abc import Sequence

from sqlalchemy.orm import Session

from perisect.core.job import JobRecipe
from perisect.core.sheet.first_equipment import (
    FIRST_PLOTTERS,
    FIRST_PRINTERS,
    FIRST_STOCKS,
    SIMULATED_PLOTTER,
    SIMULATED_PRINTER,
)
from perisect.core.sheet.shop_records import EquipmentRecord, Kind, PlotterRecord, PrinterRecord, StockRecord
from perisect.services.changes import with_equipment
from perisect.store import equipment, jobs
from perisect.store.database import transaction

NOT_HERE = "not here yet"
"""A printer or a plotter that is not here yet: a simulated one stands in for it."""


class AlreadyBegun(Exception):
    """The shop has equipment of its own, or jobs."""


class UnknownChoice(KeyError):
    """An id is none of the choices."""


def is_new(session: Session) -> bool:
    """Return whether nobody has said yet what this shop has, and nothing was made in it."""
    return not equipment.has_own(session) and not jobs.any_there(session)


def begin_shop(printers: Sequence[str], plotters: Sequence[str], stocks: Sequence[str]) -> None:
    """Save what the person has, by the ids of the choices; of each kind at least one.

    Raises:
        AlreadyBegun: the shop is not new.
        UnknownChoice: an id that is none of the choices'.
    """
    chosen: dict[Kind, list[EquipmentRecord]] = {
        "printer": _chosen(printers, FIRST_PRINTERS, SIMULATED_PRINTER),
        "plotter": _chosen(plotters, FIRST_PLOTTERS, SIMULATED_PLOTTER),
        "stock": _chosen(stocks, FIRST_STOCKS, None),
    }
    with transaction() as session:
        equipment.hold_all(session)
        if not is_new(session):
            raise AlreadyBegun
        for kind, records in chosen.items():
            equipment.put_first(session, kind, records)


def _chosen(
    ids: Sequence[str], choices: Sequence[EquipmentRecord], stands_in: EquipmentRecord | None
) -> list[EquipmentRecord]:
    by_id = {each.id: each for each in choices}
    if stands_in is not None:
        by_id[NOT_HERE] = stands_in
    try:
        found = [by_id[each] for each in dict.fromkeys(ids)]
    except KeyError as error:
        raise UnknownChoice(error.args[0]) from error
    # One that is here is not stood in for.
    real = [each for each in found if each is not stands_in]
    return real or found


def of_the_shop(session: Session, recipe: JobRecipe) -> JobRecipe:
    """Return a new job's recipe on a stock, a printer and a plotter that the shop has."""
    if not equipment.has_own(session):
        return recipe
    sheet = recipe.sheet

    def there(records: Sequence[EquipmentRecord], used: str) -> str | None:
        ids = [each.id for each in records]
        return None if used in ids else ids[0]

    return with_equipment(
        session,
        recipe,
        there(equipment.all_of(session, "stock", StockRecord), sheet.on.id),
        there(equipment.all_of(session, "printer", PrinterRecord), sheet.printed_by.id),
        there(equipment.all_of(session, "plotter", PlotterRecord), sheet.cut_by.id),
        take_numbers=False,
    )[0]
