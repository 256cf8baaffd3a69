"""Check a printer's head: its pattern printed by the link or by whoever prints, and read by eye or from a picture."""

from dataclasses import asdict
from functools import partial
from typing import Any, ClassVar

import numpy as np
from sqlalchemy.orm import Session

from perisect import sandbox
from perisect.core.artwork import decode
from perisect.core.prepress.head_pattern import PageTooSmall, head_pattern_pdf
from perisect.core.prepress.head_read import Gap, NotThePattern, read_head
from perisect.core.sheet.equipment import StockRecipe
from perisect.core.sheet.stock import Stock
from perisect.devices.errors import DeviceError
from perisect.services.device_pictures import print_at
from perisect.services.device_task import DeviceTask, Ending
from perisect.services.devices import printer_at
from perisect.services.heartbeat import Heartbeat
from perisect.store import blobs, head_checks
from perisect.store.database import transaction
from perisect.store.queue_entry import DEVICES, enqueue

LONGEST_MM = 297.0
"""Of a roll the pattern takes no more than this."""


def page_of(stock: StockRecipe) -> Stock:
    """What the pattern is printed on."""
    return stock.panel(min(stock.height_mm, LONGEST_MM))


def ask_for_pattern(printer_id: str, stock: StockRecipe) -> int:
    """Queue the pattern at its printer; the check's number.

    Raises:
        DeviceError: the shop no longer has the printer.
        PageTooSmall: the stock has no room for the pattern.
        UnderWay: the printer prints one already.
        DiskFull.
    """
    blobs.need_room()
    printer = printer_at(printer_id).record
    head_pattern_pdf(page_of(stock), printer.name)
    with transaction() as session:
        check = head_checks.ask(session, printer_id, stock.model_dump(mode="json"))
        enqueue(session, DEVICES, "print_pattern", lock=f"printer {printer_id}", check_id=check.id)
        return check.id


class PatternTask(DeviceTask):
    """A head pattern at its printer."""

    name = "pattern"
    refusals: ClassVar = (DeviceError, PageTooSmall)
    disk_full = "The disk is full, so the printed pattern could not be kept."
    fault = "The pattern could not be printed; the log says why."
    printer: str
    stock: StockRecipe

    def begin(self, session: Session) -> bool:
        row = head_checks.begin(session, self.row_id)
        if row is None:
            return False
        self.printer, self.stock = row.printer, StockRecipe.model_validate(row.stock)
        return True

    def say(self, values: dict[str, Any]) -> str:
        with transaction() as session:
            head_checks.beat(session, self.row_id)
        return ""

    def work(self, beat: Heartbeat) -> Ending:
        printer = printer_at(self.printer)
        printed = print_at(printer, head_pattern_pdf(page_of(self.stock), printer.record.name))
        if printed is None:
            return Ending("printed")
        name = blobs.put(f"head-checks/{self.row_id}.png", printed.png)
        return Ending("printed", {"picture": name, "px_per_mm": printed.px_per_mm})

    def end(self, session: Session, ending: Ending) -> None:
        head_checks.end(session, self.row_id, ending.state, **ending.values)


def do_pattern(check_id: int) -> None:
    """Print a queued pattern and keep the printed page.

    Raises:
        TryLater: the database is away.
    """
    PatternTask(check_id).perform()


class NoSuchCheck(LookupError):
    """There is no pattern of this number that can be read."""


def say_gaps(printer_id: str, stock: StockRecipe, gaps: list[Gap], check_id: int | None) -> None:
    """Keep where the head has gaps.

    Raises:
        NoSuchCheck: of that number none is printed.
    """
    told = [asdict(gap) for gap in gaps]
    with transaction() as session:
        if not head_checks.keep_read(session, printer_id, stock.model_dump(mode="json"), told, check_id):
            raise NoSuchCheck(check_id)


def read_picture(data: bytes, stock: StockRecipe) -> list[Gap]:
    """Gaps on a scan or photo of the pattern.

    Raises:
        ArtworkError: it is no picture.
        NotThePattern: it does not show the pattern.
    """
    found = sandbox.call(partial(_read, page=page_of(stock)), data, kind=sandbox.work.SCAN)
    if isinstance(found, str):
        raise NotThePattern(found)
    return found


def _read(data: bytes, page: Stock) -> list[Gap] | str:
    """Gaps, or why there are none to tell: a reader hands only its own errors on."""
    try:
        return read_head(np.ascontiguousarray(decode(data).rgba[..., :3]), page)
    except NotThePattern as error:
        return str(error)
