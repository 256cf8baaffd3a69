"""Cut sheets: ask for a cut, and what a worker does with the plotter and keeps of it."""

from dataclasses import asdict
from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

import numpy as np
import structlog
from PIL import Image
from sqlalchemy.exc import SQLAlchemyError

from perisect.core.artwork import ToneRecipe
from perisect.core.cutting.knife import KnifeSettings
from perisect.core.cutting.order import CutLine, cut_order
from perisect.core.cutting.registration import Registration
from perisect.core.cutting.sensing import MarkNotFound, SheetTurned
from perisect.core.cutting.setting import CutSetting
from perisect.core.job import JobRecipe
from perisect.core.ledger import measure_slip, wanted_stickers
from perisect.core.ledger.cut_picture import decode_sheet, draw_cuts, sheet_png
from perisect.core.ledger.scan import read_printed
from perisect.core.prepress.raster import MM_PER_INCH, render_page
from perisect.devices import DeviceError, PrintedSheet, open_plotter
from perisect.devices.cut_run import CutJob, CutResult, CutStopped, Progress, cut_loaded
from perisect.services.devices import allowed, plotter_at
from perisect.services.handing_out import printed_picture
from perisect.services.heartbeat import Heartbeat
from perisect.services.plans import Planned, plan
from perisect.services.print_files import sheet_pdf
from perisect.services.printing import TryLater
from perisect.store import blobs, book, runs
from perisect.store.database import transaction
from perisect.store.models import Print, Run
from perisect.store.prints import DeviceTaken, UnknownPrint
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


def ask_for_cut(print_id: int) -> tuple[Run, int]:
    """Queue a printed sheet at its plotter; the run, and the sheet's number from 0.

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
            run = runs.begin(session, session.get_one(Print, print_id), plotter.id)
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
        self.lines_done = self.lines_total = 0
        self._state = run.state

    def say(self, values: dict[str, Any]) -> str | None:
        """Write what has changed and hear whether somebody cancelled."""
        self._state = values.get("state", self._state)
        with transaction() as session:
            now = runs.change(session, self.run_id, self.claim, **values | {"state": self._state})
            return None if now is None else "cancel" if now.cancel else ""


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
        except (CutStopped, DeviceError) as error:
            state, message = "stopped", str(error)
        except Exception:
            log.exception("cut failed", run_id=run_id)
            state, message = "stopped", "The cut failed for a reason of Perisect's own; the log has it."
        if state != "done" and message is not None and leading.lines_done:
            message = f"{message} {where_stopped(leading.lines_done, leading.lines_total)}"
        beat.tell(state=state, message=message, finished_at=datetime.now(UTC))
        beat.flush()


def _cut(leading: _Leading, beat: Heartbeat) -> tuple[str, str | None]:
    """How it ended, and what is said of it."""
    planned, number = plan(leading.recipe), leading.number
    cut = planned.cut_files.sheet(number)
    order = cut_order(cut)
    leading.lines_total = len(order)
    beat.tell(lines_total=len(order))
    plotter = plotter_at(leading.plotter_id)
    with transaction() as session:
        settings = book.settings_of(session, leading.recipe.sheet, plotter.record)

    def registered(fit: Registration) -> None:
        beat.tell(registration=fit.describe())

    def line_done(line: int) -> None:
        leading.lines_done = line
        beat.tell(lines_done=line)

    progress = Progress(
        stage=lambda stage: beat.tell(state=stage),
        registered=registered,
        line_done=line_done,
        cancelled=lambda: beat.asked == "cancel",
    )
    area = planned.plan.area
    job = CutJob(
        area.marks,
        area.machine.marks,
        cut.height_mm,
        order,
        (plotter.record.corner_x_mm, plotter.record.corner_y_mm),
        KnifeSettings(offset_mm=plotter.record.knife_offset_mm),
        settings,
    )
    picture, px_per_mm = printed_picture(leading.print_id) or ("", 1.0)
    printed = PrintedSheet(blobs.get(picture) or b"", px_per_mm)
    with open_plotter(plotter.address, plotter.record.language, allowed()) as driver:
        result = cut_loaded(driver, printed, job, progress)
    beat.tell(state="measuring", seconds=result.unloaded.seconds)
    # Whatever cannot be measured or kept now: the sheet is cut.
    unmeasured = ""
    try:
        beat.tell(**_measured(leading, planned, order, printed, result, settings))
    except blobs.DiskFull:
        unmeasured = "The disk is full, so the sheet as cut could not be kept or measured."
    except Exception:
        log.exception("cut not measured", run_id=leading.run_id)
        unmeasured = "The sheet could not be measured; the log says why."
    if result.lines_done < len(order):
        return "cancelled", f"You cancelled this cut. {unmeasured}".strip()
    return "done", unmeasured or None


def _measured(
    leading: _Leading,
    planned: Planned,
    order: list[CutLine],
    printed: PrintedSheet,
    result: CutResult,
    settings: dict[str, CutSetting],
) -> dict[str, object]:
    """Slip of every sticker and the picture of the sheet with its cuts."""
    area, number = planned.plan.area, leading.number
    sheet, k = decode_sheet(printed.png), printed.px_per_mm
    strokes = result.unloaded.strokes
    png = sheet_png(draw_cuts(sheet.copy(), k, strokes, result.unloaded.pens))
    values: dict[str, object] = {"picture": blobs.put(f"runs/{leading.run_id}/cut.png", png)}
    lines = planned.plan.lines
    borders = {each.id: lines[each.id].border_mm(each.border_mm) for each in planned.plan.recipe.designs}
    stickers = [(placement.key, borders[placement.key]) for placement in planned.plan.sheets.sheets[number]]
    passes = {process: setting.passes for process, setting in settings.items()}
    wanted = wanted_stickers(planned.cut_files.sheet(number), order, stickers, passes)
    drawn, _ = render_page(sheet_pdf(planned, number, leading.tone), ppi=k * MM_PER_INCH)
    try:
        grey = np.asarray(Image.fromarray(sheet).convert("L"))
        scan = read_printed(grey, k, area.marks, area.machine.marks)
    except (MarkNotFound, SheetTurned):
        return values
    slip = measure_slip(scan, np.asarray(Image.fromarray(drawn).convert("L")), wanted, strokes)
    return values | {
        "slips": [asdict(sticker) for sticker in slip.stickers],
        "slip_largest_mm": slip.largest_mm,
        "slip_mean_mm": slip.mean_mm,
        "good": slip.good,
        "bad": len(slip.stickers) - slip.good,
    }
