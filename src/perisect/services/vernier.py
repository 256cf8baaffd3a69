"""Calibrate a plotter by one sheet: a page printed, cut, and read by a person."""

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from pydantic import ValidationError
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from perisect.core.cutting.knife import axis_path, knife_of
from perisect.core.cutting.program import Tool, stroke
from perisect.core.cutting.setting import CutSetting, default_setting
from perisect.core.cutting.trueing import Trueing
from perisect.core.ledger.cut_picture import decode_sheet, draw_cuts, sheet_png
from perisect.core.ledger.vernier import error_of
from perisect.core.prepress.head_pattern import PageTooSmall
from perisect.core.prepress.vernier import combs, teeth_cut, vernier_pdf
from perisect.core.process import process
from perisect.core.sheet.panel import area_of
from perisect.core.sheet.recipe import SheetRecipe
from perisect.core.sheet.usable import UsableArea
from perisect.devices.cut_run import CutJob, CutStopped, sense
from perisect.devices.errors import DeviceError
from perisect.devices.open import open_plotter
from perisect.devices.protocols import PrintedSheet
from perisect.services.device_pictures import photo_by, print_at
from perisect.services.device_task import DeviceTask, Ending
from perisect.services.devices import allowed, plotter_at, printer_at
from perisect.services.heartbeat import Heartbeat
from perisect.store import blobs, book, jobs, trueings, verniers
from perisect.store.database import transaction
from perisect.store.queue_entry import DEVICES, enqueue


class LedByHand(Exception):
    """The plotter has no sensor, so there is nothing between its sensor and its blade."""


class TooFarOff(Exception):
    """The plotter is off by more than can be corrected."""


class NotCut(Exception):
    """The page is not cut; the attribute is how it stands."""

    def __init__(self, state: str) -> None:
        super().__init__(state)
        self.state = state


@dataclass(frozen=True)
class Page:
    """A calibration page on the stock of a sheet, for its printer and plotter."""

    sheet: SheetRecipe
    area: UsableArea

    @property
    def pdf(self) -> bytes:
        """To be printed.

        Raises:
            PageTooSmall.
        """
        return vernier_pdf(
            self.area.stock, list(self.area.marks), self.area.machine.marks, self.sheet.cut_by.name
        )


def page_of(sheet: SheetRecipe) -> Page:
    """The page for a job's machines and stock; of a roll no more than a sheet's length.

    Raises:
        PageTooSmall: the stock has no room for it.
    """
    whole = sheet.model_copy(
        update={
            "from_mm": 0.0,
            "until_mm": None,
            "card": None,
            "marks_at": (),
            "scrap": None,
            "panel_mm": LONGEST_MM,
        }
        if sheet.on.kind == "roll"
        else {"from_mm": 0.0, "until_mm": None, "card": None, "marks_at": (), "scrap": None}
    )
    area = area_of(whole, [])
    combs(area.stock)
    return Page(whole, area)


LONGEST_MM = 297.0


def ask_for_page(job_id: int) -> int:
    """Queue a page at a job's printer; its number.

    Raises:
        UnknownJob, DeviceError, DiskFull, LedByHand.
        PageTooSmall: the stock has no room for it.
        UnderWay: one is printed or cut for this plotter.
    """
    blobs.need_room()
    with transaction() as session:
        page = page_of(jobs.recipe(session, jobs.get(session, job_id)).sheet)
    printer, plotter = printer_at(page.sheet.printed_by.id).record, plotter_at(page.sheet.cut_by.id).record
    if not plotter.has_sensor:
        raise LedByHand
    with transaction() as session:
        new = verniers.ask(session, plotter.id, page.sheet.model_dump(mode="json"))
        enqueue(session, DEVICES, "print_vernier", lock=f"printer {printer.id}", page_id=new.id)
        return new.id


def ask_for_cut(page_id: int) -> None:
    """Queue the cut of a page that is printed.

    Raises:
        NotCut: it is not printed, or being cut.
    """
    try:
        with transaction() as session:
            row = verniers.turn(session, page_id, ("printed", "cut", "failed"), "waiting")
            if row is None:
                raise NotCut(verniers.state_of(session, page_id))
            enqueue(session, DEVICES, "cut_vernier", lock=f"plotter {row.plotter}", page_id=page_id)
    except IntegrityError as error:
        raise NotCut("an older one, and a new one is under way") from error


