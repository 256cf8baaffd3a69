"""Stations 3 and 4: filled sheets and their files."""

from collections import Counter
from collections.abc import Mapping
from typing import Annotated, Literal

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from perisect.api.problems import Problem
from perisect.api.sheet_views import LineTotalView, SheetsView, line_totals_view, sheets_view
from perisect.api.tickets import TAKES_A_WHILE
from perisect.core.job import JobPlan, JobRecipe
from perisect.core.job.files import CUT_MEDIA_TYPES, CUT_WRITERS
from perisect.core.job.questions import largest_size, order_answer
from perisect.core.job.recipe import DesignId, DesignRecipe, SheetRecipe, StandRecipe
from perisect.store import artwork, jobs, runs, stock_tone
from perisect.store.database import transaction
from perisect.tasks.artwork import plan as plan_recipe
from perisect.tasks.artwork import sheet_pdf
from perisect.tasks.nest import largest_nested, nested_plan
from perisect.tasks.rest import cost, rest

router = APIRouter(tags=["sheets"])


@router.post("/api/sheets")
def post_sheets(recipe: JobRecipe) -> SheetsView:
    """Fill sheets for a recipe that need not be kept."""
    return sheets_view(plan_recipe(recipe))


@router.post("/api/sheets/nest", dependencies=TAKES_A_WHILE)
def post_nest(recipe: JobRecipe) -> SheetsView:
    """Search the nest of a recipe, unless it is kept already; cancelled, the best so far stands."""
    return sheets_view(nested_plan(recipe))


class SheetQuestion(BaseModel):
    """How large `design` can be so that `up` fit; what to print for `orders` with a share of rejects, which is
    that of the log when none is given."""

    recipe: JobRecipe
    design: DesignId
    up: Annotated[int, Field(ge=1, le=1000)] = 12
    orders: Annotated[dict[DesignId, Annotated[int, Field(ge=0, le=1_000_000)]], Field(max_length=60)] = {}
    reject_share: Annotated[float, Field(ge=0, le=0.9, allow_inf_nan=False)] | None = None


class NestedSize(BaseModel):
    """The longest side at which so many were nested on a sheet, and the sheet they were nested on; None where so
    many never fit."""

    largest_mm: float | None
    sheet: SheetRecipe | None


@router.post("/api/sheets/nested-size", dependencies=TAKES_A_WHILE)
def post_nested_size(question: SheetQuestion) -> NestedSize:
    """How large a design can be so that `up` of it are nested on one sheet; a quarter of a minute."""
    try:
        found = largest_nested(question.recipe, question.design, question.up)
    except KeyError as error:
        raise Problem(404, "This job has no such piece.", "Choose one of its pieces.") from error
    if found is None:
        return NestedSize(largest_mm=None, sheet=None)
    return NestedSize(largest_mm=found[0], sheet=found[1].sheet)


class CostView(BaseModel):
    """Prices in the shop's own money; `each` is that of one sticker."""

    stock: float
    ink: float
    total: float
    each: float


class SheetAnswer(BaseModel):
    """Answers; `largest_mm` is None where so many never fit. `left_out` do not fit the most sheets of a job."""

    largest_mm: float | None
    reject_share: float
    counted: int
    """Stickers that the log's share of rejects comes from; 0 when it is only a usual one."""
    to_print: dict[str, int]
    sheets: int
    left_out: int
    cards: int | None
    """Cards to print, of a job of theme sheets."""
    order_cost: CostView
    plan_cost: CostView
    """Of the order, and of the sheets as they stand."""


USUAL_REJECTS = 0.03
LEAST_COUNTED = 30


@router.post("/api/sheets/questions")
def post_questions(question: SheetQuestion) -> SheetAnswer:
    """Answer what people ask of a sheet before they print it. Nothing is kept."""
    plan = plan_recipe(question.recipe)
    with transaction() as session:
        good, bad = runs.counted(session)
    enough = good + bad >= LEAST_COUNTED
    usual = bad / (good + bad) if enough else USUAL_REJECTS
    share = min(0.9, usual) if question.reject_share is None else question.reject_share
    if question.design not in plan.lines:
        raise Problem(404, "This job has no such piece.", "Choose one of its pieces.")
    answer = order_answer(plan, question.orders, share)
    return SheetAnswer(
        largest_mm=largest_size(plan, question.design, question.up, artwork.lines),
        reject_share=share,
        counted=good + bad if enough else 0,
        to_print=dict(answer.to_print),
        sheets=answer.sheets,
        left_out=answer.left_out,
        cards=answer.cards,
        order_cost=_cost(plan, answer.sheets, answer.to_print),
        plan_cost=_cost(plan, len(plan.sheets.sheets), Counter(p.key for s in plan.sheets.sheets for p in s)),
    )


def _cost(plan: JobPlan, sheets: int, copies: Mapping[str, int]) -> CostView:
    found = cost(plan, sheets, copies)
    return CostView(stock=found.stock, ink=found.ink, total=found.total, each=found.each)


class OfferView(BaseModel):
    """More of a design on the last sheet, where there is room; `recipe` is the design's when it is not in the
    job yet."""

    design: str
    name: str
    more: int
    stands: list[StandRecipe]
    recipe: DesignRecipe | None


@router.post("/api/sheets/rest")
def post_rest(recipe: JobRecipe) -> list[OfferView]:
    """What fits on what is left of the last sheet: more of the job's pieces, or small ones of other jobs."""
    return [
        OfferView(
            design=offer.design,
            name=design.name,
            more=len(offer.stands),
            stands=list(offer.stands),
            recipe=None if known else design,
        )
        for offer, design, known in rest(recipe)
    ]


def plan_with_sheet(job_id: int, number: int) -> JobPlan:
    """The job's plan, which has a sheet of this number (from 1).

    Raises:
        Problem: it has not.
    """
    with transaction() as session:
        recipe = jobs.recipe(session, jobs.get(session, job_id))
    plan = nested_plan(recipe)
    if not 1 <= number <= len(plan.sheets.sheets):
        raise Problem(404, f"This job has no sheet {number}.", f"It has {len(plan.sheets.sheets)}.")
    return plan


@router.get("/api/jobs/{job_id}/sheets/{number}/print.pdf", response_class=Response)
def get_print_file(job_id: int, number: int) -> Response:
    """The print file of a sheet (from 1)."""
    plan = plan_with_sheet(job_id, number)
    with transaction() as session:
        tone = stock_tone.of_stock(session, plan.recipe.sheet.on.id).tone
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
