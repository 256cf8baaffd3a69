"""Stations 5 and 6: cuts, and what was measured on them."""

from typing import Annotated, Literal

from fastapi import APIRouter, Path, Response, UploadFile
from pydantic import BaseModel, Field

from perisect.api.print import PrintNumber, picture
from perisect.api.problems import Problem
from perisect.api.run_views import RunView, run_view
from perisect.api.uploads import picture_in
from perisect.core.cutting import run_request
from perisect.core.cutting.run_request import Cancel, CutAgain, MarkRequest, Pause, RunRequest, Unload
from perisect.core.cutting.run_state import OVER
from perisect.core.cutting.setting import CutSetting
from perisect.core.ledger.count import Count, CountImpossible, found_on
from perisect.core.ledger.flat_sheet import NotTheSheet
from perisect.core.ledger.ruler import Reading, RulerImpossible
from perisect.core.process import TABLE
from perisect.services.corners import corners_of
from perisect.services.cut_plan import cut_plan
from perisect.services.cut_requests import CannotGoOn, ask_for_bare_cut, ask_for_cut, ask_of_run, ask_to_go_on
from perisect.services.cutting import mark_picture_name
from perisect.services.picture_slip import measure_picture
from perisect.services.placing import close_up_name
from perisect.services.ruler import measure_by_ruler, stickers_to_measure
from perisect.store import runs
from perisect.store.database import transaction
from perisect.store.models import Print, Run
from perisect.store.runs import Rest, UnknownRun

router = APIRouter(tags=["cut"])

Side = Annotated[float, Field(ge=-20, le=60, allow_inf_nan=False)]


class GoOn(BaseModel):
    """What becomes of the line that was in the blade when a cut broke off."""

    in_blade: Literal["again", "leave"] = "again"


class NewCount(BaseModel):
    """What was found, after the count of this version (0 before the first)."""

    version: Annotated[int, Field(ge=0, le=1_000_000)]
    count: Count | None
    """None takes back what was found, as if nobody had counted."""


class ProcessPlanView(BaseModel):
    """Lines of one process: how many, how long with all passes, with which pen and setting, and how long it takes."""

    process: str
    pen: int
    count: int
    length_mm: float
    setting: CutSetting
    seconds: float


class CutPlanView(BaseModel):
    """What is going to be cut on a sheet, in the order of the cut."""

    processes: list[ProcessPlanView]
    seconds: float


@router.get("/api/jobs/{job_id}/sheets/{number}/cut-plan")
def get_cut_plan(job_id: int, number: int, of: PrintNumber = None) -> CutPlanView:
    """What is going to be cut on a sheet (from 1), or on a print of it, with which settings, and how long it takes."""
    plan = cut_plan(job_id, number, of)
    return CutPlanView(
        processes=[
            ProcessPlanView(pen=TABLE[each.process].pen, **{name: getattr(each, name) for name in PLANNED})
            for each in plan.processes
        ],
        seconds=plan.seconds,
    )


PLANNED = ("process", "count", "length_mm", "setting", "seconds")


@router.post("/api/prints/{print_id}/cuts", status_code=202)
def post_cut(print_id: int, hold: bool = False, ask: bool = False) -> RunView:
    """Cut a printed sheet at its plotter. While that cuts, another run gets 409.

    With `hold` the sheet stays in afterwards, for a corner to be lifted, until it is unloaded. With `ask` a mark that
    the sensor does not find is waited for: somebody is by to set it by hand.
    """
    run, sheet = ask_for_cut(print_id, Rest(hold=hold, ask=ask))
    return run_view(run, sheet)


@router.post("/api/jobs/{job_id}/sheets/{number}/cuts", status_code=202)
def post_bare_cut(job_id: int, number: Annotated[int, Path(ge=1, le=100_000)], hold: bool = False) -> RunView:
    """Cut a sheet (from 1) of bare stock, of a job that is not printed. It is cut from the corner it is laid into."""
    return run_view(*ask_for_bare_cut(job_id, number, Rest(hold=hold)))


@router.post("/api/runs/{run_id}/resume", status_code=202)
def post_resume(run_id: int, how: GoOn) -> RunView:
    """Go on with a sheet whose cut broke off, at its next line, after its marks are sensed anew."""
    try:
        run, sheet = ask_to_go_on(run_id, how.in_blade == "leave")
    except CannotGoOn as error:
        raise Problem(409, "This cut does not go on.", str(error)) from error
    return run_view(run, sheet)


NOT_AT_LINES = ("This cut is not cutting lines now.", "Check the state of the cut.")
NONE_WAITS = ("No sheet waits in the plotter for this cut.", "Check the state of the cut.")
NO_MARKS_SET = (
    "No marks are set by hand for this cut now.",
    "It begins when the plotter has no sensor, or a mark is not found. Check the state of the cut.",
)


@router.post("/api/runs/{run_id}/pause", status_code=202)
def post_pause(run_id: int, on: bool = True) -> RunView:
    """Have a cut wait after the line it is cutting, the blade up; with `on=false` it goes on."""
    return _asked(run_id, Pause() if on else run_request.GoOn(), NOT_AT_LINES)


@router.post("/api/runs/{run_id}/once-more", status_code=202)
def post_once_more(run_id: int, asked: CutAgain) -> RunView:
    """Cut some lines of a sheet that lies there still once more, over the very same lines."""
    if asked.process is not None and asked.process not in TABLE:
        raise Problem(422, "There is no such kind of line.", f"There are {', '.join(TABLE)}.")
    return _asked(run_id, asked, NONE_WAITS)


@router.post("/api/runs/{run_id}/unload", status_code=202)
def post_unload(run_id: int) -> RunView:
    """Take a sheet out that lies there still, after what it was asked before."""
    return _asked(run_id, Unload(), NONE_WAITS)


