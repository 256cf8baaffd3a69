"""What is tidied from time to time: work of workers that went quiet, and what they left half done."""

import structlog
from sqlalchemy.orm import Session

from perisect.services import stockroom
from perisect.store import blobs, head_checks, ladders, operations, prints, runs, sign_ins, verniers
from perisect.store.database import transaction

log = structlog.get_logger()


def sweep_quiet() -> None:
    """Close prints and runs whose worker has gone quiet, and hand its operations on."""
    with transaction() as session:
        closed = {
            "prints": prints.sweep(session),
            "runs": _close_runs(session),
            "operations": operations.sweep(session),
            "ladders": ladders.sweep(session),
            "patterns": head_checks.sweep(session),
            "calibration pages": verniers.sweep(session),
        }
    if any(closed.values()):
        log.warning("quiet work closed", **closed)


def _close_runs(session: Session) -> int:
    gone = runs.sweep(session)
    for run in gone:
        # Should its worker report after all, it is not counted twice.
        stockroom.sheet_cut(session, run)
    return len(gone)


def sweep_left_overs() -> None:
    """Remove what was half written by a process that died, and sign-ins that are over."""
    removed = blobs.sweep()
    with transaction() as session:
        sign_ins.sweep(session)
    if removed:
        log.warning("half-written files removed", count=removed)
