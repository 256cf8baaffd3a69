"""The list of jobs: found, put away, copied, deleted for good."""

from dataclasses import asdict
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import AwareDatetime, BaseModel

from perisect.api.problems import Problem
from perisect.api.views import JobSummary, summary
from perisect.store import job_list, jobs
from perisect.store.database import transaction
from perisect.store.job_list import JobBusy, Sort, Stage, Wanted, Which

router = APIRouter(prefix="/api/jobs", tags=["jobs"])

FIRST_PAGE = 200


@router.get("")
def get_jobs(
    before: Annotated[
        AwareDatetime | None, Query(description="When the last job of the page before was")
    ] = None,
    last: Annotated[int, Query(ge=0, le=2**31 - 1, description="and its number")] = 0,
    most: Annotated[int, Query(ge=1, le=FIRST_PAGE)] = FIRST_PAGE,
    named: Annotated[
        str, Query(max_length=120, description="Words of the title, who it is for, a number")
    ] = "",
    which: Which = "open",
    stage: Stage | None = None,
    sort: Sort = "worked",
    skip: Annotated[int, Query(ge=0, le=1_000_000, description="Where they are not sorted by work")] = 0,
) -> list[JobSummary]:
    """A page of the jobs, the one last worked on first unless they are sorted otherwise."""
    after: tuple[datetime, int] | None = None if before is None else (before, last)
    with transaction() as session:
        rows = job_list.page(session, Wanted(named, which, stage, sort, after, skip, most))
    return [summary(row) for row in rows]


@router.get("/count")
def get_job_count(
    named: Annotated[str, Query(max_length=120)] = "", which: Which = "open", stage: Stage | None = None
) -> int:
    """How many jobs there are of those."""
    with transaction() as session:
        return job_list.count(session, Wanted(named, which, stage))


class Kept(BaseModel):
    """Whether a job is put away."""

    archived: bool


class Due(BaseModel):
    """When a job has to be done; nothing for whenever."""

    due_at: AwareDatetime | None


class GoesView(BaseModel):
    """What goes with a job that is deleted for good; it stays as long as something of it is under way."""

    steps: int
    prints: int
    runs: int
    stickers: int
    orders: int
    busy: bool


def _summary(job_id: int) -> JobSummary:
    with transaction() as session:
        return summary(job_list.rows_of(session, [jobs.get(session, job_id)])[0])


@router.put("/{job_id}/archived")
def put_archived(job_id: int, kept: Kept) -> JobSummary:
    """Put a job away, or take it back."""
    with transaction() as session:
        job_list.put_away(session, job_id, kept.archived)
    return _summary(job_id)


@router.put("/{job_id}/due")
def put_due(job_id: int, due: Due) -> JobSummary:
    """Say when a job has to be done."""
    with transaction() as session:
        job_list.set_due(session, job_id, due.due_at)
    return _summary(job_id)


@router.post("/{job_id}/copy", status_code=201)
def post_copy(job_id: int) -> JobSummary:
    """Begin a job with the same pieces and sheets; what was printed and cut stays with the first."""
    with transaction() as session:
        job = jobs.get(session, job_id)
        new = jobs.create(session, f"{job.title[:112]}, a copy", jobs.recipe(session, job))
        return summary(job_list.rows_of(session, [new])[0])


@router.get("/{job_id}/goes")
def get_goes(job_id: int) -> GoesView:
    """What would go with a job that is deleted for good."""
    with transaction() as session:
        return GoesView(**asdict(job_list.what_goes(session, job_id)))


@router.delete("/{job_id}", status_code=204)
def delete_job(job_id: int) -> None:
    """Delete a job for good, with its steps, prints and cuts. What it used up stays in the ledger."""
    try:
        with transaction() as session:
            job_list.delete_for_good(session, job_id)
    except JobBusy as error:
        raise Problem(
            409, "Something of this job is under way.", "Wait until it is printed or cut, or cancel that."
        ) from error
