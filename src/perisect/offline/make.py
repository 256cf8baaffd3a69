"""`perisect make`: artwork to print and cut files in a folder, without a server."""

import hashlib
import time
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from functools import partial
from pathlib import Path
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from perisect import sandbox
from perisect.core.artwork import ArtworkError, Decoded, ToneRecipe
from perisect.core.artwork.tone import read_profile
from perisect.core.job import (
    DesignRecipe,
    JobPlan,
    JobRecipe,
    TracedArtwork,
    plan_job,
    trace_artwork,
)
from perisect.core.job.area_plates import area_plates
from perisect.core.job.files import (
    CUT_WRITERS,
    CutFiles,
    CutKind,
    line_totals,
    note_of,
    print_pdf,
    under_picture,
)
from perisect.core.job.findings import findings_of
from perisect.core.job.new_piece import as_die
from perisect.core.lines import LineError, LineRecipe
from perisect.core.prepress.cmyk import NotCmyk, in_cmyk, is_cmyk
from perisect.core.prepress.crop_marks import with_crop_marks
from perisect.core.prepress.margin_note import with_notes
from perisect.core.prepress.plates import AreaPlate, Plate, write_plates_pdf
from perisect.core.prepress.print_file import EncodedPicture, encode_curves, encode_picture
from perisect.core.sheet.nest import nest
from perisect.offline.folder import Folder, FolderError
from perisect.offline.read import ReadError, read_picture, title_of
from perisect.offline.stocks import StockError, sheet_of, stock_of

NO_PLATES: Mapping[str, Plate | AreaPlate] = MappingProxyType({})


class MakeError(Exception):
    """Nothing could be made; the text says why."""


class Stopwatch:
    """Seconds spent in each stage."""

    def __init__(self) -> None:
        self.seconds: dict[str, float] = {}
        self._last = time.perf_counter()

    def lap(self, stage: str) -> None:
        """Add the time since the last lap to a stage."""
        now = time.perf_counter()
        self.seconds[stage] = self.seconds.get(stage, 0.0) + now - self._last
        self._last = now


def make(
    art: Sequence[Path],
    out: Path,
    longest_mm: float,
    border_mm: float,
    peel_mm: float | None,
    stock: str,
    copies: int | None,
    gap_mm: float,
    force: bool = False,
    splines: bool = False,
    plates: Mapping[str, Plate | AreaPlate] = NO_PLATES,
    bleed_mm: float = 0.0,
    scale: tuple[float, float] = (1.0, 1.0),
    crop_marks: bool = False,
    press: bytes | None = None,
    cut_only: bool = False,
    nest_s: int | None = None,
) -> dict:
    """Write the files of every sheet and `report.json` into `out`; returns the report.

    Args:
        stock: id or name of a stock, or the JSON file of a shop's record.
        copies: of each picture; None fills one sheet.
        force: replace files in `out` that were not written here.
        splines: write a DXF of splines too.
        plates: by process or kind of area; what has one goes into `plates.pdf` too.
        bleed_mm: how far the art's edge colours reach past it.
        scale: by how much the print file is larger along width and length; cut files stay as they are.
        crop_marks: print files on a larger page with crop marks, for whoever trims.
        press: the ICC profile of a press with four inks; print files are written in these too.
        cut_only: cut bare stock: no print file, and no marks.
        nest_s: seconds to search for a nest; None for rows and columns.

    Raises:
        MakeError: a picture cannot be read or has nothing to cut, nothing fits the sheet, or `out` cannot be written.
        ValidationError: a number is outside its limits.
    """
    if press is not None:
        try:
            sandbox.call(read_profile, press, kind=sandbox.work.PROFILE)
            if not is_cmyk(press):
                raise NotCmyk
        except ArtworkError as error:
            raise MakeError(f"--cmyk: {error.title} {error.detail}") from error
    watch = Stopwatch()
    artworks: dict[str, TracedArtwork] = {}
    pictures: dict[str, EncodedPicture] = {}
    bled: dict[str, NDArray[np.uint8]] = {}
    designs = []
    for number, path in enumerate(art):
        try:
            data, decoded = read_picture(path)
            watch.lap("decode")
            key = hashlib.sha256(data).hexdigest()
            artworks[key], rgba = trace_artwork(decoded, longest_mm=longest_mm)
        except ReadError as error:
            raise MakeError(str(error)) from error
        except ArtworkError as error:
            raise MakeError(f"{path}: {error.title} {error.detail}") from error
        watch.lap("trace")
        pictures[key] = _encoded(decoded, rgba)
        if bleed_mm > 0:
            bled[f"d{number + 1}"] = rgba
        watch.lap("encode")
        design = DesignRecipe(
            id=f"d{number + 1}",
            name=title_of(path),
            artwork=key,
            longest_mm=longest_mm,
            border_mm=border_mm,
            peel_mm=peel_mm,
            copies=copies or 1,
            lines=LineRecipe(bleed_mm=bleed_mm),
        )
        own = artworks[key].own_mm
        designs.append(as_die(design, max(own)) if artworks[key].is_die and own is not None else design)
    try:
        sheet = sheet_of(stock_of(stock), gap_mm, copies is None)
        more: dict[str, object] = {"cut_only": cut_only}
        if nest_s is not None:
            more |= {"method": "nest", "nest_s": nest_s}
        sheet = sheet.model_copy(update=more)
        searched = partial(nest, together=sandbox.beside, clock=time.monotonic)
        plan = plan_job(JobRecipe(designs=tuple(designs), sheet=sheet), artworks, nested=searched)
    except (StockError, LineError) as error:
        raise MakeError(str(error)) from error
    findings = [finding.model_dump() for finding in findings_of(plan)]
    watch.lap("plan")
    if not plan.sheets.sheets:
        raise MakeError(
            next((f["text"] for f in findings if f["severity"] == "stop"), "Nothing fits the sheet.")
        )
    names = [f"sheet-{number + 1:02d}" for number in range(len(plan.sheets.sheets))]
    cut_kinds = [kind for kind in CUT_WRITERS if splines or kind != "splines.dxf"]
    kinds = [*(() if cut_only else ("print.pdf",)), *(f"cut.{kind}" for kind in cut_kinds)]
    if plates:
        kinds.append("plates.pdf")
    if press is not None and not cut_only:
        kinds.append("cmyk.pdf")
    under = {
        design.id: picture
        for design in designs
        if design.id in bled and (picture := under_picture(plan, design, bled[design.id])) is not None
    }
    try:
        folder = Folder(out, (f"{name}.{kind}" for name in names for kind in kinds), force)
        machines = {"printer": sheet.printed_by.id, "plotter": sheet.cut_by.id}
        ink = _Ink(pictures, under, scale, crop_marks, press)
        report = _write(plan, folder, names, ink, cut_kinds, plates, watch) | {
            "findings": findings,
            "machines": machines,
        }
        folder.finish(report)
    except FolderError as error:
        raise MakeError(str(error)) from error
    except OSError as error:
        raise MakeError(f"{out} cannot be written: {error.strerror}.") from error
    return report


