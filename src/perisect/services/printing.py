"""Print sheets: ask for one, and what a worker does with the printer."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, ClassVar, Literal
from uuid import uuid4

from sqlalchemy.orm import Session

from perisect.core.artwork import ArtworkError, ToneRecipe
from perisect.core.job import JobRecipe
from perisect.core.prepress.margin_note import Note, NoteImpossible, set_note
from perisect.devices.errors import DeviceError
from perisect.devices.protocols import PrintedSheet
from perisect.services import stockroom
from perisect.services.device_pictures import print_at
from perisect.services.device_task import DeviceTask, Ending
from perisect.services.devices import printer_at
from perisect.services.heartbeat import Heartbeat
from perisect.services.nests import nested_plan
from perisect.services.plans import Planned, plan
from perisect.services.print_files import PrintNote, noted_pdf
from perisect.store import blobs, jobs, prints, scales, scraps, tones
from perisect.store.database import transaction
from perisect.store.locks import hold
from perisect.store.models import Print
from perisect.store.queue_entry import DEVICES, enqueue


class NoSuchSheet(LookupError):
    """A job has no sheet of this number; the attribute says how many it has."""

    def __init__(self, number: int, there: int) -> None:
        super().__init__(number)
        self.number, self.there = number, there


class CutOnly(Exception):
    """The job is cut from bare stock, and nothing of it is printed."""


class WaitsForNest(Exception):
    """The sheet's nest is not searched yet."""


def plan_with_sheet(job_id: int, number: int) -> Planned:
    """The job's plan, which has a sheet of this number (from 1).

    Raises:
        UnknownJob: no such job.
        NoSuchSheet: it has not.
    """
    with transaction() as session:
        recipe = jobs.recipe(session, jobs.get(session, job_id))
    planned = plan(recipe)
    if not 1 <= number <= len(planned.plan.sheets.sheets):
        raise NoSuchSheet(number, len(planned.plan.sheets.sheets))
    return planned


def nested_with_sheet(job_id: int, number: int) -> Planned:
    """As `plan_with_sheet`, its nest searched first where it is not yet.

    Raises:
        UnknownJob, NoSuchSheet.
    """
    planned = plan_with_sheet(job_id, number)
    if planned.plan.layout.waiting:
        planned = nested_plan(planned.plan.recipe)
        if number > len(planned.plan.sheets.sheets):
            raise NoSuchSheet(number, len(planned.plan.sheets.sheets))
    return planned


@dataclass(frozen=True)
class Copies:
    """Sheets `first` to `last` (from 1), so many times each; with names a copy for each of them."""

    first: int = 1
    last: int = 1
    count: int = 1
    names: tuple[str, ...] = ()

    @property
    def each(self) -> list[tuple[int, int, str]]:
        """Sheet, copy and name, in the order of printing: all sheets of one copy before those of the next."""
        names = self.names or ("",) * self.count
        return [
            (sheet, copy, name)
            for copy, name in enumerate(names, start=1)
            for sheet in range(self.first, self.last + 1)
        ]


class TooManyPrints(Exception):
    """More prints at once than can be meant; the attribute is how many."""

    def __init__(self, many: int) -> None:
        super().__init__(many)
        self.many = many


MOST_AT_ONCE = 500


def ask_for_prints(job_id: int, copies: Copies, way: prints.Way) -> tuple[list[Print], Planned]:
    """Queue sheets at their printer, or hand them out to whoever prints them.

    Raises:
        UnknownJob, NoSuchSheet, TooManyPrints.
        NoteImpossible: a name cannot be written in the margin.
        CutOnly: nothing of the job is printed.
        DeviceError: the shop no longer has its printer.
        DiskFull: there is no room.
    """
    blobs.need_room()
    planned = nested_with_sheet(job_id, copies.first)
    if planned.plan.recipe.sheet.cut_only:
        raise CutOnly
    there = len(planned.plan.sheets.sheets)
    if not copies.first <= copies.last <= there:
        raise NoSuchSheet(copies.last, there)
    if len(copies.each) > MOST_AT_ONCE:
        raise TooManyPrints(len(copies.each))
    check_names(planned, copies.names)
    printer = printer_at(planned.plan.recipe.sheet.printed_by.id).record if way == "link" else None
    batch = str(uuid4())
    with transaction() as session:
        made = [
            new_print(
                session,
                job_id,
                planned,
                sheet,
                way,
                Copy(copy, len(copies.names) or copies.count, name, batch),
            )
            for sheet, copy, name in copies.each
        ]
        if printer is not None:
            for new in made:
                enqueue(session, DEVICES, "print_sheet", lock=f"printer {printer.id}", print_id=new.id)
    return made, planned


def check_names(planned: Planned, names: Sequence[str]) -> None:
    """Whether all can be written in the margin.

    Raises:
        NoteImpossible: one cannot.
    """
    for name in names:
        if set_note(Note((name,)), planned.plan.area) is None:
            raise NoteImpossible(
                "No edge of this sheet has room for a name: printer and plotter leave nothing between their margins. "
                "Take wider margins at the plotter, or print without names."
            )


def ask_for_rest(job_id: int) -> tuple[list[Print], Planned]:
    """Queue every sheet that is not printed yet, and on no way to paper, at the printer.

    Raises:
        UnknownJob, NoSuchSheet, CutOnly, DeviceError, DiskFull: as `ask_for_print` does.
    """
    blobs.need_room()
    planned = nested_with_sheet(job_id, 1)
    sheet = planned.plan.recipe.sheet
    if sheet.cut_only:
        raise CutOnly
    printer = printer_at(sheet.printed_by.id).record
    with transaction() as session:
        # Two who ask at once get each sheet once.
        hold(session, f"prints {job_id}")
        there = prints.standing(session, job_id, planned.made_key)
        missing = [
            number for number in range(1, len(planned.plan.sheets.sheets) + 1) if number - 1 not in there
        ]
        made = [new_print(session, job_id, planned, number, "link") for number in missing]
        for new in made:
            enqueue(session, DEVICES, "print_sheet", lock=f"printer {printer.id}", print_id=new.id)
    return made, planned


