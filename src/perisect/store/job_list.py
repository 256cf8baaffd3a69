"""The list of jobs: found, sorted, a page at a time, all from columns; put away, and deleted for good."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Literal

from sqlalchemy import Select, and_, delete, exists, func, or_, select, update
from sqlalchemy.orm import Session

from perisect.core.cutting.run_state import OVER, RunState
from perisect.store.jobs import UnknownJob
from perisect.store.models import Job, Operation, Print, Run, Step
from perisect.store.prints import STANDS
from perisect.store.trade_models import CustomerOrder, OrderItem

Sort = Literal["worked", "due", "title", "number"]
Which = Literal["open", "archived", "all"]
Stage = Literal["empty", "to print", "to cut", "to count", "counted"]


@dataclass(frozen=True)
class JobRow:
    """A job as the list shows it."""

    id: int
    title: str
    designs: int
    recipe_hash: str
    pictures: list[str]
    updated_at: datetime
    due_at: datetime | None
    archived_at: datetime | None
    prints: int
    """Printed sheets."""
    cut: int
    counted: int
    under_way: str
    """printing or cutting now; empty otherwise."""
    orders: list[str]
    """Who it is made for."""

    @property
    def stage(self) -> Stage:
        """The station it waits at, by what became of its sheets."""
        if self.designs == 0:
            return "empty"
        if self.prints == 0:
            return "to print"
        if self.cut < self.prints:
            return "to cut"
        return "counted" if self.counted >= self.cut else "to count"


@dataclass(frozen=True)
class Wanted:
    """Which jobs, in which order.

    `after` is when the last job of the page before was worked on, and its id, of those sorted so; of the others `skip`
    come before.
    """

    named: str = ""
    which: Which = "open"
    stage: Stage | None = None
    sort: Sort = "worked"
    after: tuple[datetime, int] | None = None
    skip: int = 0
    most: int = 200


_SORTS: dict[Sort, tuple[Any, ...]] = {
    "worked": (Job.updated_at.desc(), Job.id),
    "due": (Job.due_at.asc().nulls_last(), Job.id),
    "title": (func.lower(Job.title), Job.id),
    "number": (Job.id.desc(),),
}


def page(session: Session, wanted: Wanted) -> list[JobRow]:
    """A page of the jobs."""
    query = _chosen(select(Job), wanted).order_by(*_SORTS[wanted.sort]).limit(wanted.most).offset(wanted.skip)
    if wanted.sort == "worked" and wanted.after is not None:
        when, last = wanted.after
        query = query.where((Job.updated_at < when) | ((Job.updated_at == when) & (Job.id > last)))
    return rows_of(session, list(session.scalars(query)))


def count(session: Session, wanted: Wanted) -> int:
    """How many there are of those jobs."""
    return session.scalar(_chosen(select(func.count()).select_from(Job), wanted)) or 0


def _chosen(query: Select[Any], wanted: Wanted) -> Select[Any]:
    if wanted.which != "all":
        put_away = Job.archived_at.is_not(None)
        query = query.where(put_away if wanted.which == "archived" else ~put_away)
    for word in wanted.named.split():
        is_it = or_(Job.title.icontains(word, autoescape=True), _is_for(word))
        number = int(word) if word.isascii() and word.isdecimal() and len(word) < 10 else None
        query = query.where(is_it if number is None else is_it | (Job.id == number))
    if wanted.stage is not None:
        query = query.where(_at(wanted.stage))
    return query


def _is_for(word: str) -> Any:
    return exists().where(
        OrderItem.job_id == Job.id,
        OrderItem.order_id == CustomerOrder.id,
        CustomerOrder.who.icontains(word, autoescape=True),
    )


def _at(stage: Stage) -> Any:
    """Jobs that wait at a station, as `JobRow.stage` has it."""
    printed = select(func.count()).where(Print.job_id == Job.id, Print.state == "printed").scalar_subquery()
    cut = select(func.count()).where(Run.job_id == Job.id, Run.state == RunState.DONE).scalar_subquery()
    counted = (
        select(func.count()).where(Run.job_id == Job.id, Run.counted_good.is_not(None)).scalar_subquery()
    )
    full = Job.designs > 0
    match stage:
        case "empty":
            return ~full
        case "to print":
            return and_(full, printed == 0)
        case "to cut":
            return and_(full, printed > 0, cut < printed)
        case "to count":
            return and_(full, printed > 0, cut >= printed, counted < cut)
        case "counted":
            return and_(full, printed > 0, cut >= printed, counted >= cut)


def rows_of(session: Session, found: list[Job]) -> list[JobRow]:
    """Jobs as the list shows them."""
    ids = [job.id for job in found]
    printed = _counts(session, select(Print.job_id, func.count()).where(Print.state == "printed"), Print, ids)
    cut = _counts(session, select(Run.job_id, func.count()).where(Run.state == RunState.DONE), Run, ids)
    counted = _counts(
        session, select(Run.job_id, func.count()).where(Run.counted_good.is_not(None)), Run, ids
    )
    going = dict.fromkeys(
        session.scalars(
            select(Print.job_id).where(Print.job_id.in_(ids), Print.state.in_(("queued", "printing")))
        ),
        "printing",
    )
    going |= dict.fromkeys(
        session.scalars(select(Run.job_id).where(Run.job_id.in_(ids), Run.state.not_in(OVER))), "cutting"
    )
    whose: dict[int, list[str]] = {}
    for job_id, who in session.execute(
        select(OrderItem.job_id, CustomerOrder.who)
        .join(CustomerOrder, CustomerOrder.id == OrderItem.order_id)
        .where(OrderItem.job_id.in_(ids))
        .group_by(OrderItem.job_id, CustomerOrder.who, CustomerOrder.id)
        .order_by(CustomerOrder.id)
    ):
        whose.setdefault(int(job_id or 0), []).append(str(who))
    return [
        JobRow(
            job.id,
            job.title,
            job.designs,
            job.recipe_hash,
            job.pictures,
            job.updated_at,
            job.due_at,
            job.archived_at,
            printed.get(job.id, 0),
            cut.get(job.id, 0),
            counted.get(job.id, 0),
            going.get(job.id, ""),
            whose.get(job.id, []),
        )
        for job in found
    ]


def _counts(session: Session, query: Any, of: type[Print] | type[Run], ids: list[int]) -> dict[int, int]:
    rows = session.execute(query.where(of.job_id.in_(ids)).group_by(of.job_id)).all()
    return {int(row[0]): int(row[1]) for row in rows}


def put_away(session: Session, job_id: int, away: bool) -> Job:
    """Put a job away, or take it back.

    Raises:
        UnknownJob.
    """
    when = datetime.now(UTC) if away else None
    # When it was worked on stays as it was.
    job = session.scalar(
        update(Job).where(Job.id == job_id).values(archived_at=when, updated_at=Job.updated_at).returning(Job)
    )
    if job is None:
        raise UnknownJob(job_id)
    return job


def set_due(session: Session, job_id: int, due_at: datetime | None) -> Job:
    """Say when a job has to be done.

    Raises:
        UnknownJob.
    """
    job = session.scalar(
        update(Job).where(Job.id == job_id).values(due_at=due_at, updated_at=Job.updated_at).returning(Job)
    )
    if job is None:
        raise UnknownJob(job_id)
    return job


@dataclass(frozen=True)
class Goes:
    """What goes with a job that is deleted for good."""

    steps: int
    prints: int
    runs: int
    stickers: int
    """Counted good, which figures are made of."""
    orders: int
    busy: bool
    """Whether it is printed, cut or worked on now."""


def what_goes(session: Session, job_id: int) -> Goes:
    """What would go with a job.

    Raises:
        UnknownJob.
    """
    if session.get(Job, job_id) is None:
        raise UnknownJob(job_id)

    def many(query: Select[Any]) -> int:
        return int(session.scalar(query) or 0)

    return Goes(
        many(select(func.count()).where(Step.job_id == job_id)),
        many(select(func.count()).where(Print.job_id == job_id, Print.state.in_((*STANDS, "spoiled")))),
        many(select(func.count()).where(Run.job_id == job_id)),
        many(select(func.sum(Run.counted_good)).where(Run.job_id == job_id)),
        many(select(func.count(OrderItem.order_id.distinct())).where(OrderItem.job_id == job_id)),
        bool(
            many(select(func.count()).where(Print.job_id == job_id, Print.state.in_(("queued", "printing"))))
            + many(select(func.count()).where(Run.job_id == job_id, Run.state.not_in(OVER)))
            + many(
                select(func.count()).where(
                    Operation.job_id == job_id, Operation.state.in_(("queued", "working"))
                )
            )
        ),
    )


class JobBusy(Exception):
    """The job is printed, cut or worked on now."""


def delete_for_good(session: Session, job_id: int) -> None:
    """Delete a job with everything of it. What it used up stays in the ledger.

    Raises:
        UnknownJob.
        JobBusy: something of it is under way.
    """
    # Nobody begins anything of it meanwhile: a print or a run refers to this row.
    if session.scalar(select(Job.id).where(Job.id == job_id).with_for_update()) is None:
        raise UnknownJob(job_id)
    if what_goes(session, job_id).busy:
        raise JobBusy
    session.execute(delete(Job).where(Job.id == job_id))
