"""Cut a printed sheet: what a worker does with the plotter, step by step, and what it keeps of it."""

from collections.abc import Sequence
from dataclasses import asdict
from datetime import UTC, datetime
from typing import Any, ClassVar

import structlog
from sqlalchemy.orm import Session

from perisect.core.cutting.causes import REMEDIES, Cause, Sight
from perisect.core.cutting.knife import knife_of
from perisect.core.cutting.mark_view import draw_sight, seen_marks
from perisect.core.cutting.registration import Registration
from perisect.core.cutting.run_state import RunState
from perisect.core.cutting.strips import sensed_before
from perisect.core.ledger.cut_picture import sheet_png
from perisect.core.sheet.placing import boxes_on
from perisect.devices.cut_run import (
    CutJob,
    CutResult,
    CutStopped,
    OnceMore,
    Progress,
    cut_loaded,
    lay_in_corner,
)
from perisect.devices.errors import DeviceError
from perisect.devices.open import open_plotter
from perisect.devices.protocols import PrintedSheet
from perisect.services.cut_plan import course_of
from perisect.services.device_task import DeviceTask, Ending
from perisect.services.devices import allowed, plotter_at
from perisect.services.handing_out import printed_picture
from perisect.services.heartbeat import Heartbeat
from perisect.services.held import Held, cancelled_or_waited
from perisect.services.laminating import is_laminated
from perisect.services.led_run import LedRun
from perisect.services.measuring import measured
from perisect.services.placing import NotBegun, Placing
from perisect.services.plans import plan
from perisect.store import blobs, book, runs, trueings
from perisect.store.database import transaction
from perisect.store.models import Print
from perisect.store.runs import where_stopped

log = structlog.get_logger()

WAITED_TOO_LONG = "It was paused for half an hour and was unloaded, so that others can use the plotter."
MEASURE_LATER = "Measure it at Log, from a scan or by ruler."


def mark_picture_name(run_id: int, mark: int) -> str:
    """Name of the picture of a mark (from 0) as a run saw it."""
    return f"runs/{run_id}/mark-{mark}.png"


class CutTask(DeviceTask):
    """A run: a printed sheet cut, measured and kept."""

    name = "cut"
    refusals: ClassVar = (CutStopped, DeviceError)
    disk_full = "The disk is full, so the cut could not be prepared. Make room, then cut the sheet."
    fault = "The cut failed for a reason of Perisect's own; the log has it."
    run: LedRun

    def begin(self, session: Session) -> bool:
        row = runs.claim(session, self.row_id, self.claim)
        if row is None:
            return False
        self.run = LedRun(row, session.get_one(Print, row.print_id), self.claim)
        return True

    def say(self, values: dict[str, Any]) -> str | None:
        return self.run.say(values)

    def work(self, beat: Heartbeat) -> Ending:
        self.run.tell_by(beat)
        return PreparedCut(self.run).cut()

    def failed(self, error: Exception) -> Ending:
        if isinstance(error, NotBegun):
            return Ending(
                RunState.CANCELLED,
                {"message": "You cancelled while the marks were set. No line of the sheet is cut."},
            )
        return Ending(RunState.STOPPED, {"message": self.message_of(error)})

    def end(self, session: Session, ending: Ending) -> None:
        message, run = ending.values.get("message"), self.run
        if ending.state != RunState.DONE and message is not None and run.lines_done:
            message = f"{message} {where_stopped(run.lines_done, run.lines_total)}"
        over = {"state": RunState(ending.state), "message": message, "marking": None}
        run.write(session, ending.values | over | {"finished_at": datetime.now(UTC)})


def do_cut(run_id: int) -> None:
    """Cut a printed sheet, measure it and keep both, whatever happens on the way.

    Raises:
        TryLater: the database is away.
    """
    CutTask(run_id).perform()


