"""The plan of the day, and what is pinned in it."""

from datetime import datetime
from typing import Any

from sqlalchemy import delete, exists, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from perisect.store.models import Job, Print
from perisect.store.trade_models import CustomerOrder, DayPlan, JobPin, OrderItem

MOST_JOBS = 60
LATELY_DAYS = 30


def latest(session: Session) -> DayPlan | None:
    """The plan that was made last."""
    return session.get(DayPlan, 1)


def save(session: Session, key: str, begin_at: datetime, plan: dict[str, Any]) -> None:
    """Keep a plan in the place of the last one."""
    values = {"key": key, "begin_at": begin_at, "plan": plan, "made_at": func.now()}
    session.execute(
        insert(DayPlan).values(id=1, **values).on_conflict_do_update(index_elements=["id"], set_=values)
    )


def pins(session: Session) -> list[JobPin]:
    """What is pinned."""
    return list(session.scalars(select(JobPin).order_by(JobPin.job_id, JobPin.step)))


def pin(session: Session, job_id: int, step: str, start_at: datetime | None) -> None:
    """Pin a job's step to a time, or let it go."""
    session.execute(delete(JobPin).where(JobPin.job_id == job_id, JobPin.step == step))
    if start_at is not None:
        session.add(JobPin(job_id=job_id, step=step, start_at=start_at))
        session.flush()


def unpin_all(session: Session, job_id: int) -> None:
    """Let all steps of a job go."""
    session.execute(delete(JobPin).where(JobPin.job_id == job_id))


def jobs_to_do(session: Session) -> list[Job]:
    """Jobs that are not put away, have pieces, and are due, for an open order or printed lately; those due first."""
    ordered = (
        select(OrderItem.id)
        .join(CustomerOrder, CustomerOrder.id == OrderItem.order_id)
        .where(OrderItem.job_id == Job.id, CustomerOrder.state == "open")
        .exists()
    )
    lately = exists().where(
        Print.job_id == Job.id, Print.created_at > func.now() - func.make_interval(0, 0, 0, LATELY_DAYS)
    )
    query = (
        select(Job)
        .where(
            Job.archived_at.is_(None),
            Job.designs > 0,
            Job.due_at.is_not(None) | Job.more_of.is_not(None) | ordered | lately,
        )
        .order_by(Job.due_at.asc().nulls_last(), Job.id)
        .limit(MOST_JOBS)
    )
    return list(session.scalars(query))
