"""Jobs and their numbered steps."""

import hashlib
from collections.abc import Callable
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session, defer

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
        self.aside: int | None = None
        """The step under which the version that came too late is kept."""


class NothingToWalk(Exception):
    """Undo at the first step, redo at the last, or a step that is not there."""


UNNAMED = "New job"
"""What a job is called until somebody names it or its first picture does."""


def create(session: Session, title: str, recipe: JobRecipe | None = None, more_of: int | None = None) -> Job:
    """A new job whose first step is empty, or holds a recipe; `more_of` is the job whose order lacks what it makes."""
    begun = recipe or JobRecipe()
    job = Job(title=title, cursor=1, revision=1, more_of=more_of)
    _shows(job, begun)
    first = begun.model_dump(mode="json")
    job.steps = [Step(number=1, parent=None, label=UNNAMED, recipe=first)]
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


def hash_of(recipe: JobRecipe) -> str:
    """Name of what follows from a recipe."""
    return hashlib.sha256(recipe.model_dump_json().encode()).hexdigest()


def write(session: Session, job_id: int, revision: int, new: JobRecipe, label: str) -> Job:
    """Save a change as a new step after the one that holds now.

    Raises:
        UnknownJob, StaleRevision.
    """
    job = _current(session, job_id, revision)
    if recipe(session, job) == new:
        return job
    return _append(session, job, new, label)


def append(
    session: Session,
    job_id: int,
    make: Callable[[JobRecipe], JobRecipe],
    label: str,
    batch: str | None = None,
) -> Job:
    """Save a change that is made from whatever holds now, as a step of its own or, of one batch, as the same step.

    Args:
        make: the changed recipe; it is called with the job held for writing.

    Raises:
        UnknownJob.
    """
    job = get(session, job_id, lock=True)
    now = step(session, job)
    new = make(JobRecipe.model_validate(now.recipe))
    if batch is None or now.batch != batch:
        return _append(session, job, new, label, batch)
    now.recipe, now.label = new.model_dump(mode="json"), label
    _move(job, job.cursor, new)
    session.flush()
    return job


def set_aside(session: Session, job_id: int, given_up: JobRecipe, label: str) -> int:
    """Keep a version that came too late as a step beside the others; its number.

    Raises:
        UnknownJob.
    """
    job = get(session, job_id, lock=True)
    same = session.scalar(
        select(Step.number).where(
            Step.job_id == job_id, Step.aside, Step.recipe == given_up.model_dump(mode="json")
        )
    )
    if same is not None:
        return same
    number = _last(session, job_id) + 1
    recipe_json = given_up.model_dump(mode="json")
    session.add(
        Step(job_id=job_id, number=number, parent=job.cursor, label=label, recipe=recipe_json, aside=True)
    )
    session.flush()
    return number


def steps(session: Session, job_id: int, most: int = 200) -> list[Step]:
    """The newest steps of a job, newest first, without their recipes.

    Raises:
        UnknownJob.
    """
    get(session, job_id)
    query = select(Step).where(Step.job_id == job_id).order_by(Step.number.desc()).limit(most)
    return list(session.scalars(query.options(defer(Step.recipe))))


def open_step(session: Session, job_id: int, revision: int, number: int) -> Job:
    """Go to any step.

    Raises:
        UnknownJob, StaleRevision.
        NothingToWalk: it has no such step.
    """
    job = _current(session, job_id, revision)
    found = session.scalar(select(Step).where(Step.job_id == job_id, Step.number == number))
    if found is None:
        raise NothingToWalk(f"open at step {number}")
    _move(job, number, JobRecipe.model_validate(found.recipe))
    session.flush()
    return job


def _append(session: Session, job: Job, new: JobRecipe, label: str, batch: str | None = None) -> Job:
    number = _last(session, job.id) + 1
    session.add(
        Step(
            job_id=job.id,
            number=number,
            parent=job.cursor,
            label=label,
            recipe=new.model_dump(mode="json"),
            batch=batch,
        )
    )
    _move(job, number, new)
    session.flush()
    return job


def _last(session: Session, job_id: int) -> int:
    return session.scalar(select(func.max(Step.number)).where(Step.job_id == job_id)) or 0


def undo(session: Session, job_id: int, revision: int) -> Job:
    """Go to the step before.

    Raises:
        UnknownJob, StaleRevision, NothingToWalk.
    """
    job = _current(session, job_id, revision)
    parent = step(session, job).parent
    if parent is None:
        raise NothingToWalk("undo")
    return _go(session, job, parent)


def redo(session: Session, job_id: int, revision: int) -> Job:
    """Go to the newest step that followed this one.

    Raises:
        UnknownJob, StaleRevision, NothingToWalk.
    """
    job = _current(session, job_id, revision)
    child = newest_child(session, job)
    if child is None:
        raise NothingToWalk("redo")
    return _go(session, job, child)


def newest_child(session: Session, job: Job) -> int | None:
    """Number of the step that redo goes to."""
    return session.scalar(
        select(func.max(Step.number)).where(
            Step.job_id == job.id, Step.parent == job.cursor, Step.aside.is_(False)
        )
    )


def label_of(session: Session, job_id: int, number: int) -> str:
    """Return what a step of a job is called; empty where it has none of that number."""
    query = select(Step.label).where(Step.job_id == job_id, Step.number == number)
    return session.scalar(query) or ""


def newest(session: Session, most: int) -> list[Job]:
    """The jobs last worked on."""
    return list(session.scalars(select(Job).order_by(Job.updated_at.desc(), Job.id).limit(most)))


def any_there(session: Session) -> bool:
    """Whether there is a job at all."""
    return session.scalar(select(Job.id).limit(1)) is not None


def _current(session: Session, job_id: int, revision: int) -> Job:
    job = get(session, job_id, lock=True)
    if job.revision != revision:
        raise StaleRevision(job.revision, job.cursor, recipe(session, job))
    return job


def _go(session: Session, job: Job, number: int) -> Job:
    there = session.scalars(select(Step).where(Step.job_id == job.id, Step.number == number)).one()
    _move(job, number, JobRecipe.model_validate(there.recipe))
    session.flush()
    return job


def _move(job: Job, cursor: int, new: JobRecipe) -> None:
    job.cursor = cursor
    job.revision += 1
    _shows(job, new)
    job.updated_at = datetime.now().astimezone()


MOST_PICTURES = 4


def _shows(job: Job, recipe: JobRecipe) -> None:
    """What the list of jobs shows of a recipe."""
    job.designs, job.recipe_hash = len(recipe.designs), hash_of(recipe)
    job.pictures = [design.picture for design in recipe.designs[:MOST_PICTURES]]
