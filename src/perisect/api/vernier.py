"""The calibration page of a job's plotter."""

from typing import Annotated, Literal

from fastapi import APIRouter, Response, UploadFile
from pydantic import BaseModel, Field

from perisect.api.print import picture
from perisect.api.problems import Problem
from perisect.api.uploads import picture_in
from perisect.core.ledger.flat_sheet import NotTheSheet
from perisect.core.ledger.vernier import READS_TO_MM
from perisect.core.ledger.vernier_scan import READS_TO_MM as SCAN_READS_TO_MM
from perisect.core.prepress.head_pattern import PageTooSmall
from perisect.core.sheet.recipe import SheetRecipe
from perisect.services.vernier import LedByHand, NotCut, TooFarOff, ask_for_cut, ask_for_page, page_of, read
from perisect.services.vernier_scan import read_scan
from perisect.store import jobs, verniers
from perisect.store.database import transaction
from perisect.store.head_checks import UnderWay
from perisect.store.upkeep_models import VernierRow

router = APIRouter(prefix="/api/jobs/{job_id}/calibration-page", tags=["log"])

MOST_MM = 1.3
ReadMm = Annotated[float, Field(ge=-MOST_MM, le=MOST_MM, allow_inf_nan=False)]


class VernierReading(BaseModel):
    """What each comb shows, mm: the value where cut and printed teeth are one line."""

    head: ReadMm
    foot: ReadMm
    left: ReadMm
    right: ReadMm


class VernierSaid(VernierReading):
    """What the combs show, and how fine they were read: by eye to a twentieth of a mm."""

    reads_to_mm: Annotated[float, Field(ge=0.01, le=0.2, allow_inf_nan=False)] = READS_TO_MM


class VernierScan(BaseModel):
    """What a scan shows, and how fine."""

    readings: VernierReading
    reads_to_mm: float


class VernierView(BaseModel):
    """How the page stands; `reads_to_mm` is how fine a comb is read."""

    id: int | None
    state: Literal["none", "queued", "printing", "printed", "waiting", "cutting", "cut", "read", "failed"]
    message: str | None
    has_picture: bool
    width_mm: float
    height_mm: float
    readings: VernierReading | None
    reads_to_mm: float


@router.get("")
def get_calibration_page(job_id: int) -> VernierView:
    """How the last page of this job's plotter stands."""
    return _view(_sheet(job_id))


@router.get("/page.pdf", response_class=Response)
def get_calibration_pdf(job_id: int) -> Response:
    """The page, to print it oneself."""
    try:
        pdf = page_of(_sheet(job_id)).pdf
    except PageTooSmall as error:
        raise _too_small(error) from error
    return Response(pdf, media_type="application/pdf", headers={"Content-Disposition": "inline"})


@router.post("", status_code=202)
def post_calibration_page(job_id: int) -> VernierView:
    """Print the page by the printer's link."""
    try:
        ask_for_page(job_id)
    except PageTooSmall as error:
        raise _too_small(error) from error
    except UnderWay as error:
        raise Problem(
            409, "A calibration page is under way for this plotter.", "Wait until it is cut."
        ) from error
    except LedByHand as error:
        raise Problem(
            409,
            "This plotter has no sensor.",
            "Its blade is set over the marks: it needs no calibration page.",
        ) from error
    return _view(_sheet(job_id))


@router.post("/cut", status_code=202)
def post_calibration_cut(job_id: int) -> VernierView:
    """Cut the page that is printed and lies in the plotter."""
    try:
        ask_for_cut(_number(job_id))
    except NotCut as error:
        raise _not_now(error) from error
    return _view(_sheet(job_id))


@router.put("/reading")
def put_calibration_reading(job_id: int, reading: VernierSaid) -> VernierView:
    """Say what the combs show: it is taken out of every cut from now on."""
    try:
        read(_number(job_id), reading.model_dump(exclude={"reads_to_mm"}), reading.reads_to_mm)
    except NotCut as error:
        raise _not_now(error) from error
    except TooFarOff as error:
        raise Problem(
            409,
            "The plotter is off by more than can be corrected.",
            "Set its own offset by the maker's manual.",
        ) from error
    return _view(_sheet(job_id))


@router.post("/scan")
def post_calibration_scan(job_id: int, file: UploadFile) -> VernierScan:
    """Read the combs of the cut page off a scan of it; nothing is taken out by that yet."""
    number = _number(job_id)
    data = picture_in(file, "Scan the page at 300 ppi.")
    try:
        found = read_scan(number, data)
    except NotCut as error:
        raise _not_now(error) from error
    except NotTheSheet as error:
        raise Problem(422, "The combs are not read from this scan.", str(error)) from error
    if max(map(abs, found.values())) > MOST_MM:
        raise Problem(
            422,
            "The cut lies further off than the combs reach.",
            "Set the plotter's own offset by the maker's manual first.",
        )
    readings = VernierReading(**{name: round(mm, 3) for name, mm in found.items()})
    return VernierScan(readings=readings, reads_to_mm=SCAN_READS_TO_MM)


@router.get("/cut.png", response_class=Response)
def get_calibration_picture(job_id: int) -> Response:
    """The page as it was cut."""
    row = _latest(_sheet(job_id))
    return picture(row.photo if row is not None else None)


def _number(job_id: int) -> int:
    row = _latest(_sheet(job_id))
    if row is None:
        raise Problem(404, "There is no calibration page of this plotter.", "Print it first.")
    return row.id


def _latest(sheet: SheetRecipe) -> VernierRow | None:
    with transaction() as session:
        return verniers.latest(session, sheet.cut_by.id)


def _view(sheet: SheetRecipe) -> VernierView:
    row = _latest(sheet)
    state, message = ("none", None) if row is None else (row.state, row.message)
    on = sheet.on
    return VernierView(
        id=None if row is None else row.id,
        state=state,  # type: ignore[arg-type]
        message=message,
        has_picture=row is not None and row.photo is not None,
        width_mm=on.width_mm,
        height_mm=min(on.height_mm, 297.0) if on.kind == "roll" else on.height_mm,
        readings=None if row is None or row.readings is None else VernierReading.model_validate(row.readings),
        reads_to_mm=READS_TO_MM,
    )


def _sheet(job_id: int) -> SheetRecipe:
    with transaction() as session:
        return jobs.recipe(session, jobs.get(session, job_id)).sheet


def _too_small(error: PageTooSmall) -> Problem:
    return Problem(422, "The calibration page does not fit this stock.", str(error))


def _not_now(error: NotCut) -> Problem:
    return Problem(
        409, "The calibration page is not there yet.", f"It is {error.state}. Wait, or print it again."
    )
