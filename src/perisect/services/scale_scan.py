"""The scale check from a scan of a printed sheet."""

from functools import partial

from perisect import sandbox
from perisect.core.artwork import decode
from perisect.core.artwork.picture import grey_of
from perisect.core.ledger.flat_sheet import NotTheSheet
from perisect.core.ledger.scale_scan import scanned_spans
from perisect.core.sheet.usable import UsableArea
from perisect.core.units import MM_PER_INCH
from perisect.services.plans import plan
from perisect.store import jobs
from perisect.store.database import transaction

SECONDS = 60.0


class NoPpi(Exception):
    """Neither the file nor anybody says how many pixels an inch has."""


def measure_scan(job_id: int, data: bytes, ppi: float | None) -> tuple[float, float, float]:
    """The distances across and along that a scan of one of a job's sheets shows, mm, and the ppi they were taken at.

    Raises:
        UnknownJob, ArtworkError.
        NotTheSheet, NoSuchMarks.
        NoPpi.
    """
    with transaction() as session:
        recipe = jobs.recipe(session, jobs.get(session, job_id))
    found = sandbox.call(
        partial(_read, area=plan(recipe).plan.area, ppi=ppi), data, SECONDS, kind=sandbox.work.SCAN
    )
    if found is None:
        raise NoPpi
    if isinstance(found, str):
        raise NotTheSheet(found)
    return found


def _read(data: bytes, area: UsableArea, ppi: float | None) -> tuple[float, float, float] | str | None:
    """Distances and ppi, why there are none, or None without a ppi: a reader hands only its own errors on."""
    decoded = decode(data)
    if ppi is None:
        if decoded.mm_per_px is None:
            return None
        ppi = MM_PER_INCH / decoded.mm_per_px
    size = (area.stock.width_mm, area.stock.height_mm)
    try:
        return *scanned_spans(grey_of(decoded.rgba), area.marks, area.machine.marks, size, ppi), ppi
    except NotTheSheet as error:
        return str(error)
