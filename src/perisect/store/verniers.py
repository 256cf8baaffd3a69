"""Calibration pages: printed, cut, read."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import select, text, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from perisect.store.head_checks import UnderWay
from perisect.store.prints import HEARD_BEFORE, QUIET_AFTER
from perisect.store.upkeep_models import VernierRow

UNDER_WAY = ("queued", "printing", "waiting", "cutting")
LED = ("printing", "cutting")
"""States in which a worker has it."""
GONE = "The worker that led it stopped. Print the page again."


def ask(session: Session, plotter: str, sheet: dict[str, Any]) -> VernierRow:
    """Queue a page.

    Raises:
        UnderWay: one is printed or cut for this plotter.
    """
    new = session.scalar(
        insert(VernierRow)
        .values(plotter=plotter, state="queued", sheet=sheet)
        .on_conflict_do_nothing(
            index_elements=["plotter"],
            index_where=text("state IN ('queued', 'printing', 'waiting', 'cutting')"),
        )
        .returning(VernierRow)
    )
    if new is None:
        raise UnderWay(plotter)
    return new


def turn(session: Session, page_id: int, was: tuple[str, ...], state: str) -> VernierRow | None:
    """Have one that stands so stand otherwise; None when it does not."""
    return session.scalar(
        update(VernierRow)
        .where(VernierRow.id == page_id, VernierRow.state.in_(was))
        .values(state=state, message=None, changed_at=datetime.now(UTC))
        .returning(VernierRow)
    )


def beat(session: Session, page_id: int) -> None:
    """Show that the worker of a page lives."""
    session.execute(update(VernierRow).where(VernierRow.id == page_id).values(changed_at=datetime.now(UTC)))


def sweep(session: Session) -> int:
    """Close pages whose worker has gone quiet while printing or cutting; return how many there were."""
    quiet = text(HEARD_BEFORE.format(column="changed_at")).bindparams(quiet=QUIET_AFTER.total_seconds())
    done = session.execute(
        update(VernierRow)
        .where(VernierRow.state.in_(LED), quiet)
        .values(state="failed", message=GONE, changed_at=datetime.now(UTC))
    )
    return int(done.rowcount)  # type: ignore[attr-defined]


def end(session: Session, page_id: int, was: str, state: str, **values: object) -> None:
    """It is printed, or cut, or failed."""
    session.execute(
        update(VernierRow)
        .where(VernierRow.id == page_id, VernierRow.state == was)
        .values(state=state, changed_at=datetime.now(UTC), **values)
    )


def state_of(session: Session, page_id: int) -> str:
    """How one stands; empty where there is none."""
    return session.scalar(select(VernierRow.state).where(VernierRow.id == page_id)) or ""


def latest(session: Session, plotter: str) -> VernierRow | None:
    """The last page of a plotter."""
    return session.scalar(
        select(VernierRow).where(VernierRow.plotter == plotter).order_by(VernierRow.id.desc()).limit(1)
    )
