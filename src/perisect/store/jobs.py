"""Jobs and their numbered steps."""

from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from perisect.core.job import JobRecipe
from perisect.store.models import Job, Step


class UnknownJob(KeyError):
    """No job has this number."""


class StaleRevision(Exception):
    """Somebody wrote in between; the attributes are those of the job as it stands now."""

    def __init__(self, revision: int, step: int, recipe: JobRecipe) -> None:
        super().__init__(revision)
        self.revision = revision
        self.step = step
        self.recipe = recipe


class NothingToWalk(Exception):
    """Undo at the first step or redo at the last."""


def create(session: Session, title: str, recipe: JobRecipe | None = None) -> Job:
    """A new job whose first step is empty, or holds a recipe."""
    job = Job(title=title, cursor=1, revision=1)
    first = (recipe or JobRecipe()).model_dump(mode="json")
    job.steps = [Step(number=1, parent=None, label="New job", recipe=first)]
    session.add(job)
    session.flush()
    return job


def get(session: Session, job_id: int, lock: bool = False) -> Job:
    """A job, for writing with `lock`.

    Raises:
        UnknownJob: none has this number.
    """
    query = select(Job).where(Job.id == job_id)
    job = session.scalar(query.with_for_update() if lock else query)
    if job is None:
        raise UnknownJob(job_id)
    return job


def step(session: Session, job: Job) -> Step:
    """The step that holds now."""
    return session.scalars(select(Step).where(Step.job_id == job.id, Step.number == job.cursor)).one()


def recipe(session: Session, job: Job) -> JobRecipe:
    """The recipe that holds now."""
    return JobRecipe.model_validate(step(session, job).recipe)


def write(session: Session, job_id: int, revision: int, new: JobRecipe, label: str) -> Job:
    """Keep a change as a new step after the one that holds now.

    Raises:
        UnknownJob, StaleRevision.
    """
    job = _current(session, job_id, revision)
    if recipe(session, job) == new:
        return job
    last = session.scalar(select(func.max(Step.number)).where(Step.job_id == job_id)) or 0
    session.add(
        Step(
            job_id=job_id,
            number=last + 1,
            parent=job.cursor,
            label=label,
            recipe=new.model_dump(mode="json"),
        )
    )
    _move(job, last + 1)
    session.flush()
    return job


def undo(session: Session, job_id: int, revision: int) -> Job:
    """Go to the step before.

    Raises:
        UnknownJob, StaleRevision, NothingToWalk.
    """
    job = _current(session, job_id, revision)
    parent = step(session, job).parent
    if parent is None:
        raise NothingToWalk("undo")
    _move(job, parent)
    session.flush()
    return job


def redo(session: Session, job_id: int, revision: int) -> Job:
    """Go to the newest step that followed this one.

    Raises:
        UnknownJob, StaleRevision, NothingToWalk.
    """
    job = _current(session, job_id, revision)
    child = newest_child(session, job)
    if child is None:
        raise NothingToWalk("redo")
    _move(job, child)
    session.flush()
    return job


def newest_child(session: Session, job: Job) -> int | None:
    """Number of the step that redo goes to."""
    return session.scalar(
        select(func.max(Step.number)).where(Step.job_id == job.id, Step.parent == job.cursor)
    )


def everything(session: Session) -> list[Job]:
    """All jobs, the one last worked on first."""
    return list(session.scalars(select(Job).order_by(Job.updated_at.desc(), Job.id)))


def _current(session: Session, job_id: int, revision: int) -> Job:
    job = get(session, job_id, lock=True)
    if job.revision != revision:
        raise StaleRevision(job.revision, job.cursor, recipe(session, job))
    return job


def _move(job: Job, cursor: int) -> None:
    job.cursor = cursor
    job.revision += 1
    job.updated_at = datetime.now().astimezone()
