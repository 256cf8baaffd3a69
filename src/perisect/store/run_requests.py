"""The queue of requests of each run: written by a person, taken by the worker that leads the run.

Who writes one holds the run's row, so that the numbers of a run's requests are in the order in which they were
committed and a worker that reads on after the last number it has seen misses none.
"""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import ForeignKey, Identity, Index, delete, func, select, text, update
from sqlalchemy.orm import Mapped, Session, mapped_column

from perisect.core.cutting.run_request import REQUEST, RunNow, RunRequest
from perisect.store.models import Base, Run


class RunRequestRow(Base):
    """A request to a run that is not over."""

    __tablename__ = "run_request"
    __table_args__ = (Index("run_request_waits", "run_id", postgresql_where=text("taken_at IS NULL")),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("run.id", ondelete="CASCADE"), index=True)
    request: Mapped[dict[str, Any]]
    asked_at: Mapped[datetime] = mapped_column(server_default=func.now())
    taken_at: Mapped[datetime | None]


def ask(session: Session, run_id: int, request: RunRequest) -> Run | None:
    """Queue a request if the run takes it now.

    Args:
        session: the transaction that it is written in; it holds the run until its end.
        run_id: the run.
        request: what is asked.

    Returns:
        The run; None if there is no such run, or it does not take the request in its state.
    """
    run = session.get(Run, run_id, with_for_update=True, populate_existing=True)
    if run is None:
        return None
    waiting = session.scalars(
        select(RunRequestRow.request)
        .where(RunRequestRow.run_id == run_id, RunRequestRow.taken_at.is_(None))
        .order_by(RunRequestRow.id)
    )
    now = RunNow(
        run.state,
        run.hold,
        run.lines_done,
        run.lines_total,
        [REQUEST.validate_python(each) for each in waiting],
    )
    if not now.takes(request):
        return None
    session.add(RunRequestRow(run_id=run_id, request=request.model_dump(mode="json")))
    session.flush()
    return run


def take(session: Session, run_id: int, after: int) -> tuple[list[RunRequest], int]:
    """Take the requests of a run that came after the last one that was seen.

    Read again from the same number they are the same: nothing is lost if the answer of this transaction is.

    Args:
        session: the transaction.
        run_id: the run, led by the caller.
        after: number of the last request that the caller has seen; 0 if none.

    Returns:
        The requests in their order, and the number of the last of them.
    """
    rows = session.execute(
        select(RunRequestRow.id, RunRequestRow.request)
        .where(RunRequestRow.run_id == run_id, RunRequestRow.id > after)
        .order_by(RunRequestRow.id)
    ).all()
    if not rows:
        return [], after
    session.execute(
        update(RunRequestRow)
        .where(RunRequestRow.run_id == run_id, RunRequestRow.id > after, RunRequestRow.id <= rows[-1].id)
        .values(taken_at=datetime.now(UTC))
    )
    return [REQUEST.validate_python(row.request) for row in rows], rows[-1].id


def drop(session: Session, run_id: int) -> None:
    """Remove the requests of a run that is over."""
    session.execute(delete(RunRequestRow).where(RunRequestRow.run_id == run_id))
