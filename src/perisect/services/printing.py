"""Print sheets: ask for one, and what a worker does with the printer."""

from uuid import uuid4

import structlog
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from perisect.core.artwork import ArtworkError, ToneRecipe
from perisect.core.job import JobRecipe
from perisect.devices import DeviceError, PrintedSheet, print_pdf
from perisect.services.devices import allowed, printer_at
from perisect.services.heartbeat import Heartbeat, until_written
from perisect.services.nests import nested_plan
from perisect.services.plans import Planned, plan
from perisect.services.print_files import sheet_pdf
from perisect.store import blobs, jobs, prints, scales, tones
from perisect.store.database import transaction
from perisect.store.locks import hold
from perisect.store.models import Print
from perisect.store.prints import DeviceTaken
from perisect.store.queue_entry import DEVICES, enqueue

log = structlog.get_logger()


class NoSuchSheet(LookupError):
    """A job has no sheet of this number; the attribute says how many it has."""

    def __init__(self, number: int, there: int) -> None:
        super().__init__(number)
        self.number, self.there = number, there


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


def ask_for_print(job_id: int, number: int) -> tuple[Print, Planned]:
    """Queue sheet `number` (from 1) at its printer.

    Raises:
        UnknownJob, NoSuchSheet.
        DeviceError: the shop no longer has its printer.
        DiskFull: there is no room.
    """
    blobs.need_room()
    planned = nested_with_sheet(job_id, number)
    sheet = planned.plan.recipe.sheet
    printer = printer_at(sheet.printed_by.id).record
    with transaction() as session:
        tone = tones.get(session, tones.ToneKey.of(sheet)).tone
        new = new_print(session, job_id, planned, number, "queued", "link", tone)
        enqueue(session, DEVICES, "print_sheet", lock=f"printer {printer.id}", print_id=new.id)
    return new, planned


def ask_for_rest(job_id: int) -> tuple[list[Print], Planned]:
    """Queue every sheet that is not printed yet, and on no way to paper, at the printer.

    Raises:
        UnknownJob, NoSuchSheet, DeviceError, DiskFull: as `ask_for_print` does.
    """
    blobs.need_room()
    planned = nested_with_sheet(job_id, 1)
    sheet = planned.plan.recipe.sheet
    printer = printer_at(sheet.printed_by.id).record
    with transaction() as session:
        # Two who ask at once get each sheet once.
        hold(session, f"prints {job_id}")
        there = prints.standing(session, job_id, planned.printable_key)
        tone = tones.get(session, tones.ToneKey.of(sheet)).tone
        missing = [
            number for number in range(1, len(planned.plan.sheets.sheets) + 1) if number - 1 not in there
        ]
        made = [new_print(session, job_id, planned, number, "queued", "link", tone) for number in missing]
        for new in made:
            enqueue(session, DEVICES, "print_sheet", lock=f"printer {printer.id}", print_id=new.id)
    return made, planned


def new_print(
    session: Session,
    job_id: int,
    planned: Planned,
    number: int,
    state: str,
    way: prints.Way,
    tone: ToneRecipe,
) -> Print:
    """A print of sheet `number` (from 1) as the plan has it.

    Raises:
        UnknownJob.
    """
    new = Print(
        job_id=job_id,
        step=jobs.get(session, job_id).cursor,
        sheet=number - 1,
        recipe=planned.frozen.model_dump(mode="json"),
        recipe_hash=planned.printable_key,
        printer=planned.plan.recipe.sheet.printed_by.id,
        state=state,
        way=way,
        tone=tone.model_dump(mode="json"),
    )
    session.add(new)
    session.flush()
    session.refresh(new)
    return new


class TryLater(Exception):
    """The device has other work: the task is to be tried again."""


def do_print(print_id: int) -> None:
    """Make the print file of a queued sheet, print it and keep the printed sheet.

    Raises:
        TryLater: its printer prints another one, or the database is away.
    """
    claim = str(uuid4())
    try:
        with transaction() as session:
            claimed = prints.claim(session, print_id, claim)
            if claimed is None:
                return
            recipe, number = JobRecipe.model_validate(claimed.recipe), claimed.sheet
            tone, printer_id = ToneRecipe.model_validate(claimed.tone), claimed.printer
            scale = scales.get(session, recipe.sheet)
    except (DeviceTaken, SQLAlchemyError) as error:
        raise TryLater from error

    def beat(_: dict[str, object]) -> str | None:
        with transaction() as session:
            prints.beat(session, print_id, claim)
        return ""

    state, values = "failed", dict[str, object]()

    def end() -> None:
        with transaction() as session:
            prints.end(session, print_id, claim, state, **values)

    with Heartbeat(beat):
        try:
            printer = printer_at(printer_id)
            pdf = sheet_pdf(plan(recipe), number, tone, scale)
            printed = print_pdf(printer.address, pdf, allowed())
            state, values = "printed", _keep(print_id, pdf, printed)
        except (DeviceError, ArtworkError) as error:
            state, values["message"] = "failed", str(error)
        except blobs.DiskFull:
            state, values["message"] = "failed", "The disk is full, so the printed sheet could not be kept."
        except Exception:
            log.exception("print failed", print_id=print_id)
            state, values["message"] = "failed", "The print file could not be made; the log says why."
        until_written(end)


def _keep(print_id: int, pdf: bytes, printed: PrintedSheet) -> dict[str, object]:
    blobs.put(f"prints/{print_id}/sheet.pdf", pdf)
    name = blobs.put(f"prints/{print_id}/printed.png", printed.png)
    return {"picture": name, "px_per_mm": printed.px_per_mm}
