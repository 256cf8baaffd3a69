"""Test cuts: ladders cut on a scrap, answered by a person, and the setting that goes into the book."""

from dataclasses import dataclass
from typing import Any, ClassVar

from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from perisect.core.cutting.belief import (
    ANSWERS,
    MAX_LADDERS,
    Answer,
    Belief,
    Proposal,
    Tried,
    believe,
    next_ladder,
    prior_of,
    propose,
    trouble,
)
from perisect.core.cutting.book import BookEntry
from perisect.core.cutting.knife import knife_of
from perisect.core.cutting.ladder import ladder_program
from perisect.core.cutting.setting import CutSetting
from perisect.core.process import TABLE
from perisect.core.sheet.equipment import StockRecipe
from perisect.core.sheet.force import ForceScale
from perisect.devices.cut_run import CutStopped
from perisect.devices.errors import DeviceError
from perisect.devices.open import open_plotter
from perisect.services.device_pictures import photo_by
from perisect.services.device_task import DeviceTask, Ending
from perisect.services.devices import allowed, plotter_at
from perisect.services.heartbeat import Heartbeat
from perisect.services.ladder_place import (
    as_laid,
    ladder_subject,
    laid_in,
    lay,
    place_of,
    shown_picture,
    where_it_lies,
)
from perisect.store import blobs, book, ladders
from perisect.store.database import transaction
from perisect.store.ladders import UnderWay
from perisect.store.models import Print
from perisect.store.prints import UnknownPrint
from perisect.store.queue_entry import DEVICES, enqueue
from perisect.store.upkeep_models import LadderRow


class NoSuchTest(LookupError):
    """There is no such test cut."""


class NotNow(Exception):
    """The test cut stands otherwise; the attribute is its state."""

    def __init__(self, state: str) -> None:
        super().__init__(state)
        self.state = state


@dataclass(frozen=True)
class Judged:
    """What the answers so far say."""

    belief: Belief
    proposal: Proposal
    scale: ForceScale
    next_forces: list[float]
    trouble: str | None


def begin(job_id: int, process: str, print_id: int | None = None, on_sheet: bool = False) -> int:
    """A test cut of a process for a job's stock and plotter, its first ladder queued; its number.

    Args:
        print_id: the print that is going to be cut, whose stock and film are tested.
        on_sheet: on the spare area of that print instead of a scrap.

    Raises:
        UnknownJob, UnknownPrint.
        NotPrinted: there is no such sheet to cut on.
        NoRoom: it has no spare area for a ladder.
        NoLiner: the process stops on a liner and the stock has none.
        UnderWay: a ladder is being cut at this plotter.
        DeviceError: the shop no longer has the plotter.
    """
    on = ladder_subject(job_id, print_id, on_sheet)
    stock, plotter = on.stock, plotter_at(on.sheet.cut_by.id).record
    with transaction() as session:
        found = book.known_of(session, on.sheet, plotter, on.laminated)[process]
        prior = prior_of(TABLE[process], stock.face_um, stock.liner_um, plotter.force, found.setting.force)
        forces = next_ladder(believe(prior, []), plotter.force)
        new = ladders.ask(
            session,
            plotter=plotter.id,
            stock_id=stock.id,
            process=process,
            blade=plotter.blade,
            laminated=on.laminated,
            print_id=print_id if on_sheet else None,
            stock=stock.model_dump(mode="json"),
            start=found.setting.model_dump(mode="json"),
            prior=prior.force,
            ladders=[lay(session, on, forces, plotter)],
        )
        enqueue(session, DEVICES, "cut_ladder", lock=f"plotter {plotter.id}", ladder_id=new.id)
        return new.id


class LadderTask(DeviceTask):
    """The last ladder of a test cut, on a scrap or on the spare area of a printed sheet."""

    name = "test cut"
    refusals: ClassVar = (DeviceError, CutStopped)
    disk_full = "The disk is full, so the picture of the ladder could not be kept."
    fault = "The ladder could not be cut; the log says why."
    row: LadderRow

    def begin(self, session: Session) -> bool:
        row = ladders.begin(session, self.row_id)
        if row is None:
            return False
        session.expunge(row)
        self.row = row
        return True

    def say(self, values: dict[str, Any]) -> str:
        with transaction() as session:
            ladders.beat(session, self.row_id)
        return ""

    def work(self, beat: Heartbeat) -> Ending:
        row = self.row
        stock, start = StockRecipe.model_validate(row.stock), CutSetting.model_validate(row.start)
        photo = _cut(row.plotter, row.process, stock, start, as_laid(row.ladders[-1]), row.print_id)
        name = f"ladders/{self.row_id}-{len(row.ladders)}.png"
        return Ending("cut", {"picture": blobs.put(name, photo) if photo else None})

    def message_of(self, error: Exception) -> str:
        if isinstance(error, UnknownPrint):
            return "The printed sheet is gone. Begin a new test on a scrap."
        return super().message_of(error)

    def end(self, session: Session, ending: Ending) -> None:
        ladders.change(session, self.row_id, "cutting", state=ending.state, **ending.values)