class PageTask(DeviceTask):
    """A calibration page at its printer, or at its plotter."""

    name = "calibration page"
    refusals: ClassVar = (DeviceError, CutStopped, PageTooSmall)
    disk_full = "The disk is full, so the page could not be kept."
    fault = "The page failed for a reason of Perisect's own; the log has it."
    was: ClassVar[str]
    during: ClassVar[str]
    page: Page
    picture: str | None
    px_per_mm: float | None

    def begin(self, session: Session) -> bool:
        row = verniers.turn(session, self.row_id, (self.was,), self.during)
        if row is None:
            return False
        self.page = page_of(SheetRecipe.model_validate(row.sheet))
        self.picture, self.px_per_mm = row.picture, row.px_per_mm
        return True

    def say(self, values: dict[str, Any]) -> str:
        with transaction() as session:
            verniers.beat(session, self.row_id)
        return ""

    def end(self, session: Session, ending: Ending) -> None:
        verniers.end(session, self.row_id, self.during, ending.state, **ending.values)


class PrintPage(PageTask):
    """A queued page at its printer."""

    was, during = "queued", "printing"

    def work(self, beat: Heartbeat) -> Ending:
        return Ending("printed", _print(self.row_id, self.page))


class CutPage(PageTask):
    """A printed page at its plotter."""

    was, during = "waiting", "cutting"

    def work(self, beat: Heartbeat) -> Ending:
        return Ending("cut", _cut(self.row_id, self.page, self.picture, self.px_per_mm))


def do_print(page_id: int) -> None:
    """Print a queued page.

    Raises:
        TryLater: the database is away.
    """
    PrintPage(page_id).perform()


def do_cut(page_id: int) -> None:
    """Cut a page that is printed.

    Raises:
        TryLater: the database is away.
    """
    CutPage(page_id).perform()


def _print(page_id: int, page: Page) -> dict[str, object]:
    printed = print_at(printer_at(page.sheet.printed_by.id), page.pdf)
    if printed is None:
        return {"message": None}
    name = blobs.put(f"verniers/{page_id}.png", printed.png)
    return {"picture": name, "px_per_mm": printed.px_per_mm, "message": None}


def _cut(page_id: int, page: Page, picture: str | None, k: float | None) -> dict[str, object]:
    plotter, stock = plotter_at(page.sheet.cut_by.id), page.area.stock
    record = plotter.record
    with transaction() as session:
        trueing = trueings.of(session, record.id)
        settings = book.settings_of(session, page.sheet, record)
    kiss = process("kiss")
    setting: CutSetting = settings.get(kiss.name) or default_setting(kiss, record.force)
    job = CutJob(
        page.area.marks,
        page.area.machine.marks,
        stock.height_mm,
        (),
        (record.corner_x_mm, record.corner_y_mm),
    )
    printed = PrintedSheet((blobs.get(picture) if picture else None) or b"", k or 1.0)
    knife = knife_of(record)
    with open_plotter(plotter.address, record.language, allowed()) as driver:
        driver.load(printed)
        fit = trueing.trued(sense(driver, job), (stock.width_mm / 2, stock.height_mm / 2))
        heading = 0.0
        driver.carry_out([Tool(kiss.name, kiss.pen, setting.speed_cm_s, setting.force)])
        for line in teeth_cut(stock):
            tip = fit.apply(line)
            # The blade comes in along the tooth, so that it lies in it from its first point.
            way = (tip[1] - tip[0]) / np.hypot(*(tip[1] - tip[0]))
            heading = float(np.arctan2(way[1], way[0]))
            axis = axis_path(tip, heading, knife)
            driver.carry_out(stroke(axis, knife, setting.force))
        driver.park()
        photo, out = photo_by(driver), driver.unload()
    if out.strokes is not None and printed.png:
        # A cut is finer than a camera shows it; the combs are read where it went.
        sheet = draw_cuts(decode_sheet(printed.png).copy(), printed.px_per_mm, out.strokes, out.pens, 1)
        photo = sheet_png(sheet)
    name = blobs.put(f"verniers/{page_id}-cut.png", photo) if photo else None
    return {"photo": name, "trued": trueing.model_dump(), "message": None}


def read(page_id: int, readings_mm: dict[str, float], reads_to_mm: float) -> Trueing:
    """Take what the combs show out of every cut from now on; read again it is corrected.

    Raises:
        NotCut: the page is not cut.
    """
    with transaction() as session:
        row = verniers.turn(session, page_id, ("cut", "read"), "read")
        if row is None:
            raise NotCut(verniers.state_of(session, page_id))
        page, before = page_of(SheetRecipe.model_validate(row.sheet)), Trueing.model_validate(row.trued or {})
        found = error_of(readings_mm, page.area.stock, reads_to_mm)
        # The page was cut trued by what held then: what is left comes to it.
        more = {n: getattr(before, n) + getattr(found, n) for n in Trueing.model_fields}
        try:
            now = Trueing(**more)
        except ValidationError as error:
            raise TooFarOff from error
        row.readings = readings_mm
        trueings.save(session, row.plotter, now)
        return now
