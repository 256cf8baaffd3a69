"""What is left of sheets that were cut: kept, taken by a job, printed on, thrown away.

A scrap is a part of its print's row: its outline, who has it, and whether it is still there. Whoever wants it holds
that row, so one job has it.
"""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import UTC, datetime

from sqlalchemy import exists, select
from sqlalchemy.orm import Session

from perisect.core.cutting.run_state import OVER, RunState
from perisect.store import jobs
from perisect.store.jobs import UnknownJob
from perisect.store.models import Print, Run
from perisect.store.prints import STANDS, UnknownPrint

Ring = Sequence[Sequence[float]]


class NotCut(Exception):
    """The sheet is not cut, or still being cut."""


class ScrapGone(Exception):
    """There is no such scrap any more, or another job has it; the text says which."""


@dataclass(frozen=True)
class Scrap:
    """What is left of a print: rings that were cut out of it, sheet mm, its area, since when, and the job that has
    it; `gone` when it was printed on or thrown away."""

    used: Sequence[Ring]
    free_mm2: float
    at: str
    job: int | None = None
    gone: str | None = None


def of(row: Print) -> Scrap | None:
    """What is left of a print, where it was kept."""
    return None if row.scrap is None else Scrap(**row.scrap)


def held(session: Session, print_id: int) -> Print:
    """A print's row, held for writing.

    Raises:
        UnknownPrint.
    """
    row = session.get(Print, print_id, with_for_update=True)
    if row is None:
        raise UnknownPrint(print_id)
    return row


def keep(session: Session, print_id: int, used: Sequence[Ring], free_mm2: float) -> Print:
    """Keep what is left of a sheet; what was kept already stays as it is.

    Raises:
        UnknownPrint, NotCut.
        ScrapGone: it was kept, and is gone.
    """
    row = held(session, print_id)
    before = of(row)
    if before is not None:
        if before.gone is not None:
            raise ScrapGone("The leftover of this sheet is used or thrown away.")
        return row
    if not is_cut(session, row):
        raise NotCut(print_id)
    _write(row, Scrap(used, free_mm2, _now()))
    return row


def is_cut(session: Session, row: Print) -> bool:
    """Whether a print's sheet was cut and lies on no plotter."""
    runs = session.scalars(select(Run.state).where(Run.print_id == row.id)).all()
    return row.state == "printed" and RunState.DONE in runs and all(state in OVER for state in runs)


def throw_away(session: Session, print_id: int) -> None:
    """A scrap is no more.

    Raises:
        UnknownPrint, ScrapGone.
    """
    row = held(session, print_id)
    scrap = of(row)
    if scrap is None or scrap.gone is not None:
        raise ScrapGone("This scrap is used or thrown away already.")
    _write(row, Scrap(**(asdict(scrap) | {"gone": _now()})))


def take(session: Session, print_id: int, job_id: int) -> Scrap:
    """Give a scrap to a job.

    Raises:
        UnknownPrint, ScrapGone.
    """
    row = held(session, print_id)
    scrap = _there(row)
    if taken_by(session, print_id, scrap) not in (None, job_id):
        raise ScrapGone("Another job has taken this scrap.")
    _write(row, Scrap(**(asdict(scrap) | {"job": job_id})))
    return scrap


def print_on(session: Session, print_id: int, job_id: int) -> None:
    """Whether a job may print on its scrap: it is there, its own, and no other print of the job is under way to it.

    Raises:
        ScrapGone.
    """
    try:
        scrap = _there(held(session, print_id))
    except UnknownPrint as error:
        raise ScrapGone("The sheet that this job uses is no longer in the shop's list.") from error
    if scrap.job != job_id:
        raise ScrapGone("Another job has taken this scrap.")
    on_it = exists().where(
        Print.job_id == job_id,
        Print.state.in_(STANDS),
        Print.recipe["sheet"]["scrap"]["of_print"].as_integer() == print_id,
    )
    if session.scalar(select(on_it)):
        raise ScrapGone("This scrap is printed on already, or about to be.")


def spend(session: Session, print_id: int) -> None:
    """A scrap was printed on."""
    row = session.get(Print, print_id, with_for_update=True)
    scrap = None if row is None else of(row)
    if row is not None and scrap is not None and scrap.gone is None:
        _write(row, Scrap(**(asdict(scrap) | {"gone": _now()})))


def listed(session: Session) -> list[tuple[Print, Scrap]]:
    """All that are there, the newest first."""
    query = select(Print).where(Print.scrap.is_not(None), Print.scrap["gone"].astext.is_(None))
    found = []
    for row in session.scalars(query.order_by(Print.id.desc())):
        scrap = of(row)
        if scrap is not None:
            found.append((row, scrap))
    return found


def is_free(session: Session, print_id: int, scrap: Scrap, job_id: int) -> bool:
    """Whether a job could take a scrap."""
    return scrap.gone is None and taken_by(session, print_id, scrap) in (None, job_id)


def taken_by(session: Session, print_id: int, scrap: Scrap) -> int | None:
    """The job that has a scrap: it took it, and stands on it still."""
    return scrap.job if scrap.job is not None and _has(session, scrap.job, print_id) else None


def _there(row: Print) -> Scrap:
    scrap = of(row)
    if scrap is None or scrap.gone is not None:
        raise ScrapGone("This scrap is used or thrown away.")
    return scrap


def _has(session: Session, job_id: int, print_id: int) -> bool:
    """Whether a job stands on a scrap now."""
    try:
        sheet = jobs.recipe(session, jobs.get(session, job_id)).sheet
    except UnknownJob:
        return False
    return sheet.scrap is not None and sheet.scrap.of_print == print_id


def _write(row: Print, scrap: Scrap) -> None:
    row.scrap = asdict(scrap)


def _now() -> str:
    return datetime.now(UTC).isoformat()
