"""Station 2: lines while a slider moves. Nothing is kept here."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from perisect.api.lines_view import LinesView, MovingLinesView, lines_view, moving_view
from perisect.core.artwork import MendRecipe
from perisect.core.job import DesignRecipe, TracedArtwork
from perisect.core.job.bleed_check import bleed_findings
from perisect.core.job.recipe import BorderMm, DesignName, LongestMm, PeelMm, Sha256
from perisect.core.lines import LineRecipe
from perisect.core.lines.check import line_findings
from perisect.core.lines.material import FaceName, Tooling
from perisect.core.sheet.recipe import DesignId
from perisect.services.pictures import traced
from perisect.store import artwork

router = APIRouter(prefix="/api/lines", tags=["lines"])


class LinesQuestion(BaseModel):
    """One picture at one size with its border and peel margin, cut in a face with a knife."""

    artwork: Sha256
    mend: MendRecipe = MendRecipe()
    longest_mm: LongestMm
    border_mm: BorderMm
    peel_mm: PeelMm | None = None
    lines: LineRecipe = LineRecipe()
    face: FaceName = "paper"
    knife_offset_mm: Annotated[float, Field(ge=0, le=1.5, allow_inf_nan=False)] = 0.25
    design: DesignId = "design"
    name: DesignName = "This art"


@router.post("")
def post_lines(question: LinesQuestion) -> LinesView:
    """Kiss and through lines of a design that need not be kept."""
    design, picture, tooling = _asked(question)
    lines = artwork.lines(picture, design, tooling)
    found = line_findings(design.id, design.name, lines, design.border_mm)
    return lines_view(lines, design, [*found, *bleed_findings(design, picture, lines)])


@router.post("/moving")
def post_moving_lines(question: LinesQuestion) -> MovingLinesView:
    """The same while something moves: as closely as a screen shows them, not fitted with curves, without what is
    measured along them."""
    if not question.lines.nodes:
        unfitted = question.lines.model_copy(update={"fit_mm": 0.0})
        question = question.model_copy(update={"lines": unfitted})
    design, _, tooling = _asked(question)
    return moving_view(artwork.moving_lines(design, tooling), design)


def _asked(question: LinesQuestion) -> tuple[DesignRecipe, TracedArtwork, Tooling]:
    design = DesignRecipe(
        id=question.design,
        name=question.name,
        artwork=question.artwork,
        mend=question.mend,
        longest_mm=question.longest_mm,
        border_mm=question.border_mm,
        peel_mm=question.peel_mm,
        lines=question.lines,
    )
    return design, traced(design), Tooling(question.face, question.knife_offset_mm)
