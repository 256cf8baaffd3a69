"""Cut sheets: ask for a cut, and what a worker does with the plotter and keeps of it."""

from collections.abc import Sequence
from dataclasses import asdict
from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

import structlog
from sqlalchemy.exc import SQLAlchemyError

from perisect.core.artwork import ToneRecipe
from perisect.core.cutting.causes import REMEDIES, Cause, Sight
from perisect.core.cutting.knife import knife_of
from perisect.core.cutting.mark_view import draw_sight, seen_marks
from perisect.core.cutting.registration import Registration
from perisect.core.cutting.strips import sensed_before
from perisect.core.job import JobRecipe
from perisect.core.ledger.cut_picture import sheet_png
from perisect.core.sheet.placing import boxes_on
from perisect.devices.cut_run import CutJob, CutStopped, OnceMore, Progress, cut_loaded
from perisect.devices.errors import DeviceError
from perisect.devices.open import open_plotter
from perisect.devices.protocols import PrintedSheet
from perisect.services import stockroom
from perisect.services.cut_plan import course_of
from perisect.services.devices import allowed, plotter_at
from perisect.services.handing_out import printed_picture
from perisect.services.heartbeat import Heartbeat
from perisect.services.held import Held, cancelled_or_waited
from perisect.services.laminating import is_laminated
from perisect.services.measuring import Measured, measured
from perisect.services.placing import NotBegun, Placing
from perisect.services.plans import plan
from perisect.services.printing import TryLater
from perisect.store import blobs, book, runs, trueings
from perisect.store.database import transaction
from perisect.store.models import Print, Run
from perisect.store.prints import RUN_OVER, DeviceTaken, UnknownPrint
from perisect.store.queue_entry import DEVICES, enqueue
from perisect.store.runs import where_stopped

log = structlog.get_logger()


class NotPrinted(Exception):
    """The sheet is not printed."""


class NothingToCut(Exception):
    """Everything on the sheet is printed only."""


class PlotterBusy(Exception):
    """Another run has the plotter; `job_id` is that run's job, None when it has just ended."""

    def __init__(self, job_id: int | None) -> None:
        super().__init__(job_id)
        self.job_id = job_id


class CannotGoOn(Exception):
    """A run is not one that goes on; the text says why."""


WAITED_TOO_LONG = (
    "It waited for half an hour between two lines and was taken out: others may want the plotter."
)
MEASURE_LATER = "Measure it at Log, from a scan or by ruler."
IN_BLADE = ("stopped",)
"""A run that ended so was in the middle of a line; one that was cancelled ended between two."""


def ask_to_go_on(run_id: int, leave_out: bool) -> tuple[Run, int]:
    """Queue the rest of a sheet whose cut broke off; the new run, and the sheet's number from 0.

    Args:
        leave_out: whether the line that was in the blade is left as it is, and not cut again.

    Raises:
        UnknownPrint: there is no such run.
        CannotGoOn: it is not over, was begun anew since, or nothing of it is left, or nothing is cut.
        NotPrinted, NothingToCut, PlotterBusy, DeviceError: as `ask_for_cut` does.
    """
    with transaction() as session:
        run = session.get(Run, run_id)
        if run is None:
            raise UnknownPrint(run_id)
        if run.state not in ("stopped", "cancelled") or not runs.is_latest(session, run):
            raise CannotGoOn(
                "This cut is not the last one of its sheet, or has not ended before its last line."
            )
        leave_out = leave_out and run.state in IN_BLADE
        first = run.lines_done + int(leave_out)
        if not 0 < run.lines_done <= first < run.lines_total:
            raise CannotGoOn("No line of it is cut, or none is left: begin a new cut of the sheet.")
        print_id, rest = run.print_id, runs.Rest(run.hold, first, leave_out, run.first_line > 0, run.ask)
    return ask_for_cut(print_id, rest)


