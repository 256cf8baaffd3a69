"""What a test cut is made on: a scrap, or the spare area of a printed sheet, under film or not."""

import io
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from PIL import Image
from sqlalchemy.orm import Session

from perisect.core.cutting.ladder import LadderPlace, Points, ladder_size, step_corner
from perisect.core.cutting.spare import CLEAR_MM, clear_unsensed, spare_place
from perisect.core.job import JobRecipe
from perisect.core.ledger.cut_picture import sheet_png
from perisect.core.prepress.film import film_box
from perisect.core.sheet.equipment import StockRecipe
from perisect.core.sheet.placing import boxes_on
from perisect.core.sheet.recipe import SheetRecipe
from perisect.core.sheet.shop_records import PlotterRecord
from perisect.devices.cut_run import CutJob, lay_in_corner, sense
from perisect.devices.protocols import PlotterDriver, PrintedSheet
from perisect.services.cut_requests import NotPrinted
from perisect.services.handing_out import printed_picture
from perisect.services.laminating import is_laminated
from perisect.services.plans import Planned, plan
from perisect.store import blobs, jobs, ladders
from perisect.store.database import transaction
from perisect.store.models import Print
from perisect.store.prints import UnknownPrint

SCRAP_MM = (120.0, 60.0)
PX_PER_MM = 10.0
ROUND_MM, BELOW_MM = 5.0, 6.0
"""What is shown round a ladder, and below it, where its forces are written."""


class NoRoom(Exception):
    """No ladder fits on what a sheet leaves bare."""


@dataclass(frozen=True)
class LadderSubject:
    """What a job's test is about: its sheet, the print it was asked for, whether that is under film."""

    sheet: SheetRecipe
    print_id: int | None
    laminated: bool
    planned: Planned | None
    """Of the print, where its own spare area is to be used; with the number of its sheet."""
    number: int = 0

    @property
    def stock(self) -> StockRecipe:
        """What the blade goes through."""
        return self.sheet.on.under_film() if self.laminated else self.sheet.on


def ladder_subject(job_id: int, print_id: int | None, on_sheet: bool = False) -> LadderSubject:
    """What is tested for a job, or for one of its prints as it was printed.

    Raises:
        UnknownJob, UnknownPrint.
        NotPrinted: its spare area is to be used and it is not printed.
    """
    with transaction() as session:
        job = jobs.get(session, job_id)
        if print_id is None:
            return LadderSubject(jobs.recipe(session, job).sheet, None, False, None)
        row = session.get(Print, print_id)
        if row is None or row.job_id != job_id:
            raise UnknownPrint(print_id)
        if on_sheet and row.state != "printed":
            raise NotPrinted(print_id)
        recipe, number = JobRecipe.model_validate(row.recipe), row.sheet
        laminated = is_laminated(session, print_id)
    if not on_sheet:
        return LadderSubject(recipe.sheet, print_id, laminated, None)
    planned = plan(recipe)
    planned.cut_files.sheet(number)  # Worked out here, where no transaction is open.
    return LadderSubject(recipe.sheet, print_id, laminated, planned, number)


def as_laid(ladder: Mapping[str, Any]) -> dict[str, Any]:
    """A ladder with its place, which those of before it was kept had in the middle of a scrap."""
    return dict(ladder) if "of" in ladder else _on_scrap(ladder["forces"]) | dict(ladder)


def _on_scrap(forces: list[float]) -> dict[str, Any]:
    width, height = ladder_size(len(forces))
    left, top = (SCRAP_MM[0] - width) / 2, (SCRAP_MM[1] - height) / 2
    box = (left, top, left + width, top + height)
    return {"forces": forces, "answers": [], "box": box, "columns": len(forces), "of": SCRAP_MM}


