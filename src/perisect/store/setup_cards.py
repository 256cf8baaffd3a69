"""Set-up cards by printer and stock."""

from datetime import UTC, datetime

from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from perisect.core.prepress.setup_card import SetupCard
from perisect.core.sheet.recipe import SheetRecipe
from perisect.store.locks import hold
from perisect.store.upkeep_models import SetupCardRow
from perisect.store.versions import check_version


def get(session: Session, sheet: SheetRecipe) -> tuple[SetupCard, datetime | None]:
    """The card of a sheet's printer and stock, and when somebody last said that the printer is set so."""
    row = session.get(SetupCardRow, (sheet.printed_by.id, sheet.on.id))
    return (SetupCard(), None) if row is None else (SetupCard.model_validate(row.card), row.ticked_at)


def save(session: Session, sheet: SheetRecipe, card: SetupCard, expected: str | None = None) -> None:
    """Set it. A printer that was set as the card was is not set as it is now: the tick goes.

    Args:
        session: the transaction that it is set in.
        sheet: whose printer and stock it is for.
        card: what it says from now on.
        expected: the version that the change was made from.

    Raises:
        StaleRecord: somebody changed it meanwhile.
    """
    hold(session, "setup_card")
    check_version(expected, get(session, sheet)[0].model_dump(mode="json"))
    values = {"card": card.model_dump(mode="json"), "ticked_at": None}
    session.execute(
        insert(SetupCardRow)
        .values(printer=sheet.printed_by.id, stock=sheet.on.id, **values)
        .on_conflict_do_update(index_elements=["printer", "stock"], set_=values)
    )


def tick(session: Session, sheet: SheetRecipe) -> None:
    """The printer is set so."""
    row = {"printer": sheet.printed_by.id, "stock": sheet.on.id, "ticked_at": datetime.now(UTC)}
    # Whatever the card says by now: it is not written again.
    session.execute(
        insert(SetupCardRow)
        .values(**row, card=SetupCard().model_dump(mode="json"))
        .on_conflict_do_update(index_elements=["printer", "stock"], set_={"ticked_at": row["ticked_at"]})
    )
