"""Jobs: the list, the recipe, its steps, and the pictures that are dropped on it."""

from typing import Annotated

from fastapi import APIRouter, Query, Response, UploadFile
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field

from perisect.api.problems import Problem, answer
from perisect.api.views import (
    JobView,
    OperationView,
    StepView,
    job_view,
    operation_view,
    step_view,
)
from perisect.api.waiting import WaitS, ended
from perisect.core.artwork.decode import MAX_BYTES
from perisect.core.finding import Remedy
from perisect.core.job import JobRecipe
from perisect.core.job.more import NothingLacks
from perisect.core.job.remainder import NothingKept, on_the_remainder
from perisect.services import changes, operations
from perisect.services.first_equipment import of_the_shop
from perisect.services.job_view import job_now
from perisect.services.more import begin_more
from perisect.services.pictures import all_traced, store_original
from perisect.services.plans import plan
from perisect.store import artwork, jobs
from perisect.store.database import transaction
from perisect.store.locks import hold
from perisect.store.models import Operation

router = APIRouter(prefix="/api/jobs", tags=["jobs"])

Title = Annotated[str, Field(min_length=1, max_length=120, pattern=r"^[^\x00-\x1f\x7f]*$")]
Batch = Annotated[str, Query(min_length=1, max_length=40, pattern=r"^[A-Za-z0-9-]+$")]
FIRST_PAGE = 200


class NewJob(BaseModel):
    """A title is all a job needs."""

    title: Title


class RecipeChange(BaseModel):
    """A whole recipe and the revision it was made from."""

    revision: int
    recipe: JobRecipe
    label: Annotated[str, Field(min_length=1, max_length=160, pattern=r"^[^\x00]*$")] = "Change"


class Walk(BaseModel):
    """The revision that is to be left."""

    revision: int


class OpenStep(Walk):
    """The step to go to."""

    step: int


class Merge(BaseModel):
    """Drawings of one page that are to be one piece, and the revision they are of; without one, of whatever holds."""

    revision: int | None = None
    designs: Annotated[list[str], Field(min_length=2, max_length=60)]


class WantedRemedy(BaseModel):
    """A finding's remedy, for the design the finding is about."""

    remedy: Remedy
    design: str | None = None


class RemedyChange(WantedRemedy):
    """Remedies that are one step, `also` for other designs that have the same finding; without a revision, on whatever
    holds."""

    revision: int | None = None
    also: Annotated[list[WantedRemedy], Field(max_length=600)] = []


class EquipmentChange(BaseModel):
    """Ids of what the shop has, to be used for the job's sheet; what is not named stays. `take_numbers` takes the
    shop's numbers of everything the job uses anew."""

    revision: int
    stock: Annotated[str, Field(max_length=40)] | None = None
    printer: Annotated[str, Field(max_length=40)] | None = None
    plotter: Annotated[str, Field(max_length=40)] | None = None
    take_numbers: bool = False


@router.post("", status_code=201)
def post_job(new: NewJob) -> JobView:
    """Begin a job."""
    with transaction() as session:
        recipe = of_the_shop(session, JobRecipe())
        number = jobs.create(session, new.title.strip() or jobs.UNNAMED, recipe).id
    return _job(number)


@router.get("/{job_id}")
def get_job(job_id: int) -> JobView:
    """A job and everything that follows from its recipe."""
    return _job(job_id)


@router.post("/{job_id}/remainder", status_code=201)
def post_remainder(job_id: int) -> JobView:
    """Begin a job on what another one keeps of its sheet."""
    with transaction() as session:
        job = jobs.get(session, job_id)
        try:
            recipe = on_the_remainder(jobs.recipe(session, job))
        except NothingKept as error:
            raise Problem(
                409, "This job keeps no part of its sheet.", "Keep a part of it for later at Sheet first."
            ) from error
        new = jobs.create(session, f"{job.title}, the rest of its sheet"[:120])
        number = jobs.write(session, new.id, new.revision, recipe, "On the rest of a sheet").id
    return _job(number)


@router.post("/{job_id}/more", status_code=201)
def post_more(job_id: int) -> JobView:
    """Begin a job for what this one's order lacks, by what was counted; on what it keeps of its sheet where it does."""
    try:
        number = begin_more(job_id)
    except NothingLacks as error:
        raise Problem(
            409,
            "Nothing is missing from this order.",
            "Counted stickers and those under way are as many as planned.",
        ) from error
    return _job(number)


@router.put("/{job_id}/title")
def put_title(job_id: int, new: NewJob) -> JobView:
    """Give a job another title."""
    with transaction() as session:
        job = jobs.get(session, job_id, lock=True)
        job.title = new.title.strip() or job.title
    return _job(job_id)


