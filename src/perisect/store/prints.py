"""Prints: queued at a printer, claimed by the worker that prints, ended once.

A print's time runs out on its claim's heartbeat, never on its age. Only the claim changes it; what a worker
reports after it was given up for lost still counts, for it is what happened.
"""

from datetime import UTC, datetime, timedelta
from typing import Literal, get_args

from sqlalchemy import exists, or_, select, text, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session, aliased

from perisect.core.cutting.run_state import OVER
from perisect.store.models import Print, Run

Way = Literal["link", "own", "shop"]
"""How a sheet comes to paper: by the printer link, one's own print dialog, or a print shop."""
BARE: Literal["bare"] = "bare"
"""Way of a sheet of bare stock, which is cut and not printed."""
STANDS = ("queued", "printing", "unknown", "out", "printed")
"""States of a sheet that is not printed again without a word: of one that may have come out somebody looks first."""
QUIET_AFTER = timedelta(seconds=6)
"""A worker that says nothing for this long is gone."""
LOOK = "Look at the printer, then say whether it came out."
UNKNOWN = f"The worker that led this print stopped, so whether the sheet came out is not known. {LOOK}"
GIVEN_UP = (
    f"You gave this print up while the printer had it, so whether the sheet comes out is not known. {LOOK}"
)
HEARD_BEFORE = "greatest({column}, pg_postmaster_start_time()) < now() - make_interval(secs => :quiet)"
"""Nothing was heard for so long, not counting the time that the database itself was away."""


class UnknownPrint(LookupError):
    """There is no such print."""


class DeviceTaken(Exception):
    """Another print or run has the device now."""


def of_job(session: Session, job_id: int) -> list[Print]:
    """Prints of a job, newest first."""
    return list(session.scalars(select(Print).where(Print.job_id == job_id).order_by(Print.id.desc())))


def of_batch(session: Session, batch: str) -> list[Print]:
    """Prints that were asked for together, in their order."""
    return list(session.scalars(select(Print).where(Print.batch == batch).order_by(Print.id)))


def standing(session: Session, job_id: int, made_key: str) -> set[int]:
    """Sheets (from 0) of a job, as a recipe has them, that are printed or on their way."""
    query = select(Print.sheet).where(
        Print.job_id == job_id, Print.made_key == made_key, Print.state.in_(STANDS)
    )
    return set(session.scalars(query))


def uncut_bare(session: Session, job_id: int, sheet: int, made_key: str) -> Print | None:
    """Return a sheet (from 0) of bare stock that no line was cut in, and that is not being cut."""
    is_spent = exists().where(Run.print_id == Print.id, or_(Run.lines_done > 0, Run.state.not_in(OVER)))
    return session.scalars(
        select(Print)
        .where(
            Print.job_id == job_id,
            Print.sheet == sheet,
            Print.made_key == made_key,
            Print.way == BARE,
            Print.state == "printed",
            ~is_spent,
        )
        .order_by(Print.id.desc())
    ).first()


def last_way(session: Session, printer: str) -> Way:
    """How the last sheet of a printer came to paper; by its link when there was none yet."""
    found = session.scalar(
        select(Print.way)
        .where(Print.printer == printer, Print.way != BARE)
        .order_by(Print.id.desc())
        .limit(1)
    )
    return next((way for way in get_args(Way) if way == found), "link")


def claim(session: Session, print_id: int, claim: str) -> Print | None:
    """Begin a queued print, None when it is not queued any more.

    Raises:
        DeviceTaken: its printer prints another one.
    """
    now = datetime.now(UTC)
    try:
        return session.scalar(
            update(Print)
            .where(Print.id == print_id, Print.state == "queued")
            .values(state="printing", claim=claim, heartbeat_at=now, message=None)
            .returning(Print)
        )
    except IntegrityError as error:
        raise DeviceTaken from error


def beat(session: Session, print_id: int, claim: str) -> None:
    """Show that a print's worker lives."""
    session.execute(
        update(Print).where(Print.id == print_id, Print.claim == claim).values(heartbeat_at=datetime.now(UTC))
    )


