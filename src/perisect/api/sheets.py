"""Stations 3 and 4: filled sheets and their files."""

from typing import Literal

from fastapi import APIRouter, Response

from perisect.api.problems import Problem
from perisect.api.views import LineTotalView, SheetsView, line_totals_view, sheets_view
from perisect.core.job import JobPlan, JobRecipe
from perisect.core.job.files import CUT_MEDIA_TYPES, CUT_WRITERS
from perisect.store import jobs, stock_tone
from perisect.store.database import transaction
from perisect.tasks.artwork import plan as plan_recipe
from perisect.tasks.artwork import sheet_pdf

router = APIRouter(tags=["sheets"])


@router.post("/api/sheets")
def post_sheets(recipe: JobRecipe) -> SheetsView:
    """Fill sheets for a recipe that need not be kept."""
    return sheets_view(plan_recipe(recipe))


def plan_with_sheet(job_id: int, number: int) -> JobPlan:
    """The job's plan, which has a sheet of this number (from 1).

    Raises:
        Problem: it has not.
    """
    with transaction() as session:
        plan = plan_recipe(jobs.recipe(session, jobs.get(session, job_id)))
    if not 1 <= number <= len(plan.sheets.sheets):
        raise Problem(404, f"This job has no sheet {number}.", f"It has {len(plan.sheets.sheets)}.")
    return plan


@router.get("/api/jobs/{job_id}/sheets/{number}/print.pdf", response_class=Response)
def get_print_file(job_id: int, number: int) -> Response:
    """The print file of a sheet (from 1)."""
    plan = plan_with_sheet(job_id, number)
    with transaction() as session:
        tone = stock_tone.of_stock(session, plan.recipe.sheet.stock).tone
    pdf = sheet_pdf(plan, number - 1, tone)
    return _download(pdf, "application/pdf", f"job-{job_id}-sheet-{number:02d}.print.pdf")


@router.get("/api/jobs/{job_id}/sheets/{number}/cut.{kind}", response_class=Response)
def get_cut_file(job_id: int, number: int, kind: Literal["svg", "dxf", "hpgl"]) -> Response:
    """A cut file of a sheet (from 1)."""
    text = CUT_WRITERS[kind](plan_with_sheet(job_id, number).cut_sheet(number - 1))
    return _download(text.encode(), CUT_MEDIA_TYPES[kind], f"job-{job_id}-sheet-{number:02d}.cut.{kind}")


@router.get("/api/jobs/{job_id}/sheets/{number}/lines")
def get_line_totals(job_id: int, number: int) -> dict[str, LineTotalView]:
    """Count and length of a sheet's lines by process."""
    return line_totals_view(plan_with_sheet(job_id, number), number - 1)


def _download(data: bytes, media_type: str, name: str) -> Response:
    return Response(
        data, media_type=media_type, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )
