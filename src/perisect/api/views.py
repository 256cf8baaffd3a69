"""What the API answers with. Lengths in mm, places in sheet or design coordinates as named."""

from datetime import datetime
from typing import Any

from pydantic import BaseModel
from sqlalchemy.orm import Session

from perisect.api.artwork_views import ArtworkView, artwork_view
from perisect.api.sheet_views import SheetsView, sheets_view
from perisect.core.finding import Finding
from perisect.core.job import JobPlan, JobRecipe
from perisect.core.units import ppi
from perisect.store import jobs, runs
from perisect.store.jobs import StaleRevision
from perisect.store.models import Job, Print, Run
from perisect.tasks.artwork import plan as plan_recipe


class DesignView(BaseModel):
    """What follows from one design's recipe."""

    id: str
    artwork: ArtworkView
    width_mm: float
    height_mm: float
    ppi: float
    placed: int


class PrintView(BaseModel):
    """A printed sheet; `current` when it was made from the recipe that holds now."""

    id: int
    sheet: int
    step: int
    state: str
    message: str | None
    current: bool
    created_at: datetime


class RunView(BaseModel):
    """A cut and what was measured."""

    id: int
    print_id: int
    sheet: int
    state: str
    message: str | None
    lines_done: int
    lines_total: int
    registration: dict[str, Any] | None
    seconds: float | None
    slips: list[dict[str, Any]] | None
    slip_largest_mm: float | None
    slip_mean_mm: float | None
    good: int | None
    bad: int | None
    has_picture: bool
    created_at: datetime
    finished_at: datetime | None


class JobSummary(BaseModel):
    """A job in the list."""

    id: int
    title: str
    designs: int
    updated_at: datetime


class JobView(BaseModel):
    """A job and everything that follows from its recipe."""

    id: int
    title: str
    revision: int
    step: int
    step_label: str
    kept_at: datetime
    can_undo: bool
    can_redo: bool
    recipe: JobRecipe
    designs: list[DesignView]
    sheets: SheetsView
    findings: list[Finding]
    prints: list[PrintView]
    runs: list[RunView]


class RecipeConflict(BaseModel):
    """The version that somebody else kept."""

    revision: int
    step: int
    recipe: JobRecipe


def recipe_conflict(error: StaleRevision) -> RecipeConflict:
    """The other version of a stale write."""
    return RecipeConflict(revision=error.revision, step=error.step, recipe=error.recipe)


def design_views(plan: JobPlan) -> list[DesignView]:
    """The designs with what was computed of them."""
    placed: dict[str, int] = {}
    for sheet in plan.sheets.sheets:
        for placement in sheet:
            placed[placement.key] = placed.get(placement.key, 0) + 1
    views = []
    for design in plan.recipe.designs:
        traced, lines = plan.artworks[design.id], plan.lines[design.id]
        views.append(
            DesignView(
                id=design.id,
                artwork=artwork_view(design.artwork, design.picture, traced),
                width_mm=lines.width_mm,
                height_mm=lines.height_mm,
                ppi=ppi(traced.outline.longest_px / design.mend.enlarge, design.longest_mm),
                placed=placed.get(design.id, 0),
            )
        )
    return views


def print_view(sheet: Print, recipe: JobRecipe) -> PrintView:
    """A print; it is current as long as the recipe it was made from holds."""
    return PrintView(
        id=sheet.id,
        sheet=sheet.sheet,
        step=sheet.step,
        state=sheet.state,
        message=sheet.message,
        current=JobRecipe.model_validate(sheet.recipe) == recipe,
        created_at=sheet.created_at,
    )


def run_view(run: Run, sheet: int) -> RunView:
    """A run of a print of sheet `sheet`."""
    fields = {
        name: getattr(run, name) for name in RunView.model_fields if name not in ("sheet", "has_picture")
    }
    return RunView(**fields, sheet=sheet, has_picture=run.picture is not None)


def job_view(session: Session, job: Job) -> JobView:
    """A job worked out."""
    step = jobs.step(session, job)
    recipe = JobRecipe.model_validate(step.recipe)
    plan = plan_recipe(recipe)
    prints = runs.prints_of(session, job.id)
    printable = plan.frozen()
    sheet_of = {sheet.id: sheet.sheet for sheet in prints}
    return JobView(
        id=job.id,
        title=job.title,
        revision=job.revision,
        step=step.number,
        step_label=step.label,
        kept_at=job.updated_at,
        can_undo=step.parent is not None,
        can_redo=jobs.newest_child(session, job) is not None,
        recipe=recipe,
        designs=design_views(plan),
        sheets=sheets_view(plan),
        findings=list(plan.findings),
        prints=[print_view(sheet, printable) for sheet in prints],
        runs=[run_view(run, sheet_of[run.print_id]) for run in runs.runs_of(session, job.id)],
    )
