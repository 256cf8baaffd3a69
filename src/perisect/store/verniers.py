"""Calibration pages: printed, cut, read."""

from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import select, text, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from perisect.store.head_checks import UnderWay
from perisect.store.upkeep_models import VernierRow

UNDER_WAY = ("queued", "printing", "waiting", "cutting")
LOST_AFTER = timedelta(minutes=10)
GONE = "The worker that led it stopped. Print the page again."


def ask(session: Session, plotter: str, sheet: dict[str, Any]) -> VernierRow:
    """Queue a page.

    Raises:
        UnderWay: one is printed or cut for this plotter.
    """
    session.execute(
        update(VernierRow)
        .where(
            VernierRow.plotter == plotter,
            VernierRow.state.in_(UNDER_WAY),
            VernierRow.changed_at < datetime.now(UTC) - LOST_AFTER,
        )
        .values(state="failed", message=GONE)
    )
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
