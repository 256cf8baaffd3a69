"""How a printer is set for a stock: the card, its tick of the day, and where card and job disagree."""

from datetime import UTC, datetime

from fastapi import APIRouter, Response
from pydantic import BaseModel

from perisect.api.versions import IfMatch, expected
from perisect.core.finding import Finding
from perisect.core.job import JobRecipe
from perisect.core.job.bleed_check import TOUCHING_MM
from perisect.core.prepress.film import film_box
from perisect.core.prepress.setup_card import (
    CardJob,
    SetupCard,
    card_findings,
    card_pdf,
    is_ticked,
    side_test_pdf,
)
from perisect.services.plans import plan
from perisect.store import jobs, setup_cards
from perisect.store.database import transaction
from perisect.store.versions import version_of

router = APIRouter(prefix="/api/jobs/{job_id}/card", tags=["print"])


class SetUpView(BaseModel):
    """The card of a job's printer and stock, and where it and the job disagree."""

    printer: str
    stock: str
    card: SetupCard
    ticked: bool
    """Whether somebody said within a day that the printer is set so."""
    ticked_at: datetime | None
    film_box_mm: tuple[float, float, float, float] | None
    """Left, top, right, bottom of film that leaves the marks bare, sheet mm."""
    findings: list[Finding]
    version: str
    """Version of the card."""


@router.get("")
def get_card(job_id: int) -> SetUpView:
    """The card as it stands."""
    recipe = _recipe(job_id)
    with transaction() as session:
        card, ticked_at = setup_cards.get(session, recipe.sheet)
    bleeds = any(
        each.lines.bleed_mm > 0 and each.lines.border_colour is None and each.border_mm >= TOUCHING_MM
        for each in recipe.designs
    )
    return SetUpView(
        printer=recipe.sheet.printed_by.name,
        stock=recipe.sheet.on.name,
        card=card,
        ticked=is_ticked(ticked_at, datetime.now(UTC)),
        ticked_at=ticked_at,
        film_box_mm=film_box(plan(recipe).plan.area),
        findings=card_findings(card, CardJob(recipe.sheet.on, bleeds)),
        version=version_of(card.model_dump(mode="json")),
    )


@router.put("")
def put_card(job_id: int, card: SetupCard, if_match: IfMatch = None) -> SetUpView:
    """Set the card; the printer is not set so yet."""
    recipe = _recipe(job_id)
    with transaction() as session:
        setup_cards.save(session, recipe.sheet, card, expected(if_match))
    return get_card(job_id)


@router.post("/tick")
def post_tick(job_id: int) -> SetUpView:
    """Say that the printer is set as the card says."""
    recipe = _recipe(job_id)
    with transaction() as session:
        setup_cards.tick(session, recipe.sheet)
    return get_card(job_id)


@router.get("/card.pdf", response_class=Response)
def get_card_file(job_id: int) -> Response:
    """The card to hang at the printer."""
    recipe = _recipe(job_id)
    with transaction() as session:
        card, _ = setup_cards.get(session, recipe.sheet)
    return _pdf(card_pdf(card, recipe.sheet.printed_by.name, recipe.sheet.on))


@router.get("/side.pdf", response_class=Response)
def get_side_test(job_id: int) -> Response:
    """A page that tells which side of a marked plain sheet is printed."""
    return _pdf(side_test_pdf(_recipe(job_id).sheet.on))


def _recipe(job_id: int) -> JobRecipe:
    with transaction() as session:
        return jobs.recipe(session, jobs.get(session, job_id))


def _pdf(data: bytes) -> Response:
    return Response(data, media_type="application/pdf", headers={"Content-Disposition": "inline"})
