"""Ask for cuts, and ask things of a run that is under way."""

from collections.abc import Callable

from sqlalchemy.orm import Session

from perisect.core.cutting.run_request import RunRequest
from perisect.core.cutting.run_state import RunState
from perisect.core.job import JobRecipe
from perisect.services import stockroom
from perisect.services.devices import plotter_at
from perisect.services.plans import plan
from perisect.services.printing import nested_with_sheet, new_print
from perisect.store import prints, runs
from perisect.store.database import transaction
from perisect.store.locks import hold
from perisect.store.models import Print, Run
from perisect.store.prints import DeviceTaken, UnknownPrint
from perisect.store.queue_entry import DEVICES, enqueue
from perisect.store.runs import UnknownRun


class NotPrinted(Exception):
    """The sheet is not printed."""


class NothingToCut(Exception):
    """Everything on the sheet is printed only."""


class NotCutOnly(Exception):
    """The job is printed before it is cut."""


class PlotterBusy(Exception):
    """Another run has the plotter; `job_id` is that run's job, None when it has just ended."""

    def __init__(self, job_id: int | None) -> None:
        super().__init__(job_id)
        self.job_id = job_id


class CannotGoOn(Exception):
    """A run is not one that goes on; the text says why."""


def ask_to_go_on(run_id: int, leave_out: bool) -> tuple[Run, int]:
    """Queue the rest of a sheet whose cut broke off; the new run, and the sheet's number from 0.

    Args:
        leave_out: whether the line that was in the blade is left as it is, and not cut again.

    Raises:
        UnknownRun: there is no such run.
        CannotGoOn: it is not over, was begun anew since, or nothing of it is left, or nothing is cut.
        NotPrinted, NothingToCut, PlotterBusy, DeviceError: as `ask_for_cut` does.
    """
    with transaction() as session:
        run = session.get(Run, run_id)
        if run is None:
            raise UnknownRun(run_id)
        if run.state not in (RunState.STOPPED, RunState.CANCELLED) or not runs.is_latest(session, run):
            raise CannotGoOn("This is not the last cut of its sheet, or it has no lines left.")
        # One that was cancelled ended between two lines.
        leave_out = leave_out and run.state == RunState.STOPPED
        first = run.lines_done + int(leave_out)
        if not 0 < run.lines_done <= first < run.lines_total:
            raise CannotGoOn("It has no cut line, or none is left: begin a new cut of the sheet.")
        print_id, rest = run.print_id, runs.Rest(run.hold, first, leave_out, run.first_line > 0, run.ask)
    return ask_for_cut(print_id, rest)


def ask_for_cut(print_id: int, rest: runs.Rest = runs.WHOLE) -> tuple[Run, int]:
    """Queue a printed sheet at its plotter; the run, and the sheet's number from 0.

    Args:
        rest: how it begins, and whether it holds the sheet at the end.

    Raises:
        UnknownPrint, NotPrinted.
        NothingToCut: no line is on the sheet.
        PlotterBusy: another run has the plotter.
        DeviceError: the shop no longer has its plotter.
    """
    with transaction() as session:
        sheet = session.get(Print, print_id)
        if sheet is None:
            raise UnknownPrint(print_id)
        if sheet.state != "printed":
            raise NotPrinted(print_id)
        recipe, number = JobRecipe.model_validate(sheet.recipe), sheet.sheet
    _check_lines(recipe, number)
    plotter_id = plotter_at(recipe.sheet.cut_by.id).record.id

    def printed(session: Session) -> Print:
        # Nobody throws it away meanwhile.
        row = session.get_one(Print, print_id, with_for_update=True)
        if row.state != "printed":
            raise NotPrinted(print_id)
        return row

    return _queue(plotter_id, recipe.sheet.on.id, printed, rest), number


def _check_lines(recipe: JobRecipe, number: int) -> None:
    """Refuse sheet `number` (from 0) if all of it is printed only: other pieces have a line."""
    if any(design.lines.own == "none" for design in recipe.designs) and not any(
        plan(recipe).cut_files.sheet(number).lines.values()
    ):
        raise NothingToCut


def _queue(plotter_id: str, stock_id: str, sheet_of: Callable[[Session], Print], rest: runs.Rest) -> Run:
    """Queue a sheet at a plotter; what `sheet_of` writes for it is undone if another run has the plotter."""
    try:
        with transaction() as session:
            run = runs.begin(session, sheet_of(session), plotter_id, stock_id, rest)
            enqueue(session, DEVICES, "cut_sheet", lock=f"plotter {plotter_id}", run_id=run.id)
            return run
    except DeviceTaken as error:
        with transaction() as session:
            busy = runs.busy(session, plotter_id)
            raise PlotterBusy(busy.job_id if busy is not None else None) from error


def ask_for_bare_cut(job_id: int, number: int, rest: runs.Rest = runs.WHOLE) -> tuple[Run, int]:
    """Queue a sheet of bare stock of a job that is only cut.

    A sheet that no line was cut in is taken before another one is, and none is booked if the plotter is taken.

    Args:
        job_id: the job.
        number: the sheet, from 1.
        rest: how it begins, and whether it holds the sheet at the end.

    Raises:
        UnknownJob, NoSuchSheet.
        NotCutOnly: the job is printed.
        NothingToCut, PlotterBusy, DeviceError: as `ask_for_cut` does.
    """
    planned = nested_with_sheet(job_id, number)
    recipe = planned.plan.recipe
    if not recipe.sheet.cut_only:
        raise NotCutOnly
    _check_lines(recipe, number - 1)
    plotter_id = plotter_at(recipe.sheet.cut_by.id).record.id
    uses = stockroom.safely_used_by(planned.frozen, number - 1)

    def bare(session: Session) -> Print:
        hold(session, f"prints {job_id}")
        sheet = prints.uncut_bare(session, job_id, number - 1, planned.made_key)
        if sheet is None:
            sheet = new_print(session, job_id, planned, number, prints.BARE)
            stockroom.sheet_printed(session, sheet, uses)
        return sheet

    return _queue(plotter_id, recipe.sheet.on.id, bare, rest), number - 1


def ask_of_run(run_id: int, request: RunRequest) -> tuple[Run, int] | None:
    """Ask something of a run.

    Args:
        run_id: its number.
        request: what is asked.

    Returns:
        The run and its sheet's number from 0; None if the run does not take this in its state.

    Raises:
        UnknownRun: there is no such run.
    """
    with transaction() as session:
        run = runs.ask(session, run_id, request)
        if run is not None:
            return run, session.get_one(Print, run.print_id).sheet
        if session.get(Run, run_id) is None:
            raise UnknownRun(run_id)
        return None