def lay(
    session: Session, on: LadderSubject | None, forces: list[float], plotter: PlotterRecord
) -> dict[str, Any]:
    """A ladder as it is kept: forces, no answers yet, its box, its columns, and the size of what it lies on, mm; on a
    scrap where it is not to be on a sheet.

    Raises:
        NoRoom: there is no spare area for it.
    """
    if on is None or on.planned is None or on.print_id is None:
        return _on_scrap(forces)
    made = on.planned.plan
    boxes = boxes_on({each.key: each for each in made.footprints}, made.sheets.sheets[on.number])
    cut = on.planned.cut_files.sheet(on.number)
    lines = [np.vstack([line, line[:1]]) for each in cut.lines.values() for line in each if len(line)]
    within = film_box(made.area) if on.laminated else None
    earlier = ladders.taken_on(session, on.print_id)
    clear = CLEAR_MM if plotter.has_sensor else clear_unsensed(made.area)
    found = spare_place(made.area, [*boxes, *earlier], lines, len(forces), within, clear)
    if found is None:
        raise NoRoom
    of = (made.area.stock.width_mm, made.area.stock.height_mm)
    return {"forces": forces, "answers": [], "box": found.box, "columns": found.columns, "of": of}


def place_of(ladder: Mapping[str, Any], plotter: PlotterRecord) -> LadderPlace:
    """Where a ladder stands on a plotter's plate."""
    left, _, _, bottom = ladder["box"]
    x, y = plotter.corner_x_mm + left, plotter.corner_y_mm + ladder["of"][1] - bottom
    return LadderPlace(x, y, ladder["columns"])


def where_it_lies(
    driver: PlotterDriver, ladder: Mapping[str, Any], print_id: int | None, plotter: PlotterRecord
) -> Callable[[Points], Points]:
    """From where a sheet that lies perfectly would be on the plate to where it is, by its marks where they are sensed.

    Raises:
        CutStopped: they are not all there.
        UnknownPrint.
    """
    if print_id is None or tuple(ladder["of"]) == SCRAP_MM or not (plotter.has_sensor and driver.can_look):
        return lambda points: points
    with transaction() as session:
        row = session.get(Print, print_id)
        if row is None:
            raise UnknownPrint(print_id)
        recipe = JobRecipe.model_validate(row.recipe)
    area = plan(recipe).plan.area
    corner, height = (plotter.corner_x_mm, plotter.corner_y_mm), area.stock.height_mm
    find = sense if area.marks else lay_in_corner
    fit = find(driver, CutJob(area.marks, area.machine.marks, height, (), corner))
    return lambda points: fit.apply((points - corner) * (1, -1) + (0, height))


def laid_in(ladder: Mapping[str, Any], stock: StockRecipe, print_id: int | None) -> PrintedSheet:
    """What is laid into the plotter: the printed sheet, or a bare scrap.

    Raises:
        UnknownPrint: the sheet is gone.
    """
    if tuple(ladder["of"]) == SCRAP_MM:
        white = np.full((round(SCRAP_MM[1] * PX_PER_MM), round(SCRAP_MM[0] * PX_PER_MM), 3), 255, np.uint8)
        return PrintedSheet(sheet_png(white), PX_PER_MM, stock.face_um, stock.liner_um)
    if print_id is None:
        raise UnknownPrint(0)
    picture, px_per_mm = printed_picture(print_id) or ("", 1.0)
    return PrintedSheet(blobs.get(picture) or b"", px_per_mm, stock.face_um, stock.liner_um)


def shown_box(ladder: Mapping[str, Any]) -> tuple[float, float, float, float]:
    """Left, top, right, bottom of what is shown of the sheet a ladder lies on, mm."""
    width, height = ladder["of"]
    if (width, height) == SCRAP_MM:
        return 0.0, 0.0, width, height
    left, top, right, bottom = ladder["box"]
    return (
        max(0.0, left - ROUND_MM),
        max(0.0, top - ROUND_MM),
        min(width, right + ROUND_MM),
        min(height, bottom + BELOW_MM),
    )


def labels_of(ladder: Mapping[str, Any]) -> list[tuple[float, float]]:
    """Where each step's force is written, mm in the picture that is shown."""
    left, _, _, bottom = ladder["box"]
    from_x, from_y, *_ = shown_box(ladder)
    corners = [step_corner(step, ladder["columns"]) for step in range(len(ladder["forces"]))]
    return [(left + right + 3.0 - from_x, bottom - up + 3.6 - from_y) for right, up in corners]


def shown_picture(photo: bytes, ladder: Mapping[str, Any]) -> bytes:
    """What is shown of a photo of the whole sheet, as a PNG."""
    with Image.open(io.BytesIO(photo)) as whole:
        scale = whole.width / ladder["of"][0]
        part = whole.crop(tuple(round(side * scale) for side in shown_box(ladder)))
        return sheet_png(np.asarray(part.convert("RGB"), np.uint8))
