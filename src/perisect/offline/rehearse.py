"""`perisect rehearse`: files of `make` through both stand-ins, without a database."""

import json
from pathlib import Path

import numpy as np
import shapely
from PIL import Image

from perisect.core.cutting.knife import KnifeSettings
from perisect.core.cutting.order import cut_order
from perisect.core.formats import CutSheet
from perisect.core.formats.hpgl import HpglError, read_hpgl
from perisect.core.ledger import measure_slip, wanted_stickers
from perisect.core.ledger.cut_picture import decode_sheet, draw_cuts
from perisect.core.ledger.scan import read_printed
from perisect.core.prepress.raster import MM_PER_INCH, render_page
from perisect.core.process import by_pen
from perisect.core.sheet import Mark, Placement
from perisect.core.sheet.placement import placed
from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS, EXAMPLE_PRINTERS, PlotterRecord, PrinterRecord
from perisect.core.units import HPGL_UNITS_PER_MM
from perisect.devices import DeviceError, open_plotter, print_pdf
from perisect.devices.cut_run import CutJob, CutStopped, cut_loaded
from perisect.stand_ins.shop import StandIns, stand_ins


class RehearsalError(Exception):
    """The folder cannot be rehearsed or the run stopped; the text says why."""


def rehearse(folder: Path, seed: int) -> dict:
    """Print, sense, cut and measure every sheet of a folder; writes `rehearsal.json` and pictures.

    Raises:
        RehearsalError: files missing or not ours, a device refused, or sensing stopped the run.
    """
    try:
        report = json.loads((folder / "report.json").read_text(encoding="utf-8"))
        sheets = report["sheets"]
    except (OSError, ValueError, KeyError, TypeError) as error:
        raise RehearsalError(f"{folder} holds no report.json of `perisect make`.") from error
    borders = {d["name"]: float(d["border_mm"]) for d in report["designs"]}
    slips: list[float] = []
    residual = seconds = 0.0
    results = []
    printer, plotter = _machines(report)
    with stand_ins(seed, (printer,), (plotter,)) as devices:
        for sheet in sheets:
            try:
                result = _rehearse_sheet(folder, sheet, borders, devices, plotter)
            except (OSError, KeyError, HpglError, DeviceError, CutStopped) as error:
                raise RehearsalError(f"{sheet.get('files', 'a sheet')}: {error}") from error
            slips.extend(result.pop("slips"))
            residual = max(residual, result["residual_mm"])
            # The machine's clock runs on from sheet to sheet.
            seconds = result["seconds_simulated"]
            results.append(result)
    rehearsal = {
        "seed": seed,
        "residual_mm": residual,
        "slip_max_mm": max(slips, default=0.0),
        "slip_rms_mm": float(np.sqrt(np.mean(np.square(slips)))) if slips else 0.0,
        "seconds_simulated": seconds,
        "sheets": results,
    }
    (folder / "rehearsal.json").write_text(json.dumps(rehearsal, indent=1) + "\n", encoding="utf-8")
    return rehearsal


def _machines(report: dict) -> tuple[PrinterRecord, PlotterRecord]:
    """The example machines that a report names, the desk ones where it names none."""
    names = report.get("machines", {})
    printer = next(
        (each for each in EXAMPLE_PRINTERS if each.id == names.get("printer")), EXAMPLE_PRINTERS[0]
    )
    plotter = next(
        (each for each in EXAMPLE_PLOTTERS if each.id == names.get("plotter")), EXAMPLE_PLOTTERS[0]
    )
    return printer, plotter


def _rehearse_sheet(
    folder: Path, sheet: dict, borders: dict[str, float], devices: StandIns, plotter: PlotterRecord
) -> dict:
    name = sheet["files"]
    pdf = (folder / f"{name}.print.pdf").read_bytes()
    placements = [
        Placement(p["design"], p["x_mm"], p["y_mm"], p["width_mm"], p["height_mm"], p["rotation_deg"])
        for p in sheet["placements"]
    ]
    cut = _read_cut(folder / f"{name}.cut.hpgl", sheet, placements)
    marks = [
        Mark(m["x_mm"], m["y_mm"], m["kind"], tuple(m["corner"]), m["shape"], m["name"])
        for m in sheet["marks"]
    ]
    printed = print_pdf(devices.printer, pdf)
    assert printed is not None  # Ours shows what came out.
    order = cut_order(cut)
    settings = plotter.recipe.marks.settings()
    knife = KnifeSettings(offset_mm=plotter.knife_offset_mm)
    job = CutJob(marks, settings, cut.height_mm, order, (plotter.corner_x_mm, plotter.corner_y_mm), knife)
    with open_plotter(devices.plotter, plotter.language) as device:
        cut_result = cut_loaded(device, printed, job)
    result = cut_result.unloaded
    picture = decode_sheet(printed.png)
    k = printed.px_per_mm
    drawn, _ = render_page(pdf, ppi=k * MM_PER_INCH)
    grey = np.asarray(Image.fromarray(picture).convert("L"))
    scan = read_printed(grey, k, marks, settings)
    wanted = wanted_stickers(cut, order, [(p.key, borders[p.key]) for p in placements])
    slip = measure_slip(scan, np.asarray(Image.fromarray(drawn).convert("L")), wanted, result.strokes)
    number = name.removeprefix("sheet-")
    (folder / f"rehearsal-{number}.printed.png").write_bytes(printed.png)
    result_picture = draw_cuts(picture, k, result.strokes, result.pens)
    Image.fromarray(result_picture).save(folder / f"rehearsal-{number}.cut.png", compress_level=1)
    return {
        "files": name,
        "residual_mm": cut_result.fit.residual_mm,
        "slip_max_mm": slip.largest_mm,
        "slip_rms_mm": slip.rms_mm,
        "good": slip.good,
        "bad": len(slip.stickers) - slip.good,
        "seconds_simulated": result.seconds,
        "slips": [s.slip_mm for s in slip.stickers],
    }


def _read_cut(path: Path, sheet: dict, placements: list[Placement]) -> CutSheet:
    """Lines of an HPGL file, each given to the sticker whose outline's box it lies nearest to."""
    height = float(sheet["height_mm"])
    boxes = [placed(shapely.box(0, 0, p.width_mm, p.height_mm), p).bounds for p in placements]
    tree = shapely.STRtree([shapely.box(*box) for box in boxes])
    lines: dict[str, list] = {}
    owners: dict[str, list[int]] = {}
    for stroke in read_hpgl(path.read_text(encoding="ascii")):
        record = by_pen(stroke.pen)
        if record is None:
            raise HpglError(f"pen {stroke.pen} is no process")
        points = stroke.points[:-1] if record.closed else stroke.points
        ring, process = points / HPGL_UNITS_PER_MM * (1, -1) + (0, height), record.name
        left, top = ring.min(axis=0)
        right, bottom = ring.max(axis=0)
        middle = shapely.Point((left + right) / 2, (top + bottom) / 2)
        lines.setdefault(process, []).append(ring)
        owners.setdefault(process, []).append(int(tree.nearest(middle)))
    return CutSheet(float(sheet["width_mm"]), height, lines, owners, [])
