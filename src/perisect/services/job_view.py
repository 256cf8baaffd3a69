"""A job as it stands: its rows read in one transaction, its plan worked out outside of it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from perisect.core.cutting.error_map import History
from perisect.core.job import JobRecipe
from perisect.services.learned import history_at
from perisect.services.plans import Planned, plan
from perisect.store import jobs, operations, prints, runs
from perisect.store.database import transaction
from perisect.store.models import Job, Operation, Print, Run, Step
from perisect.store.prints import Way

NO_WORKER = "No worker is running. It is printed as soon as one is started."
WORKER_QUIET = timedelta(seconds=12)


@dataclass(frozen=True)
class QueuedPrint:
    """A print, and what it waits for while it waits."""

    row: Print
    waiting: str | None


@dataclass(frozen=True)
class JobNow:
    """Everything of a job that the screen shows."""

    job: Job
    step: Step
    can_redo: bool
    recipe: JobRecipe
    planned: Planned
    prints: Sequence[QueuedPrint]
    runs: Sequence[Run]
    operations: Sequence[Operation]
    way: Way
    """How sheets of its printer came to paper last."""
    history: History
    """What its plotter's log says of the next cut."""


def job_now(job_id: int) -> JobNow:
    """A job as it stands.

    Raises:
        UnknownJob: there is none of this number.
        UnknownArtwork, ArtworkError, LineError: its plan cannot be worked out.
    """
    with transaction() as session:
        job = jobs.get(session, job_id)
        step = jobs.step(session, job)
        can_redo = jobs.newest_child(session, job) is not None
        printed = waiting_prints(session, prints.of_job(session, job_id))
        cut = runs.of_job(session, job_id)
        under_way = operations.open_of_job(session, job_id)
        recipe = JobRecipe.model_validate(step.recipe)
        way = prints.last_way(session, recipe.sheet.printed_by.id)
        history = history_at(session, recipe.sheet.cut_by.id)
    return JobNow(job, step, can_redo, recipe, plan(recipe), printed, cut, under_way, way, history)


def waiting_prints(session: Session, rows: Sequence[Print]) -> list[QueuedPrint]:
    """Prints, those in a queue with what is before them."""
    queued = {row.printer for row in rows if row.state == "queued"}
    if not queued:
        return [QueuedPrint(row, None) for row in rows]
    lines = {
        printer: list(
            session.scalars(
                select(Print.id)
                .where(Print.printer == printer, Print.state.in_(("queued", "printing")))
                .order_by(Print.id)
            )
        )
        for printer in queued
    }
    lives = worker_lives(session)
    return [QueuedPrint(row, _waits(row, lines, lives)) for row in rows]


def _waits(row: Print, lines: dict[str, list[int]], lives: bool) -> str | None:
    if row.state != "queued":
        return None
    if not lives:
        return NO_WORKER
    ahead = lines[row.printer].index(row.id)
    return None if ahead == 0 else f"Waiting behind {ahead} print{'' if ahead == 1 else 's'}."


def worker_lives(session: Session) -> bool:
    """Whether a worker has been heard of lately."""
    since = datetime.now(UTC) - WORKER_QUIET
    found = session.scalar(
        text("SELECT 1 FROM procrastinate_workers WHERE last_heartbeat > :since LIMIT 1"), {"since": since}
    )
    return found is not None