def ask_for_cut(print_id: int, rest: runs.Rest = runs.WHOLE) -> tuple[Run, int]:
    """Queue a printed sheet at its plotter; the run, and the sheet's number from 0.

    Args:
        rest: how it begins, and whether it holds the sheet at the end.

    Raises:
        UnknownPrint, NotPrinted.
        NothingToCut: no line is on the sheet.
        PlotterBusy: another run has the plotter.
        DeviceError: the shop no longer has its plotter.
    """
    with transaction() as session:
        sheet = session.get(Print, print_id)
        if sheet is None:
            raise UnknownPrint(print_id)
        if sheet.state != "printed":
            raise NotPrinted(print_id)
        recipe, number = JobRecipe.model_validate(sheet.recipe), sheet.sheet
    # A piece has a line unless it is printed only.
    if any(design.lines.own == "none" for design in recipe.designs) and not any(
        plan(recipe).cut_files.sheet(number).lines.values()
    ):
        raise NothingToCut
    plotter = plotter_at(recipe.sheet.cut_by.id).record
    try:
        with transaction() as session:
            # Nobody throws it away meanwhile.
            if session.get_one(Print, print_id, with_for_update=True).state != "printed":
                raise NotPrinted(print_id)
            run = runs.begin(session, session.get_one(Print, print_id), plotter.id, recipe.sheet.on.id, rest)
            enqueue(session, DEVICES, "cut_sheet", lock=f"plotter {plotter.id}", run_id=run.id)
            return run, sheet.sheet
    except DeviceTaken as error:
        with transaction() as session:
            busy = runs.busy(session, plotter.id)
            raise PlotterBusy(busy.job_id if busy is not None else None) from error


class _Leading:
    """A run that this worker leads."""

    def __init__(self, run: Run, sheet: Print, claim: str) -> None:
        self.run_id, self.claim, self.plotter_id = run.id, claim, run.plotter
        self.recipe, self.number = JobRecipe.model_validate(sheet.recipe), sheet.sheet
        self.tone = ToneRecipe.model_validate(sheet.tone)
        self.print_id = sheet.id
        self.hold, self.ask, self.first = run.hold, run.ask, run.first_line
        self.lines_done, self.lines_total = run.first_line, 0
        self._state = run.state
        self.measured = Measured(
            self.run_id, self.number, self.tone, run.first_line, run.left_out, run.laid_in_before
        )

    def say(self, values: dict[str, Any]) -> str | None:
        """Write what has changed and hear whether somebody cancelled."""
        self._state = values.get("state", self._state)
        with transaction() as session:
            now = runs.change(session, self.run_id, self.claim, **values | {"state": self._state})
            if now is not None and self._state in RUN_OVER:
                stockroom.sheet_cut(session, now)
            return None if now is None else "cancel" if now.cancel else "pause" if now.pause else ""


def do_cut(run_id: int) -> None:
    """Cut a printed sheet, measure it and keep both, whatever happens on the way.

    Raises:
        TryLater: the database is away.
    """
    claim = str(uuid4())
    try:
        with transaction() as session:
            run = runs.claim(session, run_id, claim)
            if run is None:
                return
            leading = _Leading(run, session.get_one(Print, run.print_id), claim)
    except SQLAlchemyError as error:
        raise TryLater from error
    with Heartbeat(leading.say) as beat:
        try:
            state, message = _cut(leading, beat)
        except NotBegun:
            state, message = (
                "cancelled",
                "You cancelled while the marks were set. No line of the sheet is cut.",
            )
        except (CutStopped, DeviceError) as error:
            state, message = "stopped", str(error)
        except Exception:
            log.exception("cut failed", run_id=run_id)
            state, message = "stopped", "The cut failed for a reason of Perisect's own; the log has it."
        if state != "done" and message is not None and leading.lines_done:
            message = f"{message} {where_stopped(leading.lines_done, leading.lines_total)}"
        beat.tell(state=state, message=message, marking=None, finished_at=datetime.now(UTC))
        beat.flush()


def mark_picture_name(run_id: int, mark: int) -> str:
    """Where the picture of a mark (from 0) as a run saw it is kept."""
    return f"runs/{run_id}/mark-{mark}.png"


