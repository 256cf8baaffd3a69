"""`perisect rehearse`: files of `make` through both stand-ins, without a database."""

import json
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import shapely
from PIL import Image

from perisect.core.cutting.carriage import Carriage
from perisect.core.cutting.causes import REMEDIES, Cause, CauseName
from perisect.core.cutting.duration import duration
from perisect.core.cutting.knife import knife_of
from perisect.core.cutting.order import cut_order
from perisect.core.cutting.program import cut_program
from perisect.core.cutting.registration import Registration
from perisect.core.formats import CutSheet
from perisect.core.formats.hpgl import HpglError, read_hpgl
from perisect.core.ledger import wanted_stickers
from perisect.core.ledger.cut_picture import decode_sheet, draw_cuts
from perisect.core.ledger.measure import measure_cut
from perisect.core.ledger.wanted import whole_run
from perisect.core.process import by_pen
from perisect.core.sheet import Mark, Placement
from perisect.core.sheet.placement import placed
from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS, EXAMPLE_PRINTERS, PlotterRecord, PrinterRecord
from perisect.core.units import HPGL_UNITS_PER_MM
from perisect.devices.cut_run import CutJob, CutStopped, Progress, cut_loaded, sense
from perisect.devices.cut_run import Sense as Sensing
from perisect.devices.errors import DeviceError
from perisect.devices.open import open_plotter, print_pdf
from perisect.devices.protocols import PrintedSheet, Unloaded
from perisect.offline.by_hand import person
from perisect.stand_ins.shop import FAULTS, StandIns, stand_ins

__all__ = ["FAULTS", "RehearsalError", "rehearse"]


class RehearsalError(Exception):
    """The folder cannot be rehearsed or the run stopped; the text says why."""


@dataclass(frozen=True)
class Drill:
    """What is tried: a fault, marks taken by hand, a run that is stopped after so many lines and goes on."""

    fault: str | None = None
    by_hand: bool = False
    resume_after: int | None = None
    worn: bool = False
    """At a plotter that was used for some years."""


PLAIN = Drill()


def rehearse(folder: Path, seed: int, drill: Drill = PLAIN) -> dict:
    """Print, sense, cut and measure every sheet of a folder; writes `rehearsal.json` and pictures. A fault strikes the
    first sheet; what it stops is told, and a run that was cut short goes on where it can.

    Raises:
        RehearsalError: files missing or not ours, a device refused, or sensing stopped a run without a fault.
    """
    try:
        report = json.loads((folder / "report.json").read_text(encoding="utf-8"))
        sheets = report["sheets"]
    except (OSError, ValueError, KeyError, TypeError) as error:
        raise RehearsalError(f"{folder} holds no report.json of `perisect make`.") from error
    if not all((folder / f"{sheet['files']}.print.pdf").exists() for sheet in sheets):
        raise RehearsalError(f"{folder} was made without print files: there is no print to rehearse.")
    borders = {d["name"]: float(d["border_mm"]) for d in report["designs"]}
    machines = _machines(report)
    results: list[dict] = []
    struck = 1 if drill.fault else 0
    for fault, some in ((drill.fault, sheets[:struck]), (None, sheets[struck:])):
        lines = sum(total["count"] for sheet in some[:1] for total in sheet.get("lines", {}).values())
        with stand_ins(
            seed, machines[:1], machines[1:], fault=fault, lines=lines, worn=drill.worn
        ) as devices:
            for sheet in some:
                try:
                    results.append(
                        _Sheet(folder, sheet, borders, devices, machines[1], seed).run(drill, fault)
                    )
                except (OSError, KeyError, HpglError, DeviceError, CutStopped) as error:
                    raise RehearsalError(f"{sheet.get('files', 'a sheet')}: {error}") from error
    rehearsal = _summed(results, seed, drill)
    (folder / "rehearsal.json").write_text(json.dumps(rehearsal, indent=1) + "\n", encoding="utf-8")
    return rehearsal


def _summed(results: list[dict], seed: int, drill: Drill) -> dict:
    slips = [slip for result in results for slip in result.pop("slips")]
    cause = next((result["cause"] for result in results if result["cause"]), None)
    total = {
        key: sum(result[key] for result in results)
        for key in ("predicted_seconds", "simulated_seconds", "travel_mm", "draw_mm")
    }
    return {
        "seed": seed,
        "residual_mm": max((result["residual_mm"] for result in results), default=0.0),
        "slip_max_mm": max(slips, default=0.0),
        "slip_rms_mm": float(np.sqrt(np.mean(np.square(slips)))) if slips else 0.0,
        "seconds_simulated": total["simulated_seconds"],
        **total,
        "lines_cut": [count for result in results for count in result["lines_cut"]],
        "finished": all(result["finished"] for result in results),
        "by_hand": drill.by_hand,
        "worn": drill.worn,
        "fault": drill.fault,
        "cause": cause,
        "remedy": REMEDIES[cause] if cause else None,
        "sheets": results,
    }


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


