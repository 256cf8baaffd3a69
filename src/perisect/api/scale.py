"""The size a printer prints at: two distances between marks, read with a ruler, and what is made of them."""

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query, UploadFile
from pydantic import BaseModel, Field

from perisect.api.problems import Problem
from perisect.api.uploads import picture_in
from perisect.core.job import JobRecipe
from perisect.core.ledger.flat_sheet import NotTheSheet
from perisect.core.ledger.scale_check import (
    READS_TO_MM,
    AxisCheck,
    NoSuchMarks,
    ReadingImpossible,
    Span,
    check_scale,
    spans,
)
from perisect.services.plans import plan
from perisect.services.scale_scan import NoPpi, measure_scan
from perisect.store import jobs, scales
from perisect.store.database import transaction

router = APIRouter(prefix="/api/jobs/{job_id}/scale", tags=["print"])

LengthMm = Annotated[float, Field(gt=0, le=40_000, allow_inf_nan=False)]
Factor = Annotated[float, Field(ge=0.9, le=1.1, allow_inf_nan=False)]
LEAST, MOST = 0.95, 1.05


class SpanView(BaseModel):
    """The distance between two marks as drawn."""

    from_name: str
    to_name: str
    mm: float


class ScaleView(BaseModel):
    """Where to measure on this job's sheets, and by how much larger the print file is made for their printer and
    stock: 1 is as drawn."""

    across: SpanView
    along: SpanView
    scale: tuple[float, float]
    checked_at: datetime | None


class ScaleReading(BaseModel):
    """Two distances as they were read, how fine, and the correction that the measured sheet was printed with."""

    across_mm: LengthMm
    along_mm: LengthMm
    reads_to_mm: Annotated[float, Field(ge=0.01, le=2, allow_inf_nan=False)] = READS_TO_MM
    was: tuple[Factor, Factor]


class ScanView(BaseModel):
    """Two distances as a scan shows them, the ppi it was taken at, and how fine they are told: a flatbed's own scale
    may be off by as much as a ruler is read to."""

    across_mm: float
    along_mm: float
    ppi: float
    reads_to_mm: float


class AxisView(BaseModel):
    """How far off one axis is, per cent, how sure that is (95 %), and whether it was corrected."""

    error_pct: float
    uncertainty_pct: float
    corrected: bool


class ScaleAnswer(BaseModel):
    """What the readings say, and how things stand now."""

    across: AxisView
    along: AxisView
    now: ScaleView


@router.get("")
def get_scale(job_id: int) -> ScaleView:
    """Where to measure, and the correction that holds."""
    recipe = _recipe(job_id)
    return _view(recipe, *_spans(recipe))


@router.post("")
def post_scale(job_id: int, reading: ScaleReading) -> ScaleAnswer:
    """Tell what was measured; the print file is corrected from now on where the error is sure."""
    recipe = _recipe(job_id)
    across, along = _spans(recipe)
    read = reading.across_mm, reading.along_mm
    try:
        checks = check_scale((across.mm, along.mm), read, reading.reads_to_mm)
    except ReadingImpossible as error:
        raise Problem(422, "This distance is not possible.", str(error)) from error
    x, y = (was * check.factor for was, check in zip(reading.was, checks, strict=True))
    if not (LEAST <= x <= MOST and LEAST <= y <= MOST):
        raise Problem(
            422,
            "No printer is off by this much.",
            "Set it back to the size as drawn, print a sheet and measure that.",
        )
    try:
        with transaction() as session:
            scales.save(session, recipe.sheet, (x, y), reading.was)
    except scales.CorrectedMeanwhile as error:
        raise Problem(
            409,
            "The correction was changed meanwhile.",
            "Print a sheet as it is corrected now, and measure that.",
        ) from error
    return ScaleAnswer(across=_axis(checks[0]), along=_axis(checks[1]), now=_view(recipe, across, along))


@router.post("/scan")
def post_scale_scan(
    job_id: int,
    file: UploadFile,
    ppi: Annotated[float | None, Query(ge=100, le=2400, allow_inf_nan=False)] = None,
) -> ScanView:
    """Measure the two distances on a scan of a sheet; nothing is corrected by that yet."""
    _spans(_recipe(job_id))
    data = picture_in(file)
    try:
        across, along, taken_at = measure_scan(job_id, data, ppi)
    except NotTheSheet as error:
        raise Problem(422, "The sheet is not read from this scan.", str(error)) from error
    except NoPpi as error:
        raise Problem(
            422, "The scan does not state its resolution.", "Enter the ppi it was scanned at."
        ) from error
    return ScanView(across_mm=across, along_mm=along, ppi=taken_at, reads_to_mm=READS_TO_MM)


@router.delete("")
def delete_scale(job_id: int) -> ScaleView:
    """Print at the size as drawn again."""
    recipe = _recipe(job_id)
    with transaction() as session:
        scales.save(session, recipe.sheet, scales.AS_DRAWN)
    return _view(recipe, *_spans(recipe))


def _recipe(job_id: int) -> JobRecipe:
    with transaction() as session:
        return jobs.recipe(session, jobs.get(session, job_id))


def _spans(recipe: JobRecipe) -> tuple[Span, Span]:
    try:
        return spans(plan(recipe).plan.area.marks)
    except NoSuchMarks as error:
        raise Problem(
            409,
            "These marks cannot measure the width and height of a print.",
            "Measure a sheet of a plotter that has marks in its corners.",
        ) from error


def _view(recipe: JobRecipe, across: Span, along: Span) -> ScaleView:
    with transaction() as session:
        scale, when = scales.get(session, recipe.sheet), scales.checked_at(session, recipe.sheet)
    return ScaleView(across=_span(across), along=_span(along), scale=scale, checked_at=when)


def _span(span: Span) -> SpanView:
    return SpanView(from_name=span.from_name, to_name=span.to_name, mm=span.mm)


def _axis(check: AxisCheck) -> AxisView:
    return AxisView(
        error_pct=100 * check.error, uncertainty_pct=100 * check.uncertainty, corrected=check.is_sure
    )
