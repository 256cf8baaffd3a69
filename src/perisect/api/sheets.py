"""Station 3: filled sheets, and what people ask of them."""

from collections import Counter
from collections.abc import Mapping
from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field

from perisect.api.problems import Problem
from perisect.api.sheet_views import SheetsView, sheets_view
from perisect.api.views import OperationView, operation_view
from perisect.api.waiting import WaitS, ended
from perisect.core.job import JobPlan, JobRecipe
from perisect.core.job.grown import grown
from perisect.core.job.questions import largest_size, order_answer
from perisect.core.job.recipe import DesignRecipe
from perisect.core.ledger.spares import RejectLog
from perisect.core.sheet.recipe import DesignId, PlacementRecipe, SheetRecipe
from perisect.services.learned import history_at
from perisect.services.operations import ask_for_nest, ask_for_nested_size
from perisect.services.plans import plan as plan_recipe
from perisect.services.rest import cost, rest
from perisect.store import artwork, runs
from perisect.store.database import transaction
from perisect.store.models import Operation

router = APIRouter(tags=["sheets"])


OfJob = Annotated[int | None, Query(ge=1, le=2**31 - 1, description="Whose events are to tell of it")]


@router.post("/api/sheets")
def post_sheets(recipe: JobRecipe) -> SheetsView:
    """Fill sheets for a recipe that need not be kept."""
    with transaction() as session:
        history = history_at(session, recipe.sheet.cut_by.id)
    return sheets_view(plan_recipe(recipe), history)


@router.post("/api/sheets/nest", status_code=202)
async def post_nest(
    recipe: JobRecipe, wait_s: WaitS, job: OfJob = None, in_full: bool = False
) -> OperationView:
    """Search the nest of a recipe; stopped with the best, the best so far stands. With `in_full` a nest that was cut
    short is searched again."""
    return operation_view(await ended(await run_in_threadpool(ask_for_nest, recipe, job, in_full), wait_s))


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


@router.post("/api/sheets/nested-size", status_code=202)
async def post_nested_size(question: SheetQuestion, wait_s: WaitS, job: OfJob = None) -> OperationView:
    """Have it found out how large a design can be so that `up` of it are nested on one sheet; a quarter of a
    minute."""
    if question.design not in {design.id for design in question.recipe.designs}:
        raise Problem(404, "This job has no such piece.", "Choose one of its pieces.")
    asked = await run_in_threadpool(ask_for_nested_size, question.recipe, question.design, question.up, job)
    return operation_view(await ended(asked, wait_s))


@router.get("/api/sheets/nested-size/{operation_id}")
def get_nested_size(operation_id: int) -> NestedSize:
    """What was found out."""
    with transaction() as session:
        found = session.get(Operation, operation_id)
    if found is None or found.kind != "nested_size" or found.result is None:
        raise Problem(404, "There is no such answer yet.", "Ask again.")
    return NestedSize.model_validate(found.result)


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
LEAST_SHEETS = 3
"""Counted ones, before what a sheet does to all of its stickers is read off them."""


@router.post("/api/sheets/questions")
def post_questions(question: SheetQuestion) -> SheetAnswer:
    """Answer what people ask of a sheet before they print it. Nothing is kept."""
    plan = plan_recipe(question.recipe).plan
    with transaction() as session:
        good, bad = runs.counted(session)
        sheets = runs.counted_sheets(session)
    enough = good + bad >= LEAST_COUNTED
    usual = bad / (good + bad) if enough else USUAL_REJECTS
    share = min(0.9, usual) if question.reject_share is None else question.reject_share
    if question.design not in plan.lines:
        raise Problem(404, "This job has no such piece.", "Choose one of its pieces.")
    by_sheet = question.reject_share is None and len(sheets) >= LEAST_SHEETS
    answer = order_answer(plan, question.orders, share, RejectLog(sheets) if by_sheet else None)
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


@router.post("/api/sheets/grown")
def post_grown(recipe: JobRecipe) -> dict[DesignId, float]:
    """The longest side of each piece, mm, when all are grown alike until the card is full."""
    if recipe.sheet.card is None:
        raise Problem(422, "There is no card to fill.", "Put the pieces on a card first.")
    larger = grown(recipe, lambda tried: _is_whole(plan_recipe(tried).plan))
    return {design.id: design.longest_mm for design in larger.designs}


def _is_whole(plan: JobPlan) -> bool:
    return plan.cards is not None and not plan.cards.missing and bool(plan.cards.by_sheet)


class OfferView(BaseModel):
    """More of a design on the last sheet, where there is room; `recipe` is the design's when it is not in the
    job yet."""

    design: str
    name: str
    more: int
    placements: list[PlacementRecipe]
    recipe: DesignRecipe | None


@router.post("/api/sheets/rest")
def post_rest(recipe: JobRecipe) -> list[OfferView]:
    """What fits on what is left of the last sheet: more of the job's pieces, or small ones of other jobs."""
    return [
        OfferView(
            design=offer.design,
            name=design.name,
            more=len(offer.placements),
            placements=list(offer.placements),
            recipe=None if known else design,
        )
        for offer, design, known in rest(recipe)
    ]