@dataclass(frozen=True)
class _Ink:
    """Pictures by their key, bleed by design, by how much the print file is larger on each axis, and crop marks or
    none."""

    pictures: dict[str, EncodedPicture]
    under: dict[str, EncodedPicture]
    scale: tuple[float, float]
    crop_marks: bool
    press: bytes | None


def _write(
    plan: JobPlan,
    folder: Folder,
    names: list[str],
    ink: "_Ink",
    cut_kinds: list[CutKind],
    plates: Mapping[str, Plate | AreaPlate],
    watch: Stopwatch,
) -> dict:
    """Write the files of every sheet; what the report says of them."""
    sheets, cuts = [], CutFiles(plan)
    lines = {what: plate for what, plate in plates.items() if isinstance(plate, Plate)}
    areas = {what: plate for what, plate in plates.items() if isinstance(plate, AreaPlate)}
    for number, name in enumerate(names):
        if not plan.recipe.sheet.cut_only:
            _write_printed(plan, folder, number, name, ink)
            watch.lap("print file")
        cut = cuts.sheet(number)
        for kind in cut_kinds:
            folder.write(f"{name}.cut.{kind}", cuts.file(kind, number))
        if plates:
            drawn = area_plates(plan, number, areas)
            folder.write(f"{name}.plates.pdf", write_plates_pdf(cuts.in_order(number), lines, drawn))
        watch.lap("cut files")
        sheets.append(
            {
                "files": name,
                "width_mm": cut.width_mm,
                "height_mm": cut.height_mm,
                "marks": [asdict(mark) for mark in plan.area.marks],
                "placements": _placements(plan, number),
                "lines": {process: asdict(total) for process, total in line_totals(cut).items()},
            }
        )
    return {
        "sheets": sheets,
        "designs": _designs(plan),
        "used_share": plan.sheets.used_share,
        "seconds": watch.seconds,
    }


def _write_printed(plan: JobPlan, folder: Folder, number: int, name: str, ink: "_Ink") -> None:
    printed = print_pdf(plan, number, ink.pictures, ink.under, scale=ink.scale)
    printed = with_notes(printed, plan.area, [note_of(plan, number)])
    if ink.crop_marks:
        printed = with_crop_marks(printed)
    folder.write(f"{name}.print.pdf", printed)
    if ink.press is not None:
        folder.write(f"{name}.cmyk.pdf", in_cmyk(printed, ink.press))


def _encoded(decoded: Decoded, rgba: NDArray[np.uint8]) -> EncodedPicture:
    if decoded.shapes is None or decoded.shapes.paths is None:
        return encode_picture(rgba)
    return encode_curves(decoded.shapes.paths, rgba.shape[1], rgba.shape[0], ToneRecipe())


def _placements(plan: JobPlan, number: int) -> list[dict]:
    names = {design.id: design.name for design in plan.recipe.designs}
    return [
        {
            "design": names[p.key],
            "design_id": p.key,
            "x_mm": p.x_mm,
            "y_mm": p.y_mm,
            "width_mm": p.width_mm,
            "height_mm": p.height_mm,
            "rotation_deg": p.rotation_deg,
        }
        for p in plan.sheets.sheets[number]
    ]


def _designs(plan: JobPlan) -> list[dict]:
    return [
        {
            "id": design.id,
            "name": design.name,
            "width_mm": plan.lines[design.id].width_mm,
            "height_mm": plan.lines[design.id].height_mm,
            "border_mm": design.border_mm,
            "pieces": plan.lines[design.id].pieces,
            "nodes": plan.lines[design.id].nodes,
        }
        for design in plan.recipe.designs
    ]
