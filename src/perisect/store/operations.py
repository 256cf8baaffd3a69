"""Operations: long work that is asked for, followed and cancelled through the database."""

from datetime import UTC, datetime, timedelta
from typing import Any, Literal

from sqlalchemy import delete, func, select, text, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from perisect.core.catalogue import words
from perisect.core.stage import Stage
from perisect.store.locks import hold
from perisect.store.models import Operation
from perisect.store.prints import HEARD_BEFORE, QUIET_AFTER
from perisect.store.queue_entry import FIRST_WORK, WORK, enqueue

OVER = ("done", "failed", "cancelled")
MOST_TRIES = 2
"""Work whose worker died is begun again once: what kills two workers would kill a third."""
KEPT = timedelta(days=2)
MOST_WAITING = 400

Stop = Literal["best", "drop"]


class TooManyWait(Exception):
    """More operations wait than are done soon."""


def ask(
    session: Session, kind: str, key: str, request: dict[str, Any], job_id: int | None = None
) -> Operation:
    """The open operation of a question: one that is there already, or a new one in the queue.

    Raises:
        TooManyWait: too many wait.
    """
    waiting = session.scalar(select(func.count()).where(Operation.state == "queued")) or 0
    if waiting >= MOST_WAITING:
        raise TooManyWait
    row = {
        "kind": kind,
        "key": key,
        "job_id": job_id,
        "request": request,
        "state": "queued",
        "doing": "",
        "share": 0.0,
        "stop": "",
        "tries": 0,
    }
    is_open = text("state IN ('queued', 'working')")
    for _ in range(3):
        new = session.scalar(
            insert(Operation)
            .values(row)
            .on_conflict_do_nothing(index_elements=["key"], index_where=is_open)
            .returning(Operation)
        )
        if new is not None:
            _enqueue(session, new)
            return new
        found = session.scalar(
            select(Operation).where(Operation.key == key, Operation.state.in_(("queued", "working")))
        )
        if found is not None:
            return found
    raise TooManyWait


def _enqueue(session: Session, new: Operation) -> None:
    """Queue an operation so that jobs take turns: the more of a job is open already, the later its next one comes."""
    others = select(func.count()).where(
        Operation.job_id.is_not_distinct_from(new.job_id),
        Operation.state.in_(("queued", "working")),
        Operation.id != new.id,
    )
    turn = session.scalar(others) or 0
    queue = WORK if turn else FIRST_WORK
    enqueue(session, queue, "operate", f"question {new.key}", -turn, operation_id=new.id)


def count_open(session: Session, job_id: int, kind: str) -> int:
    """Return how many operations of a kind are open for a job."""
    query = select(func.count()).where(
        Operation.job_id == job_id, Operation.kind == kind, Operation.state.in_(("queued", "working"))
    )
    return session.scalar(query) or 0


def open_of_job(session: Session, job_id: int) -> list[Operation]:
    """Operations of a job that are not over, oldest first, and those that failed lately."""
    lately = datetime.now(UTC) - timedelta(minutes=10)
    return list(
        session.scalars(
            select(Operation)
            .where(
                Operation.job_id == job_id,
                (Operation.state.in_(("queued", "working")))
                | ((Operation.state == "failed") & (Operation.finished_at > lately)),
            )
            .order_by(Operation.id)
        )
    )


def of_batch(session: Session, job_id: int, batch: str) -> list[Operation]:
    """Operations of pictures that were dropped together; nobody else of them changes the job meanwhile."""
    hold(session, f"batch {job_id} {batch}")
    query = select(Operation).where(
        Operation.job_id == job_id, Operation.kind == "picture", Operation.request["batch"].astext == batch
    )
    return list(session.scalars(query))


def claim(session: Session, operation_id: int, claim: str) -> Operation | None:
    """Begin an operation that is queued; None when it is not any more."""
    return session.scalar(
        update(Operation)
        .where(Operation.id == operation_id, Operation.state == "queued")
        .values(
            state="working",
            claim=claim,
            heartbeat_at=datetime.now(UTC),
            tries=Operation.tries + 1,
            doing="",
            share=0.0,
        )
        .returning(Operation)
    )


def progress(session: Session, operation_id: int, claim: str, stage: Stage | None) -> str | None:
    """Show what is being done and that its worker lives; the share that is done never goes back.

    Args:
        session: the transaction that it is written in.
        operation_id: the operation.
        claim: of the worker that does it.
        stage: what it does now; None if it is still at the last one.

    Returns:
        How it is asked to stop; None if it is another worker's.
    """
    values: dict[str, Any] = {"heartbeat_at": datetime.now(UTC)}
    if stage is not None:
        share = func.greatest(Operation.share, stage.share)
        values |= {"doing": words(stage.message)[:80], "share": share}
    return session.scalar(
        update(Operation)
        .where(Operation.id == operation_id, Operation.claim == claim, Operation.state == "working")
        .values(values)
        .returning(Operation.stop)
    )


def result(session: Session, operation_id: int) -> dict[str, Any] | None:
    """What came of an operation, once a worker has said so."""
    return session.scalar(select(Operation.result).where(Operation.id == operation_id))


def set_result(session: Session, operation_id: int, result: dict[str, Any]) -> None:
    """Say what came of it, with what came of it."""
    session.execute(update(Operation).where(Operation.id == operation_id).values(result=result))


def end(session: Session, operation_id: int, claim: str, state: str, **values: object) -> bool:
    """End an operation as its own worker saw it end; False when it is another's by now."""
    done = session.execute(
        update(Operation)
        .where(Operation.id == operation_id, Operation.claim == claim, Operation.state == "working")
        .values(state=state, finished_at=datetime.now(UTC), share=1.0, **values)
    )
    return bool(done.rowcount)  # type: ignore[attr-defined]


def stop(session: Session, operation_id: int, how: Stop) -> Operation | None:
    """Ask an operation to stop. One that is still queued is over at once, unless the best so far is wanted: its
    worker then ends as soon as it has anything."""
    if how == "drop":
        session.execute(
            update(Operation)
            .where(Operation.id == operation_id, Operation.state == "queued")
            .values(state="cancelled", stop=how, finished_at=datetime.now(UTC))
        )
    session.execute(
        update(Operation).where(Operation.id == operation_id, Operation.state.not_in(OVER)).values(stop=how)
    )
    return session.get(Operation, operation_id, populate_existing=True)


def dismiss(session: Session, operation_id: int) -> None:
    """Forget an operation that failed."""
    session.execute(delete(Operation).where(Operation.id == operation_id, Operation.state.in_(OVER)))


def sweep(session: Session) -> int:
    """Give the work of workers that went quiet to others, or say that it failed; how much there was."""
    quiet = text(HEARD_BEFORE.format(column="heartbeat_at")).bindparams(quiet=QUIET_AFTER.total_seconds())
    gone = session.scalars(
        select(Operation).where(Operation.state == "working", quiet).with_for_update(skip_locked=True)
    ).all()
    for operation in gone:
        if operation.tries < MOST_TRIES and operation.stop != "drop":
            operation.state, operation.claim = "queued", None
            _enqueue(session, operation)
        else:
            operation.state, operation.finished_at = "failed", datetime.now(UTC)
            operation.problem = {
                "status": 500,
                "title": "The work stopped in the middle.",
                "detail": "Nothing was changed. Try it again; if it stops again, try a smaller picture.",
            }
    session.execute(
        delete(Operation).where(Operation.state.in_(OVER), Operation.finished_at < datetime.now(UTC) - KEPT)
    )
    return len(gone)
