"""Runs: one at a plotter that is not over, claimed by the worker that leads it, ended once."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import func, or_, select, text, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from perisect.core.cutting.run_request import Cancel, RunRequest
from perisect.core.cutting.run_state import OVER, RunState
from perisect.store import run_requests
from perisect.store.models import Print, Run
from perisect.store.prints import HEARD_BEFORE, QUIET_AFTER, DeviceTaken
from perisect.store.upkeep_models import BookRow


def of_job(session: Session, job_id: int) -> list[Run]:
    """Runs of a job, newest first."""
    return list(session.scalars(select(Run).where(Run.job_id == job_id).order_by(Run.id.desc())))


def counted(session: Session) -> tuple[int, int]:
    """Good and bad stickers of all runs: as they were counted, else as they were measured."""
    good_of, bad_of = func.coalesce(Run.counted_good, Run.good), func.coalesce(Run.counted_bad, Run.bad)
    row = session.execute(select(func.coalesce(func.sum(good_of), 0), func.coalesce(func.sum(bad_of), 0)))
    good, bad = row.one()
    return int(good or 0), int(bad or 0)


def counted_sheets(session: Session, most: int = 100) -> list[tuple[int, int]]:
    """Good and bad stickers of the last sheets that were counted by somebody."""
    rows = session.execute(
        select(Run.counted_good, Run.counted_bad)
        .where(Run.counted_good.is_not(None))
        .order_by(Run.id.desc())
        .limit(most)
    )
    return [(int(good or 0), int(bad or 0)) for good, bad in rows]


def is_first_with_its_settings(session: Session, run: Run) -> bool:
    """Whether no sheet of its stock was cut at its plotter since the book's entries for them were last changed."""
    changed = select(func.max(BookRow.at)).where(BookRow.stock == run.stock, BookRow.plotter == run.plotter)
    since = session.scalar(changed)
    earlier = select(func.count()).where(
        Run.plotter == run.plotter, Run.stock == run.stock, Run.state == RunState.DONE, Run.id < run.id
    )
    if since is not None:
        earlier = earlier.where(Run.created_at > since)
    return session.scalar(earlier) == 0


def busy(session: Session, plotter: str) -> Run | None:
    """The run that has a plotter now."""
    return session.scalars(select(Run).where(Run.plotter == plotter, Run.state.not_in(OVER))).first()


def under_way(session: Session) -> list[Run]:
    """Runs that are not over, oldest first."""
    return list(session.scalars(select(Run).where(Run.state.not_in(OVER)).order_by(Run.id)))


class UnknownRun(LookupError):
    """A run of this number does not exist.

    Attributes:
        run_id: the number.
    """

    def __init__(self, run_id: int) -> None:
        super().__init__(run_id)
        self.run_id = run_id


@dataclass(frozen=True)
class Rest:
    """How a run begins and ends: whether it holds the sheet at its end, the line it begins with (from 0), whether the
    one before that was left as it was in the blade, whether the sheet had been laid in anew before, and whether
    somebody is by to set marks."""

    hold: bool = False
    first_line: int = 0
    left_out: bool = False
    laid_in_before: bool = False
    ask: bool = False


WHOLE = Rest()


def begin(session: Session, sheet: Print, plotter: str, stock: str, rest: Rest = WHOLE) -> Run:
    """A new run of a printed sheet of a stock, from a line on (from 0), which has the plotter from now on.

    Raises:
        DeviceTaken: another run has it; the session is to be rolled back.
    """
    run = Run(
        print_id=sheet.id,
        job_id=sheet.job_id,
        plotter=plotter,
        stock=stock,
        state=RunState.QUEUED,
        lines_done=rest.first_line,
        lines_total=0,
        first_line=rest.first_line,
        left_out=rest.left_out,
        laid_in_before=rest.laid_in_before,
        hold=rest.hold,
        ask=rest.ask,
    )
    session.add(run)
    try:
        session.flush()
    except IntegrityError as error:
        raise DeviceTaken from error
    session.refresh(run)
    return run


def claim(session: Session, run_id: int, claim: str) -> Run | None:
    """Lead a queued run, None when it is not queued any more."""
    return session.scalar(
        update(Run)
        .where(Run.id == run_id, Run.state == RunState.QUEUED, Run.claim.is_(None))
        .values(claim=claim, heartbeat_at=datetime.now(UTC), state=RunState.LOADING)
        .returning(Run)
    )