@router.put("/{job_id}/recipe", responses={202: {"model": OperationView}})
async def put_recipe(
    job_id: int, change: RecipeChange, wait_s: WaitS, response: Response
) -> JobView | OperationView:
    """Save a change as a new step. A stale revision gets 409 and the version that was saved meanwhile; the one that
    came too late is kept as a step aside. A change whose pictures are to be read first is an operation (202)."""
    for design in change.recipe.designs:
        if not await run_in_threadpool(artwork.is_known, design.artwork):
            raise Problem(422, f"The picture of {design.name} is not here.", "Drop it again, then add it.")
    if await run_in_threadpool(all_traced, change.recipe.designs):
        # What cannot be worked out is refused before it is kept.
        await run_in_threadpool(plan, change.recipe)
        await run_in_threadpool(changes.write, job_id, change.revision, change.recipe, change.label)
        return await run_in_threadpool(_job, job_id)
    request = {"recipe": change.recipe.model_dump(mode="json")}
    asked = await run_in_threadpool(operations.ask_for_change, job_id, change.revision, request, change.label)
    return await _once_changed(job_id, asked, wait_s, response)


@router.post("/{job_id}/remedies", responses={202: {"model": OperationView}})
async def post_remedy(
    job_id: int, change: RemedyChange, wait_s: WaitS, response: Response
) -> JobView | OperationView:
    """Carry out what a finding proposes, as a step."""
    request = change.model_dump(mode="json", include={"remedy", "design", "also"})
    label = f"{change.remedy.label}, {1 + len(change.also)} pieces" if change.also else change.remedy.label
    return await _changed(job_id, change.revision, request, label, wait_s, response)


@router.post("/{job_id}/merge", responses={202: {"model": OperationView}})
async def post_merge(
    job_id: int, wanted: Merge, wait_s: WaitS, response: Response
) -> JobView | OperationView:
    """Put drawings of one page together, as a step."""
    label = f"Combine {len(wanted.designs)} pieces"
    return await _changed(job_id, wanted.revision, {"merge": wanted.designs}, label, wait_s, response)


@router.post("/{job_id}/equipment")
def post_equipment(job_id: int, change: EquipmentChange) -> JobView:
    """Print on another stock of the shop, with another printer, or cut with another plotter, as a step."""
    with transaction() as session:
        recipe = jobs.recipe(session, jobs.get(session, job_id))
        new, label = changes.with_equipment(
            session, recipe, change.stock, change.printer, change.plotter, change.take_numbers
        )
    changes.write(job_id, change.revision, new, label)
    return _job(job_id)


@router.post("/{job_id}/undo")
def post_undo(job_id: int, walk: Walk) -> JobView:
    """Go back one step."""
    with transaction() as session:
        jobs.undo(session, job_id, walk.revision)
    return _job(job_id)


@router.post("/{job_id}/redo")
def post_redo(job_id: int, walk: Walk) -> JobView:
    """Go forward one step."""
    with transaction() as session:
        jobs.redo(session, job_id, walk.revision)
    return _job(job_id)


@router.get("/{job_id}/steps")
def get_steps(job_id: int) -> list[StepView]:
    """The newest steps of a job, those aside too."""
    with transaction() as session:
        job = jobs.get(session, job_id)
        return [step_view(step, job.cursor) for step in jobs.steps(session, job_id)]


@router.post("/{job_id}/open")
def post_open(job_id: int, wanted: OpenStep) -> JobView:
    """Go to any step."""
    with transaction() as session:
        jobs.open_step(session, job_id, wanted.revision, wanted.step)
    return _job(job_id)


@router.post("/{job_id}/pictures", status_code=202)
async def post_picture(
    job_id: int,
    file: UploadFile,
    batch: Batch,
    position: Annotated[int, Query(ge=0, le=10_000)] = 0,
    wait_s: WaitS = 0.0,
) -> OperationView:
    """Send a picture to a job. It is read and becomes a piece whether or not anybody waits for it; pictures of one
    `batch` are one step, in the order of their `position`s."""
    name = (file.filename or "piece")[:200]
    data = await file.read(MAX_BYTES + 1)

    def ask() -> Operation:
        # One after the other, so that a crowd does not pass a look that each of them took alone.
        with transaction() as session:
            hold(session, f"pictures {job_id}")
            operations.check_room(job_id)
            return operations.ask_for_picture(job_id, store_original(data), name, batch, position)

    return operation_view(await ended(await run_in_threadpool(ask), wait_s))


async def _changed(
    job_id: int,
    revision: int | None,
    request: operations.Request,
    label: str,
    wait_s: float,
    response: Response,
) -> JobView | OperationView:
    """A change that is made here when its pictures are read already, or else by a worker."""

    def here() -> int | None:
        return changes.save(job_id, revision, request, label, lambda recipe: all_traced(recipe.designs))

    if await run_in_threadpool(here) is not None:
        return await run_in_threadpool(_job, job_id)
    asked = await run_in_threadpool(operations.ask_for_change, job_id, revision, request, label)
    return await _once_changed(job_id, asked, wait_s, response)


async def _once_changed(
    job_id: int, asked: Operation, wait_s: float, response: Response
) -> JobView | OperationView:
    over = await ended(asked, wait_s)
    if over.state == "done":
        return await run_in_threadpool(_job, job_id)
    if over.state == "failed":
        return answer(**(over.problem or {}))  # type: ignore[return-value]
    if over.state == "cancelled":
        raise Problem(409, "You cancelled this.", "Nothing was changed.")
    response.status_code = 202
    return operation_view(over)


def _job(job_id: int) -> JobView:
    return job_view(job_now(job_id))