class _Sheet:
    """One sheet's way through the machines."""

    def __init__(
        self,
        folder: Path,
        sheet: dict,
        borders: dict[str, float],
        devices: StandIns,
        plotter: PlotterRecord,
        seed: int,
    ) -> None:
        self._folder, self._name, self._devices, self._plotter = folder, sheet["files"], devices, plotter
        self._borders, self._seed = borders, seed
        self._pdf = (folder / f"{self._name}.print.pdf").read_bytes()
        self._placements = [
            Placement(p["design"], p["x_mm"], p["y_mm"], p["width_mm"], p["height_mm"], p["rotation_deg"])
            for p in sheet["placements"]
        ]
        self._cut = _read_cut(folder / f"{self._name}.cut.hpgl", sheet, self._placements)
        self._marks = [
            Mark(m["x_mm"], m["y_mm"], m["kind"], tuple(m["corner"]), m["shape"], m["name"])
            for m in sheet["marks"]
        ]
        self._settings = plotter.recipe.marks.settings()
        self._order = cut_order(self._cut)
        knife = knife_of(plotter)
        corner = (plotter.corner_x_mm, plotter.corner_y_mm)
        self._job = CutJob(self._marks, self._settings, self._cut.height_mm, self._order, corner, knife)
        self._result: dict = {
            "files": self._name,
            "residual_mm": 0.0,
            "slip_max_mm": 0.0,
            "slip_rms_mm": 0.0,
            "good": 0,
            "bad": 0,
            "seconds_simulated": 0.0,
            "simulated_seconds": 0.0,
            "predicted_seconds": 0.0,
            "travel_mm": 0.0,
            "draw_mm": 0.0,
            "lines_cut": [0] * len(self._order),
            "in_blade": [],
            "finished": False,
            "cause": None,
            "slips": [],
        }

    def run(self, drill: Drill, fault: str | None) -> dict:
        """Print, cut and measure it; what stops a sheet that a fault was thrown at is told, not raised.

        Raises:
            DeviceError, CutStopped: without a fault.
        """
        try:
            printed = print_pdf(self._devices.printer, self._pdf)
            assert printed is not None  # Ours shows what came out.
            self._cut_it(printed, drill)
        except (DeviceError, CutStopped) as error:
            if fault is None:
                raise
            named = error.cause
            self._blame(named.name if isinstance(named, Cause) else named)
        return self._result

    def _blame(self, cause: CauseName | None) -> None:
        self._result["cause"] = self._result["cause"] or cause

    def _cut_it(self, printed: PrintedSheet, drill: Drill) -> None:
        """Until every line is cut: what a device breaks off goes on at the next line, the one in the blade again."""
        by: Sensing = person(self._seed) if drill.by_hand else sense
        first, stop_at, broken = 0, drill.resume_after, False
        while True:
            progress = _Counting(first, stop_at)
            try:
                with open_plotter(self._devices.plotter, self._plotter.language) as device:
                    done = cut_loaded(device, printed, self._job, progress.as_progress(), first, by)
            except DeviceError as error:
                if broken or progress.done >= len(self._order) or progress.registered is None:
                    raise
                self._blame(error.cause)
                self._result["in_blade"].append(progress.done)
                first, broken = progress.done, True
                continue
            if done.lines_done < len(self._order):
                first, stop_at = done.lines_done, None
                continue
            if done.moved_mm is not None:
                self._blame("sheet moved")
            if progress.named is not None:
                self._blame(progress.named)
            self._measure(printed, done.unloaded, done.fit.residual_mm, first)
            motions = [
                m for step in cut_program(self._order, done.fit, self._job.knife) for m in step.motions
            ]
            told = duration(motions, Carriage())
            self._result |= {
                "predicted_seconds": told.seconds,
                "travel_mm": told.travel_mm,
                "draw_mm": told.draw_mm,
                "finished": True,
            }
            return

    def _measure(self, printed: PrintedSheet, out: Unloaded, residual_mm: float, first: int) -> None:
        """Slip, and how often each line was cut; `first` is the line that the last run began with."""
        made = out.strokes or []
        strokes = whole_run(made, first, len(self._order) - first) or made
        extra = len(made) - len(strokes) - (1 if first else 0)
        counts = [1] * len(self._order)
        if extra > 0 and first < len(self._order):
            partial = made[1 + first]
            length = float(np.hypot(*np.diff(partial, axis=0).T).sum())
            ring = shapely.length(shapely.linearrings(self._order[first].ring))
            counts[first] += int(length >= 0.98 * ring)
        picture, k = decode_sheet(printed.png), printed.px_per_mm
        number = self._name.removeprefix("sheet-")
        (self._folder / f"rehearsal-{number}.printed.png").write_bytes(printed.png)
        shown = draw_cuts(picture.copy(), k, made, out.pens)
        Image.fromarray(shown).save(self._folder / f"rehearsal-{number}.cut.png", compress_level=1)
        self._result |= {
            "residual_mm": residual_mm,
            "seconds_simulated": out.seconds,
            "simulated_seconds": out.seconds,
            "lines_cut": counts,
        }
        stickers = [(p.key, self._borders[p.key]) for p in self._placements]
        wanted = wanted_stickers(self._cut, self._order, stickers)
        slip = measure_cut(picture, k, self._pdf, self._marks, self._settings, wanted, strokes)
        if slip is None:
            return
        self._result |= {
            "slip_max_mm": slip.largest_mm,
            "slip_rms_mm": slip.rms_mm,
            "good": slip.good,
            "bad": len(slip.stickers) - slip.good,
            "slips": [s.slip_mm for s in slip.stickers],
        }


class _Counting:
    """How far a run has come, and where it is stopped."""

    def __init__(self, first: int, stop_at: int | None) -> None:
        self.done, self._stop_at = first, stop_at
        self.registered: Registration | None = None
        self.named: CauseName | None = None

    def as_progress(self) -> Progress:
        """As the run reports to it."""

        def registered(fit: Registration) -> None:
            self.registered = fit

        def line_done(line: int) -> None:
            self.done = line

        def noticed(cause: Cause) -> None:
            self.named = cause.name

        return Progress(
            registered=registered,
            noticed=noticed,
            line_done=line_done,
            cancelled=lambda: self._stop_at is not None and self.done >= self._stop_at,
        )


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
