"""Stations 4 to 6: print, cut, and what came of it."""

import asyncio
from collections.abc import AsyncIterator

from fastapi import APIRouter, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import BaseModel

from perisect.api.problems import Problem
from perisect.api.sheets import plan_with_sheet
from perisect.api.views import PrintView, RunView, print_view, run_view
from perisect.core.job import JobRecipe
from perisect.store import blobs, jobs, runs, stock_tone
from perisect.store.database import transaction
from perisect.store.models import Print, Run
from perisect.tasks.queue import defer

router = APIRouter(tags=["shop"])

POLL_S = 0.2


class PrintOrder(BaseModel):
    """Which sheet (from 1)."""

    sheet: int = 1


@router.post("/api/jobs/{job_id}/prints", status_code=202)
def post_print(job_id: int, order: PrintOrder) -> PrintView:
    """Send a sheet to the printer."""
    plan = plan_with_sheet(job_id, order.sheet)
    with transaction() as session:
        job = jobs.get(session, job_id)
        sheet = Print(
            job_id=job_id,
            step=job.cursor,
            sheet=order.sheet - 1,
            recipe=plan.frozen().model_dump(mode="json"),
            state="queued",
            tone=stock_tone.of_stock(session, plan.recipe.sheet.on.id).tone.model_dump(mode="json"),
        )
        session.add(sheet)
        session.flush()
        session.refresh(sheet)
        view = print_view(sheet, plan.frozen())
    defer("print_sheet", print_id=view.id)
    return view


@router.get("/api/prints/{print_id}")
def get_print(print_id: int) -> PrintView:
    """How a print stands."""
    with transaction() as session:
        sheet = _print(session.get(Print, print_id))
        return print_view(sheet, JobRecipe.model_validate(sheet.recipe))


@router.get("/api/prints/{print_id}/printed.png", response_class=Response)
def get_printed(print_id: int) -> Response:
    """The printed sheet."""
    with transaction() as session:
        name = _print(session.get(Print, print_id)).picture
    return _picture(name)


@router.post("/api/prints/{print_id}/cuts", status_code=202)
def post_cut(print_id: int) -> RunView:
    """Cut a printed sheet. There is one plotter: while it cuts, another run gets 409."""
    with transaction() as session:
        sheet = _print(session.get(Print, print_id))
        if sheet.state != "printed":
            raise Problem(409, "This sheet is not printed.", "Print it first.")
        if (busy := runs.running(session)) is not None:
            raise Problem(
                409,
                f"The plotter is busy with job {busy.job_id}.",
                "Wait until it is done or cancel that cut.",
            )
        run = Run(
            print_id=sheet.id, job_id=sheet.job_id, state="queued", lines_done=0, lines_total=0, cancel=False
        )
        session.add(run)
        session.flush()
        session.refresh(run)
        view = run_view(run, sheet.sheet)
    defer("cut_sheet", run_id=view.id)
    return view


@router.get("/api/runs/{run_id}")
def get_run(run_id: int) -> RunView:
    """How a run stands."""
    view = _run_view(run_id)
    if view is None:
        raise Problem(404, f"There is no run {run_id}.", "Open the job's log.")
    return view


@router.post("/api/runs/{run_id}/cancel")
def post_cancel(run_id: int) -> RunView:
    """Stop a run after the line it is cutting."""
    with transaction() as session:
        run = runs.get_run(session, run_id)
        if run is None:
            raise Problem(404, f"There is no run {run_id}.", "Open the job's log.")
        if run.state == "queued":
            run.state, run.message, run.finished_at = (
                "cancelled",
                "You cancelled before it began.",
                run.heartbeat_at,
            )
        run.cancel = True
    return get_run(run_id)


@router.get("/api/runs/{run_id}/events", response_class=EventSourceResponse)
async def get_run_events(run_id: int) -> AsyncIterator[ServerSentEvent]:
    """The run each time it changes, until it is over."""
    before = None
    while (view := await run_in_threadpool(_run_view, run_id)) is not None:
        if view != before:
            yield ServerSentEvent(data=view, event="run")
            before = view
        if view.state in runs.FINISHED:
            return
        await asyncio.sleep(POLL_S)


@router.get("/api/runs/{run_id}/cut.png", response_class=Response)
def get_cut_picture(run_id: int) -> Response:
    """The printed sheet with the cuts that were really made."""
    with transaction() as session:
        run = session.get(Run, run_id)
        name = run.picture if run else None
    return _picture(name)


def _run_view(run_id: int) -> RunView | None:
    with transaction() as session:
        run = runs.get_run(session, run_id)
        return None if run is None else run_view(run, session.get_one(Print, run.print_id).sheet)


def _print(sheet: Print | None) -> Print:
    if sheet is None:
        raise Problem(404, "There is no such print.", "Print the sheet again.")
    return sheet


def _picture(name: str | None) -> Response:
    data = blobs.get(name) if name else None
    if data is None:
        raise Problem(404, "There is no picture of this yet.", "Wait until it is done.")
    return Response(data, media_type="image/png", headers={"Cache-Control": "private, max-age=86400"})
