"""A job for what another one's order lacks, once."""

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from perisect.core.job.more import NothingLacks, job_for_more
from perisect.services.job_view import job_now
from perisect.services.orders import family
from perisect.store import jobs
from perisect.store.database import transaction
from perisect.store.models import Print, Run

TRIES = 20


def begin_more(job_id: int) -> int:
    """Begin a job for what a job's order lacks, by what was counted; on what it keeps of its sheet where it does.

    What lacks is worked out first, for plans are not made inside a transaction; who finds that somebody else began one
    meanwhile works it out anew.

    Raises:
        UnknownJob, NothingLacks.
    """
    for _ in range(TRIES):
        with transaction() as session:
            before = _stands(session, job_id)
        now = job_now(job_id)
        recipe = job_for_more(now.recipe, {line.design: line.more for line in now.order})
        with transaction() as session:
            job = jobs.get(session, job_id, lock=True)
            if _stands(session, job_id) != before:
                continue
            new = jobs.create(session, f"{job.title}, what is missing"[:120], more_of=job_id)
            new.due_at = job.due_at
            return jobs.write(session, new.id, new.revision, recipe, "What the order is missing").id
    raise NothingLacks


def _stands(session: Session, job_id: int) -> tuple[object, ...]:
    """Changes with everything that what lacks hangs on."""
    job = jobs.get(session, job_id)
    ids = family(session, job_id)
    printed = select(func.max(Print.id), func.count()).where(
        Print.job_id.in_(ids), Print.state != "cancelled"
    )
    cut = select(func.max(Run.id), func.sum(Run.count_version)).where(Run.job_id.in_(ids))
    return job.revision, tuple(ids), tuple(session.execute(printed).one()), tuple(session.execute(cut).one())
