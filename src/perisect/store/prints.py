"""Prints: queued at a printer, claimed by the worker that prints, ended once.

A print's time runs out on its claim's heartbeat, never on its age. Only the claim changes it; what a worker
reports after it was given up for lost still counts, for it is what happened.
"""

from datetime import UTC, datetime, timedelta

from sqlalchemy import select, text, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from perisect.store.models import Print

OVER = ("printed", "failed", "cancelled")
QUIET_AFTER = timedelta(seconds=6)
"""A worker that says nothing for this long is gone."""
UNKNOWN = (
    "The worker that led this print stopped, so whether the sheet came out is not known. Look at the printer; "
    "print it again if nothing came out."
)
HEARD_BEFORE = "greatest({column}, pg_postmaster_start_time()) < now() - make_interval(secs => :quiet)"
"""Nothing was heard for so long, not counting the time that the database itself was away."""


class DeviceTaken(Exception):
    """Another print or run has the device now."""


def of_job(session: Session, job_id: int) -> list[Print]:
    """Prints of a job, newest first."""
    return list(session.scalars(select(Print).where(Print.job_id == job_id).order_by(Print.id.desc())))


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
        .where(Print.id == print_id, Print.claim == claim, Print.state.in_(("printing", "failed")))
        .values(state=state, finished_at=datetime.now(UTC), **{"message": None, **values})
    )
    return bool(done.rowcount)  # type: ignore[attr-defined]


def cancel(session: Session, print_id: int) -> bool:
    """Take a queued print out of its queue; whether it was still queued."""
    done = session.execute(
        update(Print)
        .where(Print.id == print_id, Print.state == "queued")
        .values(state="cancelled", finished_at=datetime.now(UTC), message="You took it out of the queue.")
    )
    return bool(done.rowcount)  # type: ignore[attr-defined]


def sweep(session: Session) -> int:
    """Close prints whose worker has gone quiet; how many there were."""
    done = session.execute(
        update(Print)
        .where(
            Print.state == "printing",
            text(HEARD_BEFORE.format(column="heartbeat_at")).bindparams(quiet=QUIET_AFTER.total_seconds()),
        )
        .values(state="failed", finished_at=datetime.now(UTC), message=UNKNOWN)
    )
    return int(done.rowcount)  # type: ignore[attr-defined]
