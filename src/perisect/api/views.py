"""What the API answers with of a job. Lengths in mm, places in sheet or design coordinates as named."""

from collections import Counter
from datetime import datetime
from typing import Literal

from pydantic import BaseModel

from perisect.api.artwork_views import ArtworkView, artwork_view
from perisect.api.run_views import RunView, run_view
from perisect.api.sheet_views import SheetsView, sheets_view
from perisect.core.cutting.run_state import OVER
from perisect.core.finding import Finding
from perisect.core.job import JobRecipe
from perisect.core.units import ppi
from perisect.services.job_view import JobNow, QueuedPrint
from perisect.services.plans import Planned
from perisect.store.job_list import JobRow, Stage
from perisect.store.models import Operation, Step
from perisect.store.prints import Way

PrintState = Literal["queued", "printing", "unknown", "out", "printed", "failed", "cancelled", "spoiled"]
OperationState = Literal["queued", "working", "done", "failed", "cancelled"]
OperationKind = Literal["nest", "nested_size", "change", "picture", "day"]


WHOLE_RUNS = 2
"""A job brings what was measured at each sticker of so many of its runs, the newest, and of those under way."""


class DesignView(BaseModel):
    """What follows from one design's recipe."""

    id: str
    artwork: ArtworkView
    width_mm: float
    height_mm: float
    ppi: float
    placed: int


class PrintView(BaseModel):
    """A print; `current` when it was made from the recipe that holds now, `waiting` says what it waits for."""

    id: int
    job: int
    sheet: int
    step: int
    printer: str
    state: PrintState
    way: Way | Literal["bare"]
    """How it came to paper; a bare sheet is cut and not printed."""
    message: str | None
    waiting: str | None
    current: bool
    batch: str | None
    copy_number: int
    copies: int
    name: str
    """Whose copy it is; empty when it is nobody's."""
    created_at: datetime
    finished_at: datetime | None


class ProblemView(BaseModel):
    """Why something did not go: as the API would have refused it."""

    status: int
    title: str
    detail: str
    current: "RecipeConflict | None" = None


class OperationView(BaseModel):
    """Long work that somebody asked for; `subject` is what it is about in words, `share` about how far it is."""

    id: int
    kind: OperationKind
    job: int | None
    subject: str
    state: OperationState
    doing: str
    share: float
    design: str | None
    """The piece that was made of a picture."""
    problem: ProblemView | None
    created_at: datetime


class JobSummary(BaseModel):
    """A job in the list."""

    id: int
    title: str
    designs: int
    recipe_hash: str
    pictures: list[str]
    """Of its first pieces, by name."""
    stage: Stage
    """Which work it waits for."""
    under_way: str
    printed: int
    cut: int
    counted: int
    orders: list[str]
    due_at: datetime | None
    archived_at: datetime | None
    updated_at: datetime


class StepView(BaseModel):
    """A kept step of a job; one that is `aside` was given up for another version."""

    number: int
    parent: int | None
    label: str
    aside: bool
    current: bool
    created_at: datetime


class OrderLineView(BaseModel):
    """How a piece stands in its order: `more` are to be printed beside what is under way, `spare` are good beyond what
    is wanted."""

    design: str
    wanted: int
    good: int
    bad: int
    uncounted: int
    to_cut: int
    more: int
    spare: int


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
    redo_label: str | None
    """Label of the step that redo returns to."""
    recipe: JobRecipe
    designs: list[DesignView]
    sheets: SheetsView
    findings: list[Finding]
    prints: list[PrintView]
    way: Way
    """How sheets of its printer came to paper last."""
    runs: list[RunView]
    order: list[OrderLineView]
    operations: list[OperationView]


class RecipeConflict(BaseModel):
    """The version that somebody else kept; `aside` is the step under which the one that came too late is kept."""

    revision: int
    step: int
    recipe: JobRecipe
    aside: int | None = None


