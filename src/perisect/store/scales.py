"""By how much larger the print file is made for a printer and a stock, so that it comes out at true size."""

from datetime import UTC, datetime

from sqlalchemy.orm import Session

from perisect.core.sheet.recipe import SheetRecipe
from perisect.store.locks import hold
from perisect.store.upkeep_models import PrintScale

AS_DRAWN = (1.0, 1.0)


class CorrectedMeanwhile(Exception):
    """The correction is another one than when the sheet was measured."""


def get(session: Session, sheet: SheetRecipe) -> tuple[float, float]:
    """Across and along for the printer and the stock of a sheet; 1 and 1 when nobody has measured."""
    row = session.get(PrintScale, (sheet.printed_by.id, sheet.on.id))
    return AS_DRAWN if row is None else (row.across, row.along)


def checked_at(session: Session, sheet: SheetRecipe) -> datetime | None:
    """When it was measured last."""
    row = session.get(PrintScale, (sheet.printed_by.id, sheet.on.id))
    return None if row is None else row.checked_at


def save(
    session: Session, sheet: SheetRecipe, scale: tuple[float, float], was: tuple[float, float] | None = None
) -> None:
    """Set it.

    Args:
        was: what it has to be still; None for whatever it is.

    Raises:
        CorrectedMeanwhile.
    """
    printer, stock = sheet.printed_by.id, sheet.on.id
    hold(session, f"scale {printer} {stock}")
    if was is not None and get(session, sheet) != was:
        raise CorrectedMeanwhile
    row = session.get(PrintScale, (printer, stock))
    if row is None:
        row = PrintScale(printer=printer, stock=stock)
        session.add(row)
    row.across, row.along = scale
    row.checked_at = datetime.now(UTC)
