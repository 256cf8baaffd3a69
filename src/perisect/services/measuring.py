"""What is measured on a cut sheet: the slip of every sticker, and the picture of the sheet with its cuts."""

from dataclasses import asdict

from perisect.core.cutting.order import CutLine
from perisect.core.cutting.setting import CutSetting
from perisect.core.ledger import wanted_stickers
from perisect.core.ledger.cut_picture import decode_sheet, draw_cuts, sheet_png
from perisect.core.ledger.measure import measure_cut
from perisect.core.ledger.wanted import whole_run
from perisect.devices.cut_run import CutResult
from perisect.devices.protocols import PrintedSheet
from perisect.services.led_run import LedRun
from perisect.services.plans import Planned
from perisect.services.print_files import sheet_pdf
from perisect.store import blobs


def measured(
    run: LedRun,
    planned: Planned,
    order: list[CutLine],
    printed: PrintedSheet,
    result: CutResult,
    settings: dict[str, CutSetting],
) -> dict[str, object]:
    """Slip of every sticker and the picture of the sheet with its cuts."""
    every = result.unloaded.strokes
    if every is None or not printed.png:
        return {}
    area, number = planned.plan.area, run.number
    sheet, k = decode_sheet(printed.png), printed.px_per_mm
    strokes = every[: len(every) - result.extra_strokes]
    png = sheet_png(draw_cuts(sheet.copy(), k, every, result.unloaded.pens))
    values: dict[str, object] = {"picture": blobs.put(f"runs/{run.run_id}/cut.png", png)}
    if not area.marks:
        return values
    lines = planned.plan.lines
    borders = {each.id: lines[each.id].border_mm(each.border_mm) for each in planned.plan.recipe.designs}
    stickers = [(placement.key, borders[placement.key]) for placement in planned.plan.sheets.sheets[number]]
    passes = {process: setting.passes for process, setting in settings.items()}
    wanted = wanted_stickers(planned.cut_files.sheet(number), order, stickers, passes)
    if run.first:
        often = [settings[line.process].passes for line in order]
        skipped = often[run.first - 1] if run.left_out else 0
        whole = whole_run(strokes, sum(often[: run.first]) - skipped, sum(often[run.first :]), skipped)
        if whole is None or run.laid_in_before:
            return values
        strokes = whole
    pdf = sheet_pdf(planned, number, run.tone)
    slip = measure_cut(sheet, k, pdf, area.marks, area.machine.marks, wanted, strokes)
    if slip is None:
        return values
    return values | {
        "slips": [asdict(sticker) for sticker in slip.stickers],
        "slip_largest_mm": slip.largest_mm,
        "slip_mean_mm": slip.mean_mm,
        "good": slip.good,
        "bad": len(slip.stickers) - slip.good,
    }