def change(session: Session, run_id: int, claim: str, *, state: RunState, **values: object) -> Run | None:
    """Change a run as its own worker sees it, and show that the worker lives; None when it is another's or over.

    One that was closed since nothing was heard of its worker goes on: the plotter never stopped. Only where another
    run was given the plotter meanwhile it stays closed, until its worker says how it ended.
    """
    own = (Run.id == run_id, Run.claim == claim, or_(Run.state.not_in(OVER), Run.swept))
    heard = {"heartbeat_at": datetime.now(UTC), **values}
    try:
        with session.begin_nested():
            goes_on = {"swept": False, "message": None, "finished_at": None, **heard, "state": state}
            return session.scalar(update(Run).where(*own).values(goes_on).returning(Run))
    except IntegrityError:
        return session.scalar(update(Run).where(*own).values(heard).returning(Run))


def ask(session: Session, run_id: int, request: RunRequest) -> Run | None:
    """Ask something of a run; one that is cancelled before anybody leads it is over at once.

    Returns:
        The run; None if it does not take the request now, or there is none.
    """
    if isinstance(request, Cancel):
        over = session.scalar(
            update(Run)
            .where(Run.id == run_id, Run.state == RunState.QUEUED, Run.claim.is_(None))
            .values(
                state=RunState.CANCELLED,
                message="You cancelled before it began.",
                finished_at=datetime.now(UTC),
            )
            .returning(Run)
        )
        if over is not None:
            return over
    return run_requests.ask(session, run_id, request)


def keep_measured(session: Session, run_id: int, slips: list[dict[str, Any]], by: str) -> Run | None:
    """Keep what was measured on the cut sheet, from a picture or by ruler."""
    each = [float(slip["slip_mm"]) for slip in slips]
    good = sum(bool(slip["good"]) for slip in slips)
    values = {
        "slips": slips,
        "slip_largest_mm": max(each),
        "slip_mean_mm": sum(each) / len(each),
        "good": good,
        "bad": len(slips) - good,
        "measured_by": by,
    }
    return session.scalar(
        update(Run).where(Run.id == run_id, Run.state.in_(OVER)).values(values).returning(Run)
    )


def count(
    session: Session,
    run_id: int,
    version: int,
    count: dict[str, Any] | None,
    good: int | None,
    bad: int | None,
) -> Run | None:
    """Save what a person found, or with None that nobody has counted; return None where somebody did meanwhile."""
    return session.scalar(
        update(Run)
        .where(Run.id == run_id, Run.count_version == version)
        .values(
            count=count,
            count_version=version + 1,
            counted_good=good,
            counted_bad=bad,
            counted_at=None if count is None else func.coalesce(Run.counted_at, func.now()),
        )
        .returning(Run)
    )


def is_latest(session: Session, run: Run) -> bool:
    """Whether no other run of its print came after it."""
    return session.scalar(select(func.max(Run.id)).where(Run.print_id == run.print_id)) == run.id


def sweep(session: Session) -> list[Run]:
    """Close runs whose worker has gone quiet, saying where; those that were closed."""
    quiet = text(HEARD_BEFORE.format(column="heartbeat_at")).bindparams(quiet=QUIET_AFTER.total_seconds())
    gone = session.scalars(
        select(Run)
        .where(Run.state.not_in(OVER), Run.claim.is_not(None), quiet)
        .with_for_update(skip_locked=True)
    ).all()
    for run in gone:
        run.message = (
            f"The worker that led this cut stopped. {where_stopped(run.lines_done, run.lines_total)}"
        )
        run.state, run.swept, run.finished_at = RunState.STOPPED, True, datetime.now(UTC)
    return list(gone)


def where_stopped(lines_done: int, lines_total: int) -> str:
    """At which line a run ended, and what that means for the sheet."""
    if lines_done == 0:
        return "No line of the sheet was cut: load it again or print another."
    if lines_done == lines_total:
        return "Every line of the sheet was cut: take it out."
    return (
        f"It stopped at line {lines_done} of {lines_total}. "
        "Take the sheet out, lay it in again as it lay, and go on at the next line."
    )
