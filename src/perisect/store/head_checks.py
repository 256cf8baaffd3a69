"""Checks of printers' heads: asked for, printed, read."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import select, text, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from perisect.store.prints import HEARD_BEFORE, QUIET_AFTER
from perisect.store.upkeep_models import HeadCheckRow

UNDER_WAY = ("queued", "printing")
GONE = "The worker that led it stopped. Print the pattern again."


class UnderWay(Exception):
    """The printer prints a pattern already."""


def ask(session: Session, printer: str, stock: dict[str, Any]) -> HeadCheckRow:
    """Queue a pattern.

    Raises:
        UnderWay.
    """
    new = session.scalar(
        insert(HeadCheckRow)
        .values(printer=printer, state="queued", stock=stock, gaps=[])
        .on_conflict_do_nothing(
            index_elements=["printer"], index_where=text("state IN ('queued', 'printing')")
        )
        .returning(HeadCheckRow)
    )
    if new is None:
        raise UnderWay(printer)
    return new


def begin(session: Session, check_id: int) -> HeadCheckRow | None:
    """Begin one that is queued; None when it is not any more."""
    return session.scalar(
        update(HeadCheckRow)
        .where(HeadCheckRow.id == check_id, HeadCheckRow.state == "queued")
        .values(state="printing", heartbeat_at=datetime.now(UTC))
        .returning(HeadCheckRow)
    )


def beat(session: Session, check_id: int) -> None:
    """Show that the worker of a pattern lives."""
    session.execute(
        update(HeadCheckRow).where(HeadCheckRow.id == check_id).values(heartbeat_at=datetime.now(UTC))
    )


def sweep(session: Session) -> int:
    """Close patterns whose worker has gone quiet; return how many there were."""
    quiet = text(HEARD_BEFORE.format(column="heartbeat_at")).bindparams(quiet=QUIET_AFTER.total_seconds())
    done = session.execute(
        update(HeadCheckRow)
        .where(HeadCheckRow.state == "printing", quiet)
        .values(state="failed", message=GONE)
    )
    return int(done.rowcount)  # type: ignore[attr-defined]


def end(session: Session, check_id: int, state: str, **values: object) -> None:
    """It is printed, or failed."""
    session.execute(update(HeadCheckRow).where(HeadCheckRow.id == check_id).values(state=state, **values))


def latest(session: Session, printer: str) -> HeadCheckRow | None:
    """The last pattern of a printer, whatever became of it."""
    return session.scalar(
        select(HeadCheckRow).where(HeadCheckRow.printer == printer).order_by(HeadCheckRow.id.desc()).limit(1)
    )


def last_read(session: Session, printer: str) -> HeadCheckRow | None:
    """The last one whose gaps are known."""
    return session.scalar(
        select(HeadCheckRow)
        .where(HeadCheckRow.printer == printer, HeadCheckRow.state == "read")
        .order_by(HeadCheckRow.read_at.desc())
        .limit(1)
    )


def keep_read(
    session: Session, printer: str, stock: dict[str, Any], gaps: list[dict[str, Any]], check_id: int | None
) -> bool:
    """Say where the head has gaps, on a pattern of ours that was printed or on one that came another way; whether
    that pattern is there."""
    known: dict[str, Any] = {"gaps": gaps, "state": "read", "read_at": datetime.now(UTC)}
    if check_id is None:
        session.add(HeadCheckRow(printer=printer, stock=stock, **known))
        return True
    done = session.execute(
        update(HeadCheckRow)
        .where(
            HeadCheckRow.id == check_id,
            HeadCheckRow.printer == printer,
            HeadCheckRow.state.in_(("printed", "read")),
        )
        .values(known)
    )
    return bool(done.rowcount)  # type: ignore[attr-defined]