def _cut(leading: _Leading, beat: Heartbeat) -> tuple[str, str | None]:
    """How it ended, and what is said of it."""
    planned, number = plan(leading.recipe), leading.number
    cut = planned.cut_files.sheet(number)
    parts = planned.cut_files.parts(number)
    order = planned.cut_files.order(number)
    leading.lines_total = len(order)
    beat.tell(lines_total=len(order))
    plotter = plotter_at(leading.plotter_id)
    with transaction() as session:
        laminated = is_laminated(session, leading.print_id)
        settings = book.settings_of(session, leading.recipe.sheet, plotter.record, laminated)
        trueing = trueings.of(session, leading.plotter_id)

    def registered(fit: Registration) -> None:
        beat.tell(registration=fit.describe())

    course = course_of(order, plotter.record, settings, cut.height_mm)
    share = course.shares[leading.first] if leading.first else 0.0
    beat.tell(predicted_s=course.seconds, share=share)
    again_m = 0.0

    def cut_m(line: int) -> float:
        return course.metres[line] - course.metres[leading.first] + again_m

    def line_done(line: int) -> None:
        leading.lines_done = line
        beat.tell(lines_done=line, share=course.shares[line], cut_m=cut_m(line))

    lies = Held(leading.run_id, leading.claim, beat, plotter.record.force)

    def held() -> OnceMore | None:
        nonlocal again_m
        again = lies.wait(cut, order, settings) if leading.hold else None
        if again is not None:
            again_m += sum(course.metres[line + 1] - course.metres[line] for line in again.lines)
            beat.tell(cut_m=cut_m(len(order)))
        return again

    def seen(sights: Sequence[Sight], fit: Registration | None, cause: Cause | None) -> None:
        try:
            for sight in sights:
                drawn = draw_sight(area.marks[sight.mark], area.machine.marks, sight, fit)
                blobs.put(mark_picture_name(leading.run_id, sight.mark), sheet_png(drawn))
        except Exception:
            # Pictures less; the cut goes on.
            log.exception("marks not kept", run_id=leading.run_id)
            return
        beat.tell(marks=[asdict(mark) for mark in seen_marks(area.marks, sights, fit, cause)])

    area = planned.plan.area
    middle = (cut.width_mm / 2, cut.height_mm / 2)
    marks = [(mark.x_mm, mark.y_mm) for mark in area.marks]
    on_it = planned.plan.sheets.sheets[number]
    boxes = boxes_on({each.key: each for each in planned.plan.footprints}, on_it)
    stickers = [
        {"design": placement.key, "box": [round(float(side), 2) for side in box]}
        for placement, box in zip(on_it, boxes, strict=True)
    ]
    turns = planned.cut_files.turns(number)
    aimed = {"trueing": trueing.model_dump(), "middle": middle, "marks": marks, "turns": turns.tolist()}
    beat.tell(stickers=stickers, aimed=aimed)
    progress = Progress(
        stage=lambda stage: beat.tell(state=stage),
        registered=registered,
        noticed=lambda cause: beat.tell(notice=cause.remedy),
        seen=seen,
        line_done=line_done,
        cancelled=lambda: cancelled_or_waited(beat),
        held=held,
    )
    job = CutJob(
        area.marks,
        area.machine.marks,
        cut.height_mm,
        order,
        (plotter.record.corner_x_mm, plotter.record.corner_y_mm),
        knife_of(plotter.record),
        settings,
        lambda fit: trueing.trued(fit, middle),
        sensed_before(parts),
    )
    picture, px_per_mm = printed_picture(leading.print_id) or ("", 1.0)
    stock = leading.recipe.sheet.on.under_film() if laminated else leading.recipe.sheet.on
    printed = PrintedSheet(blobs.get(picture) or b"", px_per_mm, stock.face_um, stock.liner_um)
    with open_plotter(plotter.address, plotter.record.language, allowed()) as driver:
        # Whatever the shop says of it: a plotter that only takes its language shows no marks.
        senses = plotter.record.has_sensor and driver.can_look
        placing = Placing(leading.run_id, leading.claim, beat, senses)
        if senses:
            helped_by = placing.register if leading.ask else None
            result = cut_loaded(driver, printed, job, progress, leading.first, helped_by=helped_by)
        else:
            result = cut_loaded(driver, printed, job, progress, leading.first, placing.register)
    beat.tell(state="measuring", seconds=result.unloaded.seconds)
    if result.moved_mm is not None:
        beat.tell(
            notice=f"The marks lie {result.moved_mm:.1f} mm from where they were. {REMEDIES['sheet moved']}"
        )
    # Whatever cannot be measured or kept now: the sheet is cut.
    unmeasured = ""
    try:
        beat.tell(**measured(leading.measured, planned, order, printed, result, settings))
    except blobs.DiskFull:
        unmeasured = f"The disk is full, so the sheet as cut could not be kept. {MEASURE_LATER}"
    except Exception:
        log.exception("cut not measured", run_id=leading.run_id)
        unmeasured = f"The sheet could not be measured; the log says why. {MEASURE_LATER}"
    if result.lines_done < len(order):
        why = "You cancelled this cut." if beat.asked == "cancel" else WAITED_TOO_LONG
        return "cancelled", f"{why} {unmeasured}".strip()
    return "done", unmeasured or None
