"""Print and cut for a job: what a worker does with the devices and what it keeps of it."""

import io
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict
from datetime import UTC, datetime

import numpy as np
import structlog
from PIL import Image
from sqlalchemy import update

from perisect.core.artwork import ToneRecipe
from perisect.core.cutting.knife import KnifeSettings
from perisect.core.cutting.order import cut_order
from perisect.core.cutting.registration import Registration
from perisect.core.cutting.sensing import MarkNotFound, SheetTurned
from perisect.core.job import JobPlan, JobRecipe
from perisect.core.ledger import measure_slip, wanted_stickers
from perisect.core.ledger.scan import read_printed
from perisect.stand_ins.printer import render_page
from perisect.store import blobs
from perisect.store.database import transaction
from perisect.store.models import Print, Run
from perisect.store.runs import FINISHED, where_stopped
from perisect.store.settings import settings
from perisect.tasks.artwork import plan as plan_recipe
from perisect.tasks.artwork import sheet_pdf
from perisect.tasks.cutting import CutResult, CutSteps, CutStopped, cut_loaded
from perisect.tasks.devices import Address, DeviceError, Printed, plotter_link, print_pdf
from perisect.tasks.picture import decode_sheet, draw_cuts

log = structlog.get_logger()
HEARTBEAT_S = 1.0


def _address(text: str) -> Address:
    host, _, port = text.rpartition(":")
    return Address(host, int(port))


def do_print(print_id: int) -> None:
    """Make the print file of the sheet, print it and keep the printed sheet."""
    with transaction() as session:
        sheet = session.get_one(Print, print_id)
        recipe, number = JobRecipe.model_validate(sheet.recipe), sheet.sheet
        tone = ToneRecipe.model_validate(sheet.tone)
    try:
        pdf = sheet_pdf(plan_recipe(recipe), number, tone)
        printed = print_pdf(_address(settings().printer), pdf)
    except DeviceError as error:
        _change_print(print_id, state="failed", message=str(error))
        return
    except Exception:
        log.exception("print failed", print_id=print_id)
        _change_print(print_id, state="failed", message="The print file could not be made.")
        return
    blobs.put(f"prints/{print_id}/sheet.pdf", pdf)
    name = blobs.put(f"prints/{print_id}/printed.png", printed.png)
    _change_print(print_id, state="printed", picture=name, px_per_mm=printed.px_per_mm)


def _change_print(print_id: int, **values: object) -> None:
    with transaction() as session:
        session.execute(update(Print).where(Print.id == print_id).values(values))


def _change_run(run_id: int, **values: object) -> None:
    """Change a run unless it was closed meanwhile, and show that its worker lives."""
    with transaction() as session:
        session.execute(
            update(Run)
            .where(Run.id == run_id, Run.state.not_in(FINISHED))
            .values(heartbeat_at=datetime.now(UTC), **values)
        )


@contextmanager
def _heartbeat(run_id: int) -> Iterator[None]:
    over = threading.Event()

    def beat() -> None:
        while not over.wait(HEARTBEAT_S):
            _change_run(run_id)

    thread = threading.Thread(target=beat, daemon=True)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join()


def do_cut(run_id: int) -> None:
    """Cut a printed sheet, measure it and keep both, whatever happens on the way."""
    with transaction() as session:
        run = session.get_one(Run, run_id)
        if run.state != "queued":
            return
        printed_sheet = session.get_one(Print, run.print_id)
        recipe, number = JobRecipe.model_validate(printed_sheet.recipe), printed_sheet.sheet
        picture, px_per_mm = printed_sheet.picture or "", printed_sheet.px_per_mm or 1.0
        tone = ToneRecipe.model_validate(printed_sheet.tone)
    with _heartbeat(run_id):
        try:
            printed = Printed(blobs.get(picture) or b"", px_per_mm)
            _cut(run_id, plan_recipe(recipe), number, printed, tone)
        except (CutStopped, DeviceError) as error:
            _close(run_id, "stopped", str(error))
        except Exception:
            log.exception("cut failed", run_id=run_id)
            _close(run_id, "stopped", "The cut failed for a reason of Perisect's own; the log has it.")


def _close(run_id: int, state: str, message: str) -> None:
    """End a run with what happened and where it stopped."""
    with transaction() as session:
        run = session.get_one(Run, run_id)
        if run.lines_done or run.state == "cutting":
            message = f"{message} {where_stopped(run)}"
    _change_run(run_id, state=state, message=message, finished_at=datetime.now(UTC))


def _cut(run_id: int, plan: JobPlan, number: int, printed: Printed, tone: ToneRecipe) -> None:
    cut = plan.cut_sheet(number)
    order = cut_order(cut)
    _change_run(run_id, lines_total=len(order))

    def cancelled() -> bool:
        with transaction() as session:
            run = session.get_one(Run, run_id)
            return run.cancel or run.state in FINISHED

    def registered(fit: Registration) -> None:
        _change_run(run_id, registration=fit.describe())

    steps = CutSteps(
        stage=lambda stage: _change_run(run_id, state=stage),
        registered=registered,
        line_done=lambda line: _change_run(run_id, lines_done=line),
        cancelled=cancelled,
    )
    marks, mark_settings = plan.area.marks, plan.area.machine.marks
    lines, tray = _address(settings().plotter), _address(settings().plotter_tray)
    knife = KnifeSettings(offset_mm=plan.recipe.sheet.cut_by.knife_offset_mm)
    with plotter_link(lines, tray) as plotter:
        result = cut_loaded(plotter, printed, marks, mark_settings, cut.height_mm, order, steps, knife)
    _change_run(run_id, state="measuring", seconds=result.unloaded.seconds)
    _measure(run_id, plan, number, printed, result, tone)
    if result.lines_done < len(order):
        _close(run_id, "cancelled", "You cancelled this cut.")
    else:
        _close_done(run_id)


def _close_done(run_id: int) -> None:
    _change_run(run_id, state="done", message=None, finished_at=datetime.now(UTC))


def _measure(
    run_id: int, plan: JobPlan, number: int, printed: Printed, result: CutResult, tone: ToneRecipe
) -> None:
    """Slip of every sticker and the picture of the sheet with its cuts."""
    sheet, k = decode_sheet(printed.png), printed.px_per_mm
    strokes = result.unloaded.strokes
    file = io.BytesIO()
    Image.fromarray(draw_cuts(sheet.copy(), k, strokes, result.unloaded.pens)).save(
        file, "PNG", compress_level=2
    )
    values: dict[str, object] = {"picture": blobs.put(f"runs/{run_id}/cut.png", file.getvalue())}
    cut = plan.cut_sheet(number)
    borders = {design.id: design.border_mm for design in plan.recipe.designs}
    stickers = [(placement.key, borders[placement.key]) for placement in plan.sheets.sheets[number]]
    wanted = wanted_stickers(cut, cut_order(cut), stickers)
    drawn = np.asarray(Image.fromarray(render_page(sheet_pdf(plan, number, tone))).convert("L"))
    try:
        scan = read_printed(
            np.asarray(Image.fromarray(sheet).convert("L")), k, plan.area.marks, plan.area.machine.marks
        )
    except (MarkNotFound, SheetTurned):
        _change_run(run_id, **values)
        return
    slip = measure_slip(scan, drawn, wanted, strokes)
    values |= {
        "slips": [asdict(sticker) for sticker in slip.stickers],
        "slip_largest_mm": slip.largest_mm,
        "slip_mean_mm": slip.mean_mm,
        "good": slip.good,
        "bad": len(slip.stickers) - slip.good,
    }
    _change_run(run_id, **values)