@dataclass(frozen=True)
class Copy:
    """Which copy of how many a print is, whose, and with which others it was asked for."""

    number: int = 1
    of: int = 1
    name: str = ""
    batch: str | None = None


ONLY = Copy()


def new_print(
    session: Session,
    job_id: int,
    planned: Planned,
    number: int,
    way: prints.Way | Literal["bare"],
    copy: Copy = ONLY,
) -> Print:
    """A print of sheet `number` (from 1) as plan, tone and scale are now; it keeps them.

    Raises:
        UnknownJob, scraps.ScrapGone.
    """
    sheet = planned.plan.recipe.sheet
    if sheet.scrap is not None:
        scraps.print_on(session, sheet.scrap.of_print, job_id)
    # A shop's printer is another one than that which was measured.
    across, along = scales.AS_DRAWN if way == "shop" else scales.get(session, sheet)
    new = Print(
        job_id=job_id,
        step=jobs.get(session, job_id).cursor,
        sheet=number - 1,
        recipe=planned.frozen.model_dump(mode="json"),
        made_key=planned.made_key,
        printer=sheet.printed_by.id,
        state={"link": "queued", prints.BARE: "printed"}.get(way, "out"),
        finished_at=datetime.now(UTC) if way == prints.BARE else None,
        way=way,
        tone=tones.get(session, tones.ToneKey.of(sheet)).tone.model_dump(mode="json"),
        across=across,
        along=along,
        batch=copy.batch,
        copy=copy.number,
        copies=copy.of,
        name=copy.name,
    )
    session.add(new)
    session.flush()
    session.refresh(new)
    return new


@dataclass(frozen=True)
class PrintFile:
    """Everything that the file of a print follows from."""

    recipe: JobRecipe
    number: int
    tone: ToneRecipe
    scale: tuple[float, float]
    note: PrintNote

    @classmethod
    def of(cls, session: Session, row: Print) -> "PrintFile":
        """As a print keeps it."""
        title = jobs.get(session, row.job_id).title
        return cls(
            JobRecipe.model_validate(row.recipe),
            row.sheet,
            ToneRecipe.model_validate(row.tone),
            (row.across, row.along),
            PrintNote(f"job {row.job_id}, {title}", row.name, row.copy, row.copies),
        )

    def pdf(self) -> bytes:
        """The file.

        Raises:
            ArtworkError, NoteImpossible.
        """
        return noted_pdf(plan(self.recipe), self.number, [self.note], self.tone, self.scale)


FULL_BEFORE = "The disk is full, so the print file could not be made. Make room, then print the sheet again."
FULL_AFTER = (
    f"The disk was full when the printer was done, so nothing could be kept of this sheet. {prints.LOOK}"
)
ODD_BEFORE = "The print file could not be made; the log says why."
ODD_AFTER = f"What the printer answered could not be kept; the log says why. {prints.LOOK}"


class PrintTask(DeviceTask):
    """A sheet at its printer: its file made and printed, the printed sheet kept."""

    name = "print"
    refusals: ClassVar = (DeviceError, ArtworkError)
    disk_full, fault = FULL_BEFORE, ODD_BEFORE
    file: PrintFile
    printer: str

    def __init__(self, print_id: int) -> None:
        super().__init__(print_id)
        self._may_be_out = False
        self._uses: list[stockroom.Use] = []

    def begin(self, session: Session) -> bool:
        row = prints.claim(session, self.row_id, self.claim)
        if row is None:
            return False
        self.file, self.printer = PrintFile.of(session, row), row.printer
        return True

    def say(self, values: dict[str, Any]) -> str:
        with transaction() as session:
            prints.beat(session, self.row_id, self.claim)
        return ""

    def work(self, beat: Heartbeat) -> Ending:
        printer = printer_at(self.printer)
        pdf = self.file.pdf()
        printed = print_at(printer, pdf)
        # From here on the sheet may have come out, whatever cannot be kept of it.
        self._may_be_out, self.disk_full, self.fault = True, FULL_AFTER, ODD_AFTER
        self._uses = stockroom.safely_used_by(self.file.recipe, self.file.number)
        return Ending("printed", _keep(self.row_id, pdf, printed))

    def failed(self, error: Exception) -> Ending:
        may_be_out = self._may_be_out or (isinstance(error, DeviceError) and error.began)
        return Ending("unknown" if may_be_out else "failed", {"message": self.message_of(error)})

    def end(self, session: Session, ending: Ending) -> None:
        ended = prints.end(session, self.row_id, self.claim, ending.state, **ending.values)
        if ended and ending.state == "printed":
            stockroom.sheet_printed(session, session.get_one(Print, self.row_id), self._uses)


def do_print(print_id: int) -> None:
    """Make the print file of a queued sheet, print it and keep the printed sheet.

    Raises:
        TryLater: its printer prints another one, or the database is away.
    """
    PrintTask(print_id).perform()


def _keep(print_id: int, pdf: bytes, printed: PrintedSheet | None) -> dict[str, object]:
    blobs.put(f"prints/{print_id}/sheet.pdf", pdf)
    if printed is None:
        return {}
    name = blobs.put(f"prints/{print_id}/printed.png", printed.png)
    return {"picture": name, "px_per_mm": printed.px_per_mm}