@router.post("/api/runs/{run_id}/placing", status_code=202)
def post_placing(run_id: int, request: Annotated[MarkRequest, Field(discriminator="do")]) -> RunView:
    """Jog the blade, take its place for a mark, sense a mark again, leave it out, or cut by the marks as they are."""
    return _asked(run_id, request, NO_MARKS_SET)


def _asked(run_id: int, request: RunRequest, refusal: tuple[str, str]) -> RunView:
    asked = ask_of_run(run_id, request)
    if asked is None:
        raise Problem(409, *refusal)
    return run_view(*asked)


@router.get("/api/runs/{run_id}/close-up.png", response_class=Response)
def get_close_up(run_id: int) -> Response:
    """What lies under the blade, the blade in the middle, while marks are set."""
    with transaction() as session:
        _there(session.get(Run, run_id), run_id)
    return picture(close_up_name(run_id))


@router.post("/api/runs/{run_id}/picture")
def post_run_picture(run_id: int, file: UploadFile) -> RunView:
    """Measure the slip of every sticker from a scan or a photo of the cut sheet."""
    data = picture_in(file, "Scan the sheet at 300 ppi, or take it as JPEG.")
    try:
        run = measure_picture(run_id, data)
    except NotTheSheet as error:
        raise Problem(422, "The cut sheet could not be read from this picture.", str(error)) from error
    with transaction() as session:
        return run_view(run, session.get_one(Print, run.print_id).sheet)


class RulerReading(BaseModel):
    """The white at the sides of a sticker (its number, from 0), mm, from the art to the line."""

    sticker: Annotated[int, Field(ge=0, lt=5000)]
    left_mm: Side
    right_mm: Side
    top_mm: Side
    bottom_mm: Side


class RulerReadings(BaseModel):
    """What was read at three to five stickers."""

    readings: Annotated[list[RulerReading], Field(min_length=1, max_length=20)]


class CornersView(BaseModel):
    """Numbers (from 0) of the stickers whose corners are lifted before a sheet is unloaded; more of the first one that
    is cut with its settings."""

    stickers: list[int]
    is_first: bool


@router.get("/api/runs/{run_id}/corners")
def get_corners(run_id: int) -> CornersView:
    """Where to lift a corner of a sheet that lies in the plotter still."""
    return CornersView.model_validate(corners_of(run_id), from_attributes=True)


@router.get("/api/runs/{run_id}/ruler")
def get_to_measure(run_id: int) -> list[int]:
    """Numbers (from 0) of the stickers that tell most of how the sheet was cut."""
    return stickers_to_measure(run_id)


@router.post("/api/runs/{run_id}/ruler")
def post_ruler(run_id: int, read: RulerReadings) -> RunView:
    """Measure the slip of every sticker from the borders of a few, read by ruler."""
    try:
        run = measure_by_ruler(run_id, [Reading(**vars(each)) for each in read.readings])
    except RulerImpossible as error:
        raise Problem(422, "These readings are not possible.", str(error)) from error
    with transaction() as session:
        return run_view(run, session.get_one(Print, run.print_id).sheet)


@router.put("/api/runs/{run_id}/count")
def put_count(run_id: int, counted: NewCount) -> RunView:
    """Say what was found on a cut sheet. What somebody else counted meanwhile is not overwritten: 409."""
    with transaction() as session:
        run = _there(session.get(Run, run_id), run_id)
        if run.state not in OVER or run.stickers is None or run.lines_done == 0:
            raise Problem(409, "There is nothing to count of this cut.", "Count a sheet that was cut.")
        stickers = [str(each["design"]) for each in run.stickers]
        try:
            found = None if counted.count is None else found_on(counted.count, stickers)
        except CountImpossible as error:
            raise Problem(422, "The sheet has fewer stickers than that.", str(error)) from error
        kept = runs.count(
            session,
            run_id,
            counted.version,
            None if counted.count is None else counted.count.model_dump(mode="json"),
            None if found is None else found.good.total(),
            None if found is None else found.bad.total(),
        )
        if kept is None:
            raise Problem(
                409,
                "Somebody else counted this sheet meanwhile.",
                "Look at what they found, then change it where it is wrong.",
            )
        return run_view(kept, session.get_one(Print, kept.print_id).sheet)


@router.get("/api/runs/{run_id}")
def get_run(run_id: int) -> RunView:
    """How a run stands."""
    with transaction() as session:
        run = _there(session.get(Run, run_id), run_id)
        return run_view(run, session.get_one(Print, run.print_id).sheet)


@router.post("/api/runs/{run_id}/cancel")
def post_cancel(run_id: int) -> RunView:
    """Stop a run after the line it is cutting; one that is over stays as it is."""
    asked = ask_of_run(run_id, Cancel())
    return get_run(run_id) if asked is None else run_view(*asked)


@router.get("/api/runs/{run_id}/cut.png", response_class=Response)
def get_cut_picture(run_id: int) -> Response:
    """The printed sheet with the cuts that were really made."""
    with transaction() as session:
        name = _there(session.get(Run, run_id), run_id).picture
    return picture(name)


@router.get("/api/runs/{run_id}/marks/{mark}.png", response_class=Response)
def get_mark_picture(run_id: int, mark: Annotated[int, Path(ge=0, lt=1000)]) -> Response:
    """A mark (from 0) as the sensor saw it, the fit drawn in."""
    with transaction() as session:
        _there(session.get(Run, run_id), run_id)
    return picture(mark_picture_name(run_id, mark))


def _there(run: Run | None, run_id: int) -> Run:
    if run is None:
        raise UnknownRun(run_id)
    return run
