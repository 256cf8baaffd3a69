"""What happens to a job, as it happens: steps, prints, runs and operations in one stream."""

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import APIRouter, Cookie, Depends
from fastapi.concurrency import run_in_threadpool
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import BaseModel

from perisect.api.hub import hub
from perisect.api.run_views import run_view
from perisect.api.views import operation_view, print_view
from perisect.core.job import JobRecipe
from perisect.services import sign_in
from perisect.services.job_view import waiting_prints
from perisect.services.plans import plan_to_show
from perisect.store import jobs
from perisect.store.database import transaction
from perisect.store.events import SIGN_INS, Change
from perisect.store.models import Operation, Print, Run
from perisect.store.settings import settings

router = APIRouter(tags=["jobs"])

TOGETHER_S = 0.05
"""Changes that come so soon after each other are told once."""


class JobEvent(BaseModel):
    """The job has another revision, title or step."""

    revision: int
    step: int
    title: str


def _known_job(job_id: int) -> int:
    """A job that is there: a stream of one that is not is refused before it begins."""
    with transaction() as session:
        return jobs.get(session, job_id).id


@router.get("/api/jobs/{job_id}/events", response_class=EventSourceResponse)
async def get_job_events(
    job_id: Annotated[int, Depends(_known_job)], perisect: Annotated[str, Cookie()] = ""
) -> AsyncIterator[ServerSentEvent]:
    """`job`, `print`, `run` and `operation` as they change; `resync` when some may have been missed.

    It ends with the sign-in that it was opened by.
    """
    with hub.ear() as ear:
        # What happened between the job that is shown and this stream, or while it was broken, was not told.
        yield ServerSentEvent(data={}, event="resync")
        while True:
            batch = {await ear.get()}
            await asyncio.sleep(TOGETHER_S)
            while not ear.empty():
                batch.add(ear.get_nowait())
            what = {change.what for change in batch}
            if what & {SIGN_INS, "resync"} and not await run_in_threadpool(_may_listen, perisect):
                return
            if "resync" in what:
                yield ServerSentEvent(data={}, event="resync")
                continue
            mine = [change for change in batch if change.job == job_id]
            for event, data in await run_in_threadpool(_events_of, job_id, mine):
                yield ServerSentEvent(data=data, event=event)


def _may_listen(token: str) -> bool:
    return settings().is_local or sign_in.is_signed_in(token)


def _events_of(job_id: int, changes: list[Change]) -> list[tuple[str, BaseModel]]:
    """What there is to tell of the rows that changed, as they are now."""
    ids = {what: {change.id for change in changes if change.what == what} for what in _ROWS}
    events: list[tuple[str, BaseModel]] = []
    with transaction() as session:
        if any(change.what == "job" for change in changes):
            job = jobs.get(session, job_id)
            events.append(("job", JobEvent(revision=job.revision, step=job.cursor, title=job.title)))
        # A print that left a queue moves all that wait behind it.
        queued = session.query(Print).where(Print.job_id == job_id, Print.state == "queued").all()
        rows = {row.id: row for row in queued} if ids["print"] else {}
        rows |= {row.id: row for key in ids["print"] if (row := session.get(Print, key)) is not None}
        waiting = waiting_prints(session, list(rows.values()))
        recipe = jobs.recipe(session, jobs.get(session, job_id)) if waiting else JobRecipe()
        runs = [run for key in sorted(ids["run"]) if (run := session.get(Run, key)) is not None]
        sheet_of = {run.id: session.get_one(Print, run.print_id).sheet for run in runs}
        operations = [each for key in sorted(ids["operation"]) if (each := session.get(Operation, key))]
    current = plan_to_show(recipe).made_key if waiting else ""
    events += [("print", print_view(each, current)) for each in waiting]
    events += [("run", run_view(run, sheet_of[run.id])) for run in runs]
    events += [("operation", operation_view(operation)) for operation in operations]
    return events


_ROWS = ("job", "print", "run", "operation")