def design_views(planned: Planned) -> list[DesignView]:
    """The designs with what was computed of them."""
    plan = planned.plan
    placed = Counter(placement.key for sheet in plan.sheets.sheets for placement in sheet)
    views = []
    for design in plan.recipe.designs:
        traced, lines = plan.artworks[design.id], plan.lines.get(design.id)
        left, top, right, bottom = traced.outline.box_px
        mm = design.longest_mm / max(right - left, bottom - top, 1e-9)
        views.append(
            DesignView(
                id=design.id,
                artwork=artwork_view(design.artwork, design.picture, traced),
                width_mm=(right - left) * mm if lines is None else lines.width_mm,
                height_mm=(bottom - top) * mm if lines is None else lines.height_mm,
                ppi=ppi(traced.outline.longest_px / design.mend.enlarge, design.longest_mm),
                placed=placed[design.id],
            )
        )
    return views


def print_view(queued: QueuedPrint, made_key: str) -> PrintView:
    """Describe a print; it is current while the job still makes what it was made from."""
    row = queued.row
    return PrintView(
        id=row.id,
        job=row.job_id,
        sheet=row.sheet,
        step=row.step,
        printer=row.printer,
        state=row.state,  # type: ignore[arg-type]
        way=row.way,  # type: ignore[arg-type]
        message=row.message,
        waiting=queued.waiting,
        current=row.made_key == made_key,
        batch=row.batch,
        copy_number=row.copy,
        copies=row.copies,
        name=row.name,
        finished_at=row.finished_at,
        created_at=row.created_at,
    )


def operation_view(operation: Operation) -> OperationView:
    """An operation for the screen."""
    request, result = operation.request or {}, operation.result or {}
    return OperationView(
        id=operation.id,
        kind=operation.kind,  # type: ignore[arg-type]
        job=operation.job_id,
        subject=str(request.get("name") or request.get("label") or operation.kind.replace("_", " ")),
        state=operation.state,  # type: ignore[arg-type]
        doing=operation.doing or ("Waiting for a worker" if operation.state == "queued" else ""),
        share=operation.share,
        design=result.get("design"),
        problem=None if operation.problem is None else ProblemView.model_validate(operation.problem),
        created_at=operation.created_at,
    )


def summary(row: JobRow) -> JobSummary:
    """A job in the list."""
    return JobSummary(
        id=row.id,
        title=row.title,
        designs=row.designs,
        recipe_hash=row.recipe_hash,
        pictures=row.pictures,
        stage=row.stage,
        under_way=row.under_way,
        printed=row.prints,
        cut=row.cut,
        counted=row.counted,
        orders=row.orders,
        due_at=row.due_at,
        archived_at=row.archived_at,
        updated_at=row.updated_at,
    )


def step_view(step: Step, cursor: int) -> StepView:
    """A step in the list of them."""
    return StepView(
        number=step.number,
        parent=step.parent,
        label=step.label,
        aside=step.aside,
        current=step.number == cursor,
        created_at=step.created_at,
    )


def job_view(now: JobNow) -> JobView:
    """A job worked out."""
    sheet_of = {queued.row.id: queued.row.sheet for queued in now.prints}
    return JobView(
        id=now.job.id,
        title=now.job.title,
        revision=now.job.revision,
        step=now.step.number,
        step_label=now.step.label,
        kept_at=now.job.updated_at,
        can_undo=now.step.parent is not None,
        can_redo=now.redo_label is not None,
        redo_label=now.redo_label,
        recipe=now.recipe,
        designs=design_views(now.planned),
        sheets=sheets_view(now.planned, now.history, in_order=True),
        findings=list(now.planned.findings),
        prints=[print_view(queued, now.planned.made_key) for queued in now.prints],
        way=now.way,
        runs=[
            run_view(run, sheet_of[run.print_id], number < WHOLE_RUNS or run.state not in OVER)
            for number, run in enumerate(now.runs)
        ],
        order=[OrderLineView.model_validate(line, from_attributes=True) for line in now.order],
        operations=[operation_view(operation) for operation in now.operations],
    )
