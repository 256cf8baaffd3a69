"""A job as it stands: its rows read in one transaction, its plan worked out outside of it."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from perisect.core.cutting.error_map import History
from perisect.core.cutting.run_state import RunState
from perisect.core.job import JobRecipe
from perisect.core.ledger.count import Count, Found, OrderLine, found_on, order_lines
from perisect.services.learned import history_at
from perisect.services.plans import Planned, plan_to_show
from perisect.store import jobs, operations, orders, prints, runs
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
    redo_label: str | None
    """Label of the step that redo returns to; None where there is none."""
    recipe: JobRecipe
    planned: Planned
    prints: Sequence[QueuedPrint]
    runs: Sequence[Run]
    operations: Sequence[Operation]
    way: Way
    """How sheets of its printer came to paper last."""
    history: History
    """What its plotter's log says of the next cut."""
    order: Sequence[OrderLine]
    """How each piece stands."""


def job_now(job_id: int) -> JobNow:
    """A job as it stands.

    Raises:
        UnknownJob: there is none of this number.
        UnknownArtwork, ArtworkError, LineError: its plan cannot be worked out.
    """
    with transaction() as session:
        job = jobs.get(session, job_id)
        step = jobs.step(session, job)
        child = jobs.newest_child(session, job)
        redo_label = None if child is None else jobs.label_of(session, job_id, child)
        printed = waiting_prints(session, prints.of_job(session, job_id))
        cut = runs.of_job(session, job_id)
        under_way = operations.open_of_job(session, job_id)
        recipe = JobRecipe.model_validate(step.recipe)
        way = prints.last_way(session, recipe.sheet.printed_by.id)
        history = history_at(session, recipe.sheet.cut_by.id)
        ordered = Counter[str]()
        for item, _ in orders.items_of_job(session, job_id):
            ordered[item.design or ""] += item.quantity
        more = [
            (jobs.recipe(session, other), prints.of_job(session, other.id), runs.of_job(session, other.id))
            for other in session.scalars(select(Job).where(Job.more_of == job_id).order_by(Job.id))
        ]
    planned = plan_to_show(recipe)
    mine = Member(planned, [each.row for each in printed], cut)
    order = order_of([mine, *(Member(plan_to_show(its), sent, done) for its, sent, done in more)], ordered)
    return JobNow(job, step, redo_label, recipe, planned, printed, cut, under_way, way, history, order)


@dataclass(frozen=True)
class Member:
    """A job that makes something for an order, as far as its sheets go."""

    planned: Planned
    printed: Sequence[Print]
    cut: Sequence[Run]


def order_of(members: Sequence[Member], ordered: Mapping[str, int]) -> list[OrderLine]:
    """How each piece of a job stands: what is wanted, against what was counted, cut, and printed of this version.

    Args:
        members: the job, and those that make what its order lacked.
        ordered: what orders want of each piece, for a job that is made for some; others want what they plan.
    """
    counted: list[Found] = []
    uncounted: list[list[str]] = []
    to_cut: list[list[str]] = []
    for member in members:
        sheets = [[placement.key for placement in sheet] for sheet in member.planned.plan.sheets.sheets]
        # Runs come newest first: the last one of a print is what became of it.
        last: dict[int, Run] = {}
        for run in member.cut:
            last.setdefault(run.print_id, run)
        for run in last.values():
            on_it = [str(each["design"]) for each in run.stickers or []]
            if run.count is not None:
                counted.append(found_on(Count.model_validate(run.count), on_it))
            elif run.state == RunState.DONE:
                uncounted.append(on_it)
        over = {run.print_id for run in last.values() if run.count is not None or run.state == RunState.DONE}
        stand = [
            row
            for row in member.printed
            if row.state in prints.STANDS
            and row.made_key == member.planned.made_key
            and row.sheet < len(sheets)
        ]
        to_cut += [sheets[row.sheet] for row in stand if row.id not in over]
        to_cut += [
            sheets[number] for number in sorted(set(range(len(sheets))) - {row.sheet for row in stand})
        ]
    planned = Counter(place.key for sheet in members[0].planned.plan.sheets.sheets for place in sheet)
    wanted = {key: ordered.get(key, 0) for key in planned} if ordered else planned
    return order_lines(wanted, counted, uncounted, to_cut)


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