def do_ladder(ladder_id: int) -> None:
    """Cut the last ladder of a test cut.

    Raises:
        TryLater: the database is away.
    """
    LadderTask(ladder_id).perform()


def _cut(
    plotter_id: str,
    process: str,
    stock: StockRecipe,
    start: CutSetting,
    ladder: dict[str, Any],
    print_id: int | None,
) -> bytes | None:
    plotter = plotter_at(plotter_id)
    record, at = plotter.record, place_of(ladder, plotter.record)
    sheet = laid_in(ladder, stock, print_id)
    knife = knife_of(record)
    with open_plotter(plotter.address, record.language, allowed()) as driver:
        driver.load(sheet)
        lies = where_it_lies(driver, ladder, print_id, record)
        for step in ladder_program(process, start, ladder["forces"], at, knife, lies):
            driver.carry_out(step.motions)
        driver.park()
        photo = photo_by(driver)
        driver.unload()
    return None if photo is None else shown_picture(photo, ladder)


def answer(ladder_id: int, answers: list[Answer]) -> None:
    """Say how the steps of the last ladder came off, in their order; said again it is corrected.

    Raises:
        NoSuchTest, NotNow.
        ValueError: not as many answers as steps.
    """
    with transaction() as session:
        row = _row(session.get(LadderRow, ladder_id, with_for_update=True))
        if row.state not in ("cut", "answered"):
            raise NotNow(row.state)
        *before, last = row.ladders
        if len(answers) != len(last["forces"]):
            raise ValueError(f"the ladder has {len(last['forces'])} steps")
        row.ladders = [*before, last | {"answers": list(answers)}]
        row.state = "answered"


def another(ladder_id: int) -> None:
    """Cut a further ladder, where the answers so far leave most open.

    Raises:
        NoSuchTest, NotNow.
        UnknownPrint, NotPrinted: the sheet it was cut on is gone.
        NoRoom: that sheet has no spare area left.
        UnderWay: a ladder is being cut at this plotter.
        DeviceError: the shop no longer has the plotter.
    """
    with transaction() as session:
        row = _row(session.get(LadderRow, ladder_id))
        judged, print_id, was, plotter_id = judge(row), row.print_id, row.ladders[-1], row.plotter
        job_id = None if print_id is None else session.get_one(Print, print_id).job_id
    on = None if job_id is None else ladder_subject(job_id, print_id, on_sheet=True)
    plotter = plotter_at(plotter_id).record
    with transaction() as session:
        row = _row(session.get(LadderRow, ladder_id, with_for_update=True))
        if row.state == "failed":
            forces, kept = row.ladders[-1]["forces"], row.ladders[:-1]
        elif row.state == "answered":
            forces, kept = judged.next_forces, row.ladders
        else:
            raise NotNow(row.state)
        if len(kept) >= MAX_LADDERS:
            raise NotNow("finished")
        laid = lay(session, on, forces, plotter)
        if row.state == "failed":
            # The sheet may bear some of it already.
            laid["spoiled"] = [*was.get("spoiled", ()), *([was["box"]] if on else ())]
        row.ladders = [*kept, laid]
        row.state, row.message = "queued", None
        try:
            session.flush()
        except IntegrityError as error:
            raise UnderWay from error
        enqueue(session, DEVICES, "cut_ladder", lock=f"plotter {row.plotter}", ladder_id=ladder_id)


def judge(row: LadderRow) -> Judged:
    """What a test cut says so far.

    Raises:
        DeviceError: the shop no longer has the plotter.
    """
    stock, scale = StockRecipe.model_validate(row.stock), plotter_at(row.plotter).record.force
    tried = [
        Tried(force, told)
        for ladder in row.ladders
        for force, told in zip(ladder["forces"], ladder["answers"], strict=False)
        if told in ANSWERS
    ]
    prior = prior_of(TABLE[row.process], stock.face_um, stock.liner_um, scale, row.prior)
    belief = believe(prior, tried)
    return Judged(belief, propose(belief, scale), scale, next_ladder(belief, scale), trouble(tried, scale))


def take(ladder_id: int) -> BookEntry:
    """Put what a test cut proposes into the book.

    Raises:
        NoSuchTest, NotNow, DeviceError.
        BookFull.
    """
    with transaction() as session:
        row = _row(session.get(LadderRow, ladder_id))
        if row.state != "answered":
            raise NotNow(row.state)
        judged = judge(row)
        key = book.tested_key(row)
        setting = CutSetting.model_validate(row.start).model_copy(update={"force": judged.proposal.force})
        steps = sum(len(ladder["answers"]) for ladder in row.ladders)
        entry = BookEntry(
            key=key,
            setting=setting,
            source="test",
            sure=round(judged.proposal.probability_clean, 4),
            note=f"test cut of {steps} steps",
        )
        book.save(session, entry)
        # Taken twice it is one test, of when it was taken last.
        row.taken_force, row.taken_m = setting.force, book.blade_metres(session, row.plotter)
    return entry


def _row(row: LadderRow | None) -> LadderRow:
    if row is None:
        raise NoSuchTest
    return row