class PreparedCut:
    """A cut for which all is at hand: plan, plotter, settings, the way of the blade.

    Args:
        run: the run that is led.

    Raises:
        DeviceError: the shop no longer has the plotter.
    """

    def __init__(self, run: LedRun) -> None:
        self._run = run
        self._planned = plan(run.recipe)
        files = self._planned.cut_files
        self._cut_sheet, self._order = files.sheet(run.number), files.order(run.number)
        run.lines_total = len(self._order)
        self._plotter = plotter_at(run.plotter_id)
        record = self._plotter.record
        with transaction() as session:
            self._laminated = is_laminated(session, run.print_id)
            self._settings = book.settings_of(session, run.recipe.sheet, record, self._laminated)
            self._trueing = trueings.of(session, run.plotter_id)
        self._course = course_of(self._order, record, self._settings, self._cut_sheet.height_mm)
        self._again_m = 0.0
        self._held = Held(run, record.force)

    def cut(self) -> Ending:
        """Drive the plotter from loading to unloading, then measure the sheet."""
        self._tell_plan()
        job, printed = self._job(), self._printed()
        result = self._drive(job, printed)
        self._run.tell(state=RunState.MEASURING, seconds=result.unloaded.seconds)
        if result.moved_mm is not None:
            moved = f"The marks lie {result.moved_mm:.1f} mm from where they were."
            self._run.tell(notice=f"{moved} {REMEDIES['sheet moved']}")
        unmeasured = self._measure(printed, result)
        if result.lines_done < len(self._order):
            why = "You cancelled this cut." if self._run.stop == "cancel" else WAITED_TOO_LONG
            return Ending(RunState.CANCELLED, {"message": f"{why} {unmeasured}".strip()})
        return Ending(RunState.DONE, {"message": unmeasured or None})

    @property
    def _middle(self) -> tuple[float, float]:
        return self._cut_sheet.width_mm / 2, self._cut_sheet.height_mm / 2

    def _tell_plan(self) -> None:
        """Say what is going to be cut where, before the sheet is loaded."""
        run, shown = self._run, self._planned.plan
        on_it = shown.sheets.sheets[run.number]
        boxes = boxes_on({each.key: each for each in shown.footprints}, on_it)
        turns = self._planned.cut_files.turns(run.number)
        run.tell(
            lines_total=len(self._order),
            predicted_s=self._course.seconds,
            share=self._course.shares[run.first] if run.first else 0.0,
            stickers=[
                {"design": placement.key, "box": [round(float(side), 2) for side in box]}
                for placement, box in zip(on_it, boxes, strict=True)
            ],
            aimed={
                "trueing": self._trueing.model_dump(),
                "middle": self._middle,
                "marks": [(mark.x_mm, mark.y_mm) for mark in shown.area.marks],
                "turns": turns.tolist(),
            },
        )

    def _job(self) -> CutJob:
        record, area = self._plotter.record, self._planned.plan.area
        return CutJob(
            area.marks,
            area.machine.marks,
            self._cut_sheet.height_mm,
            self._order,
            (record.corner_x_mm, record.corner_y_mm),
            knife_of(record),
            self._settings,
            lambda fit: self._trueing.trued(fit, self._middle),
            sensed_before(self._planned.cut_files.parts(self._run.number)),
        )

    def _printed(self) -> PrintedSheet:
        picture, px_per_mm = printed_picture(self._run.print_id) or ("", 1.0)
        on = self._run.recipe.sheet.on
        stock = on.under_film() if self._laminated else on
        return PrintedSheet(blobs.get(picture) or b"", px_per_mm, stock.face_um, stock.liner_um)

    def _drive(self, job: CutJob, printed: PrintedSheet) -> CutResult:
        run, record = self._run, self._plotter.record
        progress = Progress(
            stage=lambda state: run.tell(state=state),
            registered=lambda fit: run.tell(registration=fit.describe()),
            noticed=lambda cause: run.tell(notice=cause.remedy),
            seen=self._keep_sights,
            line_done=self._line_done,
            cancelled=lambda: cancelled_or_waited(run),
            held=self._hold,
        )
        with open_plotter(self._plotter.address, record.language, allowed()) as driver:
            if not job.marks:
                return cut_loaded(driver, printed, job, progress, run.first, lay_in_corner)
            # Whatever the shop says of it: a plotter that only takes its language shows no marks.
            senses = record.has_sensor and driver.can_look
            placing = Placing(run, senses)
            if senses:
                helped_by = placing.register if run.ask else None
                return cut_loaded(driver, printed, job, progress, run.first, helped_by=helped_by)
            return cut_loaded(driver, printed, job, progress, run.first, placing.register)

    def _keep_sights(self, sights: Sequence[Sight], fit: Registration | None, cause: Cause | None) -> None:
        """Keep the pictures of the marks; a cut goes on without them."""
        area = self._planned.plan.area
        try:
            for sight in sights:
                drawn = draw_sight(area.marks[sight.mark], area.machine.marks, sight, fit)
                blobs.put(mark_picture_name(self._run.run_id, sight.mark), sheet_png(drawn))
        except Exception:
            log.exception("marks not kept", run_id=self._run.run_id)
            return
        self._run.tell(marks=[asdict(mark) for mark in seen_marks(area.marks, sights, fit, cause)])

    def _cut_m(self, line: int) -> float:
        """Metres that are cut before a line, those that were cut again among them."""
        return self._course.metres[line] - self._course.metres[self._run.first] + self._again_m

    def _line_done(self, line: int) -> None:
        self._run.lines_done = line
        self._run.tell(lines_done=line, share=self._course.shares[line], cut_m=self._cut_m(line))

    def _hold(self) -> OnceMore | None:
        """Wait for what is to be cut once more; None to take the sheet out."""
        again = self._held.wait(self._cut_sheet, self._order, self._settings) if self._run.hold else None
        if again is not None:
            metres = self._course.metres
            self._again_m += sum(metres[line + 1] - metres[line] for line in again.lines)
            self._run.tell(cut_m=self._cut_m(len(self._order)))
        return again

    def _measure(self, printed: PrintedSheet, result: CutResult) -> str:
        """Measure the sheet and keep its picture; return why it could not be, empty if it was.

        Whatever cannot be measured or kept now: the sheet is cut.
        """
        try:
            values = measured(self._run, self._planned, self._order, printed, result, self._settings)
        except blobs.DiskFull:
            return f"The disk is full, so the sheet as cut could not be kept. {MEASURE_LATER}"
        except Exception:
            log.exception("cut not measured", run_id=self._run.run_id)
            return f"The sheet could not be measured; the log says why. {MEASURE_LATER}"
        self._run.tell(**values)
        return ""
