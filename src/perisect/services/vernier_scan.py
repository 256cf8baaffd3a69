"""A calibration page read from a scan of it."""

from functools import partial

from perisect import sandbox
from perisect.core.artwork import decode
from perisect.core.artwork.picture import grey_of
from perisect.core.ledger.flat_sheet import NotTheSheet
from perisect.core.ledger.vernier_scan import scanned_readings
from perisect.core.sheet.recipe import SheetRecipe
from perisect.core.sheet.usable import UsableArea
from perisect.services.vernier import NotCut, page_of
from perisect.store import verniers
from perisect.store.database import transaction
from perisect.store.upkeep_models import VernierRow

SECONDS = 60.0


def read_scan(page_id: int, data: bytes) -> dict[str, float]:
    """What each comb of a page that is cut shows on a scan, mm; nothing is taken out by that yet.

    Raises:
        NotCut: the page is not cut.
        ArtworkError: the file is no picture.
        NotTheSheet: it does not show the page.
    """
    with transaction() as session:
        state = verniers.state_of(session, page_id)
        if state not in ("cut", "read"):
            raise NotCut(state)
        sheet = SheetRecipe.model_validate(session.get_one(VernierRow, page_id).sheet)
    found = sandbox.call(partial(_read, area=page_of(sheet).area), data, SECONDS, kind=sandbox.work.SCAN)
    if isinstance(found, str):
        raise NotTheSheet(found)
    return found


def _read(data: bytes, area: UsableArea) -> dict[str, float] | str:
    """Readings, or why there are none: a reader hands only its own errors on."""
    try:
        return scanned_readings(grey_of(decode(data).rgba), area.marks, area.machine.marks, area.stock)
    except NotTheSheet as error:
        return str(error)