def end(session: Session, print_id: int, claim: str, state: str, **values: object) -> bool:
    """End a print as its own worker saw it end; False when the claim is another's."""
    done = session.execute(
        update(Print)
        .where(Print.id == print_id, Print.claim == claim, Print.state.in_(("printing", "unknown")))
        .values(state=state, finished_at=datetime.now(UTC), **{"message": None, **values})
    )
    return bool(done.rowcount)  # type: ignore[attr-defined]


def cancel(session: Session, print_id: int) -> bool:
    """Take a queued print out of its queue, or back what was handed out; whether it was still so."""
    for state, message in (
        ("queued", "You removed it from the queue."),
        ("out", "You said that it was not printed."),
    ):
        done = session.execute(
            update(Print)
            .where(Print.id == print_id, Print.state == state)
            .values(state="cancelled", finished_at=datetime.now(UTC), message=message)
        )
        if done.rowcount:  # type: ignore[attr-defined]
            return True
    return False


def say_printed(session: Session, print_id: int, **values: object) -> bool:
    """Mark a sheet as printed that was handed out, or of which nobody knew; return whether it was so still."""
    done = session.execute(
        update(Print)
        .where(Print.id == print_id, Print.state.in_(("out", "unknown")))
        .values(state="printed", finished_at=datetime.now(UTC), **{"message": None, **values})
    )
    return bool(done.rowcount)  # type: ignore[attr-defined]


def say_not_printed(session: Session, print_id: int) -> bool:
    """Mark a sheet as not printed of which nobody knew; return whether it was so still."""
    done = session.execute(
        update(Print)
        .where(Print.id == print_id, Print.state == "unknown")
        .values(state="failed", finished_at=datetime.now(UTC), message="You said that it did not come out.")
    )
    return bool(done.rowcount)  # type: ignore[attr-defined]


def give_up(session: Session, print_id: int) -> bool:
    """Stop waiting for a print that was begun; return whether it was under way. Its worker may still report."""
    done = session.execute(
        update(Print)
        .where(Print.id == print_id, Print.state == "printing")
        .values(state="unknown", finished_at=datetime.now(UTC), message=GIVEN_UP)
    )
    return bool(done.rowcount)  # type: ignore[attr-defined]


def spoil(session: Session, print_id: int, why: str) -> bool:
    """A printed sheet is of no use any more; whether it was printed, and is not being cut."""
    being_cut = exists().where(Run.print_id == print_id, Run.state.not_in(OVER))
    done = session.execute(
        update(Print)
        .where(Print.id == print_id, Print.state == "printed", ~being_cut)
        .values(state="spoiled", message=why)
    )
    return bool(done.rowcount)  # type: ignore[attr-defined]


def not_spoiled(session: Session, print_id: int) -> bool:
    """Take back that a sheet is spoiled, for as long as nothing followed from it; return whether it was so still.

    What follows is a print of the same sheet in its place.
    """
    later = aliased(Print)
    followed = exists().where(
        later.job_id == Print.job_id,
        later.sheet == Print.sheet,
        later.made_key == Print.made_key,
        later.id > Print.id,
        later.state.in_(STANDS),
    )
    done = session.execute(
        update(Print)
        .where(Print.id == print_id, Print.state == "spoiled", ~followed)
        .values(state="printed", message=None)
    )
    return bool(done.rowcount)  # type: ignore[attr-defined]


def sweep(session: Session) -> int:
    """Set prints whose worker has gone quiet to unknown; return how many there were."""
    done = session.execute(
        update(Print)
        .where(
            Print.state == "printing",
            text(HEARD_BEFORE.format(column="heartbeat_at")).bindparams(quiet=QUIET_AFTER.total_seconds()),
        )
        .values(state="unknown", finished_at=datetime.now(UTC), message=UNKNOWN)
    )
    return int(done.rowcount)  # type: ignore[attr-defined]
