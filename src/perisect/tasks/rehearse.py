"""`perisect rehearse`: files of `make` through both stand-ins, without a database."""

import json
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import shapely
from PIL import Image

from perisect.core.cutting.order import cut_order
from perisect.core.formats import CutSheet
from perisect.core.formats.hpgl import PENS, HpglError, read_hpgl
from perisect.core.ledger import measure_slip, wanted_stickers
from perisect.core.ledger.scan import read_printed
from perisect.core.sheet import Mark, MarkSettings
from perisect.core.sheet.fill import Placement
from perisect.core.sheet.place import placed
from perisect.core.units import HPGL_UNITS_PER_MM
from perisect.stand_ins.printer import render_page
from perisect.stand_ins.serve import PlotterServer, PrinterServer
from perisect.tasks.cutting import CutStopped, cut_loaded
from perisect.tasks.devices import Address, DeviceError, plotter_link, print_pdf
from perisect.tasks.picture import decode_sheet, draw_cuts


class RehearsalError(Exception):
    """The folder cannot be rehearsed or the run stopped; the text says why."""


@contextmanager
def stand_ins(seed: int) -> Iterator[tuple[Address, Address, Address]]:
    """A printer and a plotter on free ports, in simulated time only: printer, plotter lines, plotter tray."""
    printer, plotter = PrinterServer(seed), PlotterServer(seed, time_factor=float("inf"))
    servers = (printer.server, plotter.lines, plotter.tray)
    for server in servers:
        threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.02}, daemon=True).start()
    try:
        yield tuple(Address("127.0.0.1", s.server_address[1]) for s in servers)  # type: ignore[misc]
    finally:
        for server in servers:
            server.shutdown()
            server.server_close()


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
    with stand_ins(seed) as devices:
        for sheet in sheets:
            try:
                result = _rehearse_sheet(folder, sheet, borders, devices)
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


def _rehearse_sheet(
    folder: Path, sheet: dict, borders: dict[str, float], devices: tuple[Address, Address, Address]
) -> dict:
    name = sheet["files"]
    pdf = (folder / f"{name}.print.pdf").read_bytes()
    placements = [
        Placement(p["design"], p["x_mm"], p["y_mm"], p["width_mm"], p["height_mm"], p["rotation_deg"])
        for p in sheet["placements"]
    ]
    cut = _read_cut(folder / f"{name}.cut.hpgl", sheet, placements)
    marks = [Mark(m["x_mm"], m["y_mm"], m["kind"]) for m in sheet["marks"]]
    printer, lines, tray = devices
    printed = print_pdf(printer, pdf)
    order = cut_order(cut)
    with plotter_link(lines, tray) as plotter:
        cut_result = cut_loaded(plotter, printed, marks, MarkSettings(), cut.height_mm, order)
    result = cut_result.unloaded
    picture = decode_sheet(printed.png)
    k = printed.px_per_mm
    drawn = np.asarray(Image.fromarray(render_page(pdf)).convert("L"))
    scan = read_printed(np.asarray(Image.fromarray(picture).convert("L")), k, marks, MarkSettings())
    wanted = wanted_stickers(cut, order, [(p.key, borders[p.key]) for p in placements])
    slip = measure_slip(scan, drawn, wanted, result.strokes)
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
    process_of = {pen: process for process, pen in PENS.items()}
    boxes = [placed(shapely.box(0, 0, p.width_mm, p.height_mm), p).bounds for p in placements]
    tree = shapely.STRtree([shapely.box(*box) for box in boxes])
    lines: dict[str, list] = {}
    owners: dict[str, list[int]] = {}
    for stroke in read_hpgl(path.read_text(encoding="ascii")):
        ring = stroke.points[:-1] / HPGL_UNITS_PER_MM * (1, -1) + (0, height)
        process = process_of[stroke.pen]
        left, top = ring.min(axis=0)
        right, bottom = ring.max(axis=0)
        middle = shapely.Point((left + right) / 2, (top + bottom) / 2)
        lines.setdefault(process, []).append(ring)
        owners.setdefault(process, []).append(int(tree.nearest(middle)))
    return CutSheet(float(sheet["width_mm"]), height, lines, owners, [])
