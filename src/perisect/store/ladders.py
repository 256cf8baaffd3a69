"""Test cuts: a dialogue a row, its ladders cut one after the other, each answered by a person."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import select, text, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from perisect.store.prints import HEARD_BEFORE, QUIET_AFTER
from perisect.store.upkeep_models import LadderRow

UNDER_WAY = ("queued", "cutting")
GONE = "The worker that led this test cut stopped. Take the scrap out, and cut the ladder again."


class UnderWay(Exception):
    """A ladder is being cut at this plotter already."""


def ask(session: Session, **values: Any) -> LadderRow:
    """A new dialogue, its first ladder queued.

    Raises:
        UnderWay.
    """
    sweep(session)
    new = session.scalar(
        insert(LadderRow)
        .values(state="queued", heartbeat_at=datetime.now(UTC), **values)
        .on_conflict_do_nothing(
            index_elements=["plotter"], index_where=text("state IN ('queued', 'cutting')")
        )
        .returning(LadderRow)
    )
    if new is None:
        raise UnderWay
    return new


def begin(session: Session, ladder_id: int) -> LadderRow | None:
    """Begin the ladder that is queued; None when none is."""
    return session.scalar(
        update(LadderRow)
        .where(LadderRow.id == ladder_id, LadderRow.state == "queued")
        .values(state="cutting", heartbeat_at=datetime.now(UTC), message=None)
        .returning(LadderRow)
    )


def change(session: Session, ladder_id: int, was: str, **values: Any) -> LadderRow | None:
    """Change one that stands as it did; None when it does not."""
    return session.scalar(
        update(LadderRow)
        .where(LadderRow.id == ladder_id, LadderRow.state == was)
        .values(values)
        .returning(LadderRow)
    )


def beat(session: Session, ladder_id: int) -> None:
    """Show that its worker lives."""
    session.execute(update(LadderRow).where(LadderRow.id == ladder_id).values(heartbeat_at=datetime.now(UTC)))


def latest(
    session: Session, plotter: str, stock: str, process: str, laminated: bool = False
) -> LadderRow | None:
    """The last dialogue of a process in a stock at a plotter, under film or not."""
    return session.scalar(
        select(LadderRow)
        .where(LadderRow.plotter == plotter, LadderRow.stock_id == stock, LadderRow.process == process)
        .where(LadderRow.laminated == laminated)
        .order_by(LadderRow.id.desc())
        .limit(1)
    )


def taken_on(session: Session, print_id: int) -> list[tuple[float, float, float, float]]:
    """What earlier ladders take of a printed sheet: left, top, right, bottom, mm."""
    on_it = session.scalars(select(LadderRow.ladders).where(LadderRow.print_id == print_id))
    return [
        tuple(box)
        for ladders in on_it
        for ladder in ladders
        for box in (ladder["box"], *ladder.get("spoiled", ()))
    ]


def sweep(session: Session) -> int:
    """Close those whose worker has gone quiet while cutting; how many there were."""
    quiet = text(HEARD_BEFORE.format(column="heartbeat_at")).bindparams(quiet=QUIET_AFTER.total_seconds())
    done = session.execute(
        update(LadderRow).where(LadderRow.state == "cutting", quiet).values(state="failed", message=GONE)
    )
    return int(done.rowcount)  # type: ignore[attr-defined]
