"""Jobs: the list, the recipe and its steps."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from perisect.api.problems import Problem
from perisect.api.tickets import TAKES_A_WHILE
from perisect.api.views import JobSummary, JobView, job_view
from perisect.core.finding import Remedy
from perisect.core.job import JobRecipe, apply_remedy
from perisect.core.job.artwork_check import SPLIT
from perisect.store import artwork, jobs
from perisect.store.database import transaction
from perisect.tasks.artwork import merge, split, trace_all

router = APIRouter(prefix="/api/jobs", tags=["jobs"])

Title = Annotated[str, Field(min_length=1, max_length=120)]


class NewJob(BaseModel):
    """A title is all a job needs."""

    title: Title


class RecipeChange(BaseModel):
    """A whole recipe and the revision it was made from."""

    revision: int
    recipe: JobRecipe
    label: Annotated[str, Field(min_length=1, max_length=160)] = "Change"


class Walk(BaseModel):
    """The revision that is to be left."""

    revision: int


class Merge(BaseModel):
    """Drawings of one page that are to be one piece, and the revision they are of."""

    revision: int
    designs: Annotated[list[str], Field(min_length=2, max_length=60)]


class RemedyChange(BaseModel):
    """A finding's remedy, for the design the finding is about."""

    revision: int
    remedy: Remedy
    design: str | None = None


@router.get("")
def get_jobs() -> list[JobSummary]:
    """All jobs, the one last worked on first."""
    with transaction() as session:
        return [
            JobSummary(
                id=job.id,
                title=job.title,
                designs=len(jobs.recipe(session, job).designs),
                updated_at=job.updated_at,
            )
            for job in jobs.everything(session)
        ]


@router.post("", status_code=201)
def post_job(new: NewJob) -> JobView:
    """Begin a job."""
    with transaction() as session:
        return job_view(session, jobs.create(session, new.title.strip() or "New job"))


@router.get("/{job_id}")
def get_job(job_id: int) -> JobView:
    """A job and everything that follows from its recipe."""
    with transaction() as session:
        return job_view(session, jobs.get(session, job_id))


@router.put("/{job_id}/title")
def put_title(job_id: int, new: NewJob) -> JobView:
    """Give a job another title."""
    with transaction() as session:
        job = jobs.get(session, job_id, lock=True)
        job.title = new.title.strip() or job.title
        return job_view(session, job)


@router.put("/{job_id}/recipe", dependencies=TAKES_A_WHILE)
def put_recipe(job_id: int, change: RecipeChange) -> JobView:
    """Keep a change as a new step. A stale revision gets 409 and the version that was kept meanwhile."""
    for design in change.recipe.designs:
        if not artwork.is_known(design.artwork):
            raise Problem(422, f"The picture of {design.name} is not here.", "Drop it again, then add it.")
    trace_all(change.recipe.designs)
    with transaction() as session:
        job = jobs.write(session, job_id, change.revision, change.recipe, change.label)
        return job_view(session, job)


@router.post("/{job_id}/undo")
def post_undo(job_id: int, walk: Walk) -> JobView:
    """Go back one step."""
    with transaction() as session:
        return job_view(session, jobs.undo(session, job_id, walk.revision))


@router.post("/{job_id}/redo")
def post_redo(job_id: int, walk: Walk) -> JobView:
    """Go forward one step."""
    with transaction() as session:
        return job_view(session, jobs.redo(session, job_id, walk.revision))


@router.post("/{job_id}/remedies", dependencies=TAKES_A_WHILE)
def post_remedy(job_id: int, change: RemedyChange) -> JobView:
    """Carry out what a finding proposes, as a step."""
    with transaction() as session:
        recipe = jobs.recipe(session, jobs.get(session, job_id))
    # Pictures are read before the job is locked for writing.
    if change.remedy.field == SPLIT:
        changed = split(recipe, change.design or "")
    else:
        changed = apply_remedy(recipe, change.remedy, change.design)
    trace_all(changed.designs)
    with transaction() as session:
        job = jobs.write(session, job_id, change.revision, changed, change.remedy.label)
        return job_view(session, job)


@router.post("/{job_id}/merge", dependencies=TAKES_A_WHILE)
def post_merge(job_id: int, wanted: Merge) -> JobView:
    """Put drawings of one page together, as a step."""
    with transaction() as session:
        recipe = jobs.recipe(session, jobs.get(session, job_id))
    changed = merge(recipe, wanted.designs)
    trace_all(changed.designs)
    with transaction() as session:
        label = f"Put {len(wanted.designs)} pieces together"
        return job_view(session, jobs.write(session, job_id, wanted.revision, changed, label))
