"""Test cuts: ladders cut on a scrap, answered by a person, and the setting that goes into the book."""

from dataclasses import dataclass

import numpy as np
import structlog
from sqlalchemy.exc import IntegrityError, SQLAlchemyError

from perisect.core.cutting.belief import (
    ANSWERS,
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
from perisect.core.cutting.book import BookEntry, BookKey
from perisect.core.cutting.knife import KnifeSettings
from perisect.core.cutting.ladder import LadderPlace, ladder_program, ladder_size
from perisect.core.cutting.setting import CutSetting
from perisect.core.ledger.cut_picture import sheet_png
from perisect.core.process import TABLE
from perisect.core.sheet.equipment import StockRecipe
from perisect.core.sheet.force import ForceScale
from perisect.devices import DeviceError, PrintedSheet, open_plotter
from perisect.services.devices import allowed, plotter_at
from perisect.services.heartbeat import Heartbeat, until_written
from perisect.services.printing import TryLater
from perisect.store import blobs, book, jobs, ladders
from perisect.store.database import transaction
from perisect.store.ladders import UnderWay
from perisect.store.queue_entry import DEVICES, enqueue
from perisect.store.upkeep_models import LadderRow

log = structlog.get_logger()
SCRAP_MM = (120.0, 60.0)
MOST_LADDERS = 8
PX_PER_MM = 10.0


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


def begin(job_id: int, process: str) -> int:
    """A test cut of a process for a job's stock and plotter, its first ladder queued; its number.

    Raises:
        UnknownJob.
        NoLiner: the process stops on a liner and the stock has none.
        UnderWay: a ladder is being cut at this plotter.
        DeviceError: the shop no longer has the plotter.
    """
    with transaction() as session:
        sheet = jobs.recipe(session, jobs.get(session, job_id)).sheet
    plotter = plotter_at(sheet.cut_by.id).record
    with transaction() as session:
        found = book.known_of(session, sheet, plotter)[process]
        prior = prior_of(
            TABLE[process], sheet.on.face_um, sheet.on.liner_um, plotter.force, found.setting.force
        )
        forces = next_ladder(believe(prior, []), plotter.force)
        new = ladders.ask(
            session,
            plotter=plotter.id,
            stock_id=sheet.on.id,
            process=process,
            blade=plotter.blade,
            stock=sheet.on.model_dump(mode="json"),
            start=found.setting.model_dump(mode="json"),
            prior=prior.force,
            ladders=[{"forces": forces, "answers": []}],
        )
        enqueue(session, DEVICES, "cut_ladder", lock=f"plotter {plotter.id}", ladder_id=new.id)
        return new.id


def do_ladder(ladder_id: int) -> None:
    """Cut the last ladder of a test cut on a scrap.

    Raises:
        TryLater: the database is away.
    """
    try:
        with transaction() as session:
            row = ladders.begin(session, ladder_id)
            if row is None:
                return
            plotter_id, process = row.plotter, row.process
            stock = StockRecipe.model_validate(row.stock)
            start, forces = CutSetting.model_validate(row.start), row.ladders[-1]["forces"]
            number = len(row.ladders)
    except SQLAlchemyError as error:
        raise TryLater from error

    def beat(_: dict[str, object]) -> str | None:
        with transaction() as session:
            ladders.beat(session, ladder_id)
        return ""

    state, values = "failed", dict[str, object]()
    with Heartbeat(beat):
        try:
            photo = _cut(plotter_id, process, stock, start, forces)
            values["picture"] = blobs.put(f"ladders/{ladder_id}-{number}.png", photo) if photo else None
            state = "cut"
        except DeviceError as error:
            values["message"] = str(error)
        except blobs.DiskFull:
            values["message"] = "The disk is full, so the picture of the ladder could not be kept."
        except Exception:
            log.exception("test cut failed", ladder_id=ladder_id)
            values["message"] = "The ladder could not be cut; the log says why."

        def ended() -> None:
            with transaction() as session:
                ladders.change(session, ladder_id, "cutting", state=state, **values)

        until_written(ended)


def _cut(
    plotter_id: str, process: str, stock: StockRecipe, start: CutSetting, forces: list[float]
) -> bytes | None:
    plotter = plotter_at(plotter_id)
    record, (width, height) = plotter.record, ladder_size(len(forces))
    at = LadderPlace(
        record.corner_x_mm + (SCRAP_MM[0] - width) / 2, record.corner_y_mm + (SCRAP_MM[1] - height) / 2
    )
    white = np.full((round(SCRAP_MM[1] * PX_PER_MM), round(SCRAP_MM[0] * PX_PER_MM), 3), 255, np.uint8)
    scrap = PrintedSheet(sheet_png(white), PX_PER_MM, stock.face_um, stock.liner_um)
    knife = KnifeSettings(offset_mm=record.knife_offset_mm)
    with open_plotter(plotter.address, record.language, allowed()) as driver:
        driver.load(scrap)
        for step in ladder_program(process, start, forces, at, knife):
            driver.carry_out(step.motions)
        driver.park()
        photo = driver.photo()
        driver.unload()
    return photo


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
        UnderWay: a ladder is being cut at this plotter.
        DeviceError: the shop no longer has the plotter.
    """
    with transaction() as session:
        row = _row(session.get(LadderRow, ladder_id))
        judged = judge(row)
    with transaction() as session:
        row = _row(session.get(LadderRow, ladder_id, with_for_update=True))
        if row.state == "failed":
            forces, kept = row.ladders[-1]["forces"], row.ladders[:-1]
        elif row.state == "answered":
            forces, kept = judged.next_forces, row.ladders
        else:
            raise NotNow(row.state)
        if len(kept) >= MOST_LADDERS:
            raise NotNow("finished")
        row.ladders = [*kept, {"forces": forces, "answers": []}]
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
        key = BookKey(stock=row.stock_id, process=row.process, plotter=row.plotter, blade=row.blade)
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
    return entry


def _row(row: LadderRow | None) -> LadderRow:
    if row is None:
        raise NoSuchTest
    return row
