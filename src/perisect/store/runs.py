"""Prints and runs."""

from datetime import UTC, datetime, timedelta

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from perisect.store.models import Print, Run

FINISHED = ("done", "stopped", "cancelled")
QUIET_AFTER = timedelta(seconds=6)
"""A worker that says nothing for this long is gone."""

QUEUE_AFTER = timedelta(seconds=60)


def prints_of(session: Session, job_id: int) -> list[Print]:
    """Prints of a job, newest first; one that no worker finished is marked as failed, so it can be sent again."""
    session.execute(
        update(Print)
        .where(
            Print.job_id == job_id,
            Print.state == "queued",
            Print.created_at < datetime.now(UTC) - QUEUE_AFTER,
        )
        .values(state="failed", message="No worker finished this print. Print the sheet again.")
    )
    return list(session.scalars(select(Print).where(Print.job_id == job_id).order_by(Print.id.desc())))


def runs_of(session: Session, job_id: int) -> list[Run]:
    """Runs of a job, newest first; one whose worker has gone quiet is marked as stopped."""
    stop_quiet(session)
    return list(session.scalars(select(Run).where(Run.job_id == job_id).order_by(Run.id.desc())))


def counted(session: Session) -> tuple[int, int]:
    """Good and bad stickers of all runs that were measured."""
    row = session.execute(select(func.coalesce(func.sum(Run.good), 0), func.coalesce(func.sum(Run.bad), 0)))
    good, bad = row.one()
    return int(good or 0), int(bad or 0)


def get_run(session: Session, run_id: int) -> Run | None:
    """A run, marked as stopped if its worker has gone quiet."""
    stop_quiet(session)
    return session.get(Run, run_id, populate_existing=True)


def running(session: Session) -> Run | None:
    """The run that has the plotter now."""
    stop_quiet(session)
    return session.scalars(select(Run).where(Run.state.not_in(FINISHED)).order_by(Run.id).limit(1)).first()


def stop_quiet(session: Session) -> None:
    """Mark runs whose worker has gone quiet as stopped, saying where."""
    now = datetime.now(UTC)
    open_runs = select(Run).where(
        Run.state.not_in(FINISHED),
        Run.heartbeat_at < now - QUIET_AFTER,
    )
    for run in session.scalars(open_runs):
        if run.state == "queued" and run.heartbeat_at > now - QUEUE_AFTER:
            continue
        gone = "The worker that led this cut stopped" if run.state != "queued" else "No worker took this cut"
        session.execute(
            update(Run)
            .where(Run.id == run.id, Run.state.not_in(FINISHED))
            .values(state="stopped", message=f"{gone}. {where_stopped(run)}", finished_at=now)
        )
        session.refresh(run)


def where_stopped(run: Run) -> str:
    """At which line a run ended, and what that means for the sheet."""
    if run.lines_done == 0:
        return "No line of the sheet was cut: load it again or print another."
    return (
        f"It stopped at line {run.lines_done} of {run.lines_total}. "
        "Take the sheet out and start another cut on a new print."
    )
