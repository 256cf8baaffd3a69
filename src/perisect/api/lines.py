"""Station 2: lines while a slider moves. Nothing is kept here."""

from fastapi import APIRouter
from pydantic import BaseModel

from perisect.api.views import LinesView, lines_view
from perisect.core.artwork import MendRecipe
from perisect.core.job import DesignRecipe
from perisect.core.job.recipe import BorderMm, LongestMm, PeelMm, Sha256
from perisect.core.lines.check import line_findings
from perisect.store import artwork
from perisect.tasks.artwork import traced

router = APIRouter(prefix="/api/lines", tags=["lines"])


class LinesQuestion(BaseModel):
    """One picture at one size with its border and peel margin."""

    artwork: Sha256
    mend: MendRecipe = MendRecipe()
    longest_mm: LongestMm
    border_mm: BorderMm
    peel_mm: PeelMm | None = None
    design: str = "design"
    name: str = "This art"


@router.post("")
def post_lines(question: LinesQuestion) -> LinesView:
    """Kiss and through lines of a design that need not be kept."""
    design = DesignRecipe(
        id="preview",
        name="preview",
        artwork=question.artwork,
        mend=question.mend,
        longest_mm=question.longest_mm,
        border_mm=question.border_mm,
        peel_mm=question.peel_mm,
    )
    lines = artwork.lines(traced(design), design)
    return lines_view(lines, line_findings(question.design, question.name, lines, question.border_mm))
