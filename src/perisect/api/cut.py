"""Stations 5 and 6: cuts, and what was measured on them."""

from fastapi import APIRouter, Response

from perisect.api.print import picture
from perisect.api.problems import Problem
from perisect.api.views import RunView, run_view
from perisect.services.cutting import ask_for_cut
from perisect.store import runs
from perisect.store.database import transaction
from perisect.store.models import Print, Run

router = APIRouter(tags=["cut"])


@router.post("/api/prints/{print_id}/cuts", status_code=202)
def post_cut(print_id: int) -> RunView:
    """Cut a printed sheet at its plotter. While that cuts, another run gets 409."""
    run, sheet = ask_for_cut(print_id)
    return run_view(run, sheet)


@router.get("/api/runs/{run_id}")
def get_run(run_id: int) -> RunView:
    """How a run stands."""
    with transaction() as session:
        run = _there(session.get(Run, run_id), run_id)
        return run_view(run, session.get_one(Print, run.print_id).sheet)


@router.post("/api/runs/{run_id}/cancel")
def post_cancel(run_id: int) -> RunView:
    """Stop a run after the line it is cutting."""
    with transaction() as session:
        run = _there(runs.cancel(session, run_id), run_id)
        return run_view(run, session.get_one(Print, run.print_id).sheet)


@router.get("/api/runs/{run_id}/cut.png", response_class=Response)
def get_cut_picture(run_id: int) -> Response:
    """The printed sheet with the cuts that were really made."""
    with transaction() as session:
        name = _there(session.get(Run, run_id), run_id).picture
    return picture(name)


def _there(run: Run | None, run_id: int) -> Run:
    if run is None:
        raise Problem(404, f"There is no run {run_id}.", "Open the job's log.")
    return run
