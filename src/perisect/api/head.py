"""A printer's head: its pattern, and where it has gaps."""

from datetime import UTC, datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Response, UploadFile
from pydantic import BaseModel, Field

from perisect.api.problems import Problem
from perisect.api.uploads import picture_in
from perisect.core.finding import Finding
from perisect.core.prepress.head_pattern import PageTooSmall, head_pattern_pdf
from perisect.core.prepress.head_read import Gap, NotThePattern
from perisect.core.prepress.head_state import head_findings
from perisect.core.prepress.print_head import GROUPS
from perisect.core.sheet.recipe import SheetRecipe
from perisect.services.head_check import NoSuchCheck, ask_for_pattern, page_of, read_picture, say_gaps
from perisect.store import blobs, head_checks, jobs
from perisect.store.database import transaction
from perisect.store.head_checks import UnderWay

router = APIRouter(prefix="/api/jobs/{job_id}/head", tags=["print"])

Ink = Literal["cyan", "magenta", "yellow", "black"]


class GapView(BaseModel):
    """A group of nozzles that does not fire, from 0."""

    ink: Ink
    group: Annotated[int, Field(ge=0, lt=GROUPS)]


class PatternView(BaseModel):
    """A pattern that was sent to the printer by its link."""

    id: int
    state: Literal["queued", "printing", "printed", "failed", "read"]
    message: str | None
    has_picture: bool


class HeadView(BaseModel):
    """What is known of the head of a job's printer."""

    printer: str
    groups: int
    """Of each ink."""
    gaps: list[GapView]
    read_at: datetime | None
    pattern: PatternView | None
    findings: list[Finding]


class Gaps(BaseModel):
    """Where the head has gaps, as somebody saw it; `pattern` is the number of a page that came by the link."""

    gaps: Annotated[list[GapView], Field(max_length=4 * GROUPS)]
    pattern: int | None = None


@router.get("")
def get_head(job_id: int) -> HeadView:
    """What is known."""
    sheet = _sheet(job_id)
    now = datetime.now(UTC)
    with transaction() as session:
        read = head_checks.last_read(session, sheet.printed_by.id)
        last = head_checks.latest(session, sheet.printed_by.id)
        gaps = [GapView.model_validate(gap) for gap in read.gaps] if read else []
        read_at = read.read_at if read else None
        pattern = None
        if last is not None:
            pattern = PatternView(
                id=last.id,
                state=last.state,  # type: ignore[arg-type]
                message=last.message,
                has_picture=last.picture is not None,
            )
    return HeadView(
        printer=sheet.printed_by.name,
        groups=GROUPS,
        gaps=gaps,
        read_at=read_at,
        pattern=pattern,
        findings=head_findings([Gap(gap.ink, gap.group) for gap in gaps], read_at, now),
    )


@router.get("/pattern.pdf", response_class=Response)
def get_pattern(job_id: int) -> Response:
    """The pattern, to print it oneself."""
    sheet = _sheet(job_id)
    try:
        pdf = head_pattern_pdf(page_of(sheet.on), sheet.printed_by.name)
    except PageTooSmall as error:
        raise _too_small(error) from error
    return Response(pdf, media_type="application/pdf", headers={"Content-Disposition": "inline"})


@router.post("/pattern", status_code=202)
def post_pattern(job_id: int) -> HeadView:
    """Print the pattern by the printer's link."""
    sheet = _sheet(job_id)
    try:
        ask_for_pattern(sheet.printed_by.id, sheet.on)
    except PageTooSmall as error:
        raise _too_small(error) from error
    except UnderWay as error:
        raise Problem(409, "The pattern is being printed already.", "Wait until it is there.") from error
    return get_head(job_id)


@router.get("/pattern.png", response_class=Response)
def get_printed_pattern(job_id: int) -> Response:
    """The last pattern as it was printed."""
    return Response(_printed(job_id)[1], media_type="image/png", headers={"Cache-Control": "no-store"})


@router.post("/read")
def post_read(job_id: int) -> HeadView:
    """Look for gaps on the pattern that came by the link."""
    check, png = _printed(job_id)
    _read(job_id, png, check)
    return get_head(job_id)


@router.post("/picture")
def post_head_picture(job_id: int, file: UploadFile) -> HeadView:
    """Look for gaps on a scan or a photo of a printed pattern."""
    data = picture_in(file, "Scan the page at 300 ppi.")
    _read(job_id, data, None)
    return get_head(job_id)


@router.put("")
def put_gaps(job_id: int, seen: Gaps) -> HeadView:
    """Say where the pattern has gaps; an empty list when there is none."""
    sheet = _sheet(job_id)
    _keep(
        sheet,
        sorted({Gap(gap.ink, gap.group) for gap in seen.gaps}, key=lambda g: (g.ink, g.group)),
        seen.pattern,
    )
    return get_head(job_id)


def _read(job_id: int, picture: bytes, check: int | None) -> None:
    sheet = _sheet(job_id)
    try:
        _keep(sheet, read_picture(picture, sheet.on), check)
    except NotThePattern as error:
        raise Problem(422, "The pattern was not found in this picture.", str(error)) from error


def _keep(sheet: SheetRecipe, gaps: list[Gap], check: int | None) -> None:
    try:
        say_gaps(sheet.printed_by.id, sheet.on, gaps, check)
    except NoSuchCheck as error:
        raise Problem(404, "There is no such printed pattern.", "Print it again.") from error


def _printed(job_id: int) -> tuple[int, bytes]:
    with transaction() as session:
        last = head_checks.latest(session, _sheet(job_id).printed_by.id)
        check, name = (last.id, last.picture) if last is not None else (0, None)
    png = blobs.get(name) if name else None
    if png is None:
        raise Problem(404, "There is no printed pattern.", "Print it first.")
    return check, png


def _too_small(error: PageTooSmall) -> Problem:
    return Problem(422, "The pattern does not fit this stock.", str(error))


def _sheet(job_id: int) -> SheetRecipe:
    with transaction() as session:
        return jobs.recipe(session, jobs.get(session, job_id)).sheet
