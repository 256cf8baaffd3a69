"""Measure a cut sheet from a scan or a photo that somebody took of it."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from perisect import sandbox
from perisect.core.artwork import ToneRecipe, decode
from perisect.core.artwork.picture import grey_of
from perisect.core.cutting.error_map import VISIBLE_MM
from perisect.core.cutting.run_state import OVER
from perisect.core.job import JobRecipe
from perisect.core.ledger import wanted_stickers
from perisect.core.ledger.cut_scan import ScanSlip, read_cuts
from perisect.core.ledger.flat_sheet import PX_PER_MM, NotTheSheet, flatten
from perisect.core.ledger.slip import WantedSticker
from perisect.core.prepress.raster import MM_PER_INCH, render_page
from perisect.core.sheet.usable import UsableArea
from perisect.services.plans import plan
from perisect.services.print_files import sheet_pdf
from perisect.store import runs
from perisect.store.database import transaction
from perisect.store.models import Print, Run
from perisect.store.runs import UnknownRun

SECONDS = 90.0
FINER, LARGE_MM2 = 2.0, 100_000.0
"""By so much finer a page is drawn than it is read, unless it is larger than A4 is by half."""


class NothingCut(Exception):
    """The run cut nothing that could be measured, or cuts still."""


@dataclass(frozen=True)
class _Sheet:
    """What is sought on the picture."""

    area: UsableArea
    drawn: NDArray[np.uint8]
    wanted: Sequence[WantedSticker]


def measure_picture(run_id: int, data: bytes) -> Run:
    """Slips of a run's stickers by a picture of its sheet, in the place of what was measured before.

    Raises:
        UnknownRun, NothingCut.
        ArtworkError: it is no picture.
        NotTheSheet: it does not show the sheet, or no cut is seen on it.
    """
    with transaction() as session:
        run = session.get(Run, run_id)
        if run is None:
            raise UnknownRun(run_id)
        if run.state not in OVER or run.lines_done == 0:
            raise NothingCut
        printed = session.get_one(Print, run.print_id)
        recipe, number = JobRecipe.model_validate(printed.recipe), printed.sheet
        tone = ToneRecipe.model_validate(printed.tone)
    planned = plan(recipe)
    if not planned.plan.area.marks:
        raise NotTheSheet("This sheet has no marks to measure from. Count its stickers instead.")
    cut = planned.cut_files.sheet(number)
    lines = planned.plan.lines
    borders = {each.id: lines[each.id].border_mm(each.border_mm) for each in planned.plan.recipe.designs}
    stickers = [(placement.key, borders[placement.key]) for placement in planned.plan.sheets.sheets[number]]
    wanted = wanted_stickers(cut, planned.cut_files.order(number), stickers)
    # A renderer sets pictures on whole pixels: the finer, the nearer to where the page has them.
    finer = FINER if cut.width_mm * cut.height_mm < LARGE_MM2 else 1.0
    drawn, _ = render_page(sheet_pdf(planned, number, tone), ppi=finer * PX_PER_MM * MM_PER_INCH)
    grey = np.asarray(Image.fromarray(drawn).convert("L"))
    found = sandbox.call(
        partial(_read, sheet=_Sheet(planned.plan.area, grey, wanted)), data, SECONDS, kind=sandbox.work.SCAN
    )
    if isinstance(found, str):
        raise NotTheSheet(found)
    limits = [border if border > 0 else VISIBLE_MM for border in (each.border_mm for each in wanted)]
    slips = [_row(slip, limit) for slip, limit in zip(found, limits, strict=True) if slip.slip_mm is not None]
    if not slips:
        raise NotTheSheet(
            "The sheet is seen and no cut on it. Let light fall from the side, so that the cuts throw a shadow, or "
            "scan it at 300 ppi."
        )
    with transaction() as session:
        kept = runs.keep_measured(session, run_id, slips, "picture")
        if kept is None:
            raise UnknownRun(run_id)
        return kept


def _row(slip: ScanSlip, limit_mm: float) -> dict[str, object]:
    assert slip.slip_mm is not None
    return {
        "design": slip.design,
        "x_mm": slip.x_mm,
        "y_mm": slip.y_mm,
        "slip_mm": slip.slip_mm,
        "dx_mm": slip.dx_mm,
        "dy_mm": slip.dy_mm,
        "sure_mm": slip.sure_mm,
        "limit_mm": limit_mm,
        "good": slip.slip_mm <= limit_mm,
    }


def _read(data: bytes, sheet: _Sheet) -> list[ScanSlip] | str:
    """Slips, or why there are none to tell: a reader hands only its own errors on."""
    stock = sheet.area.stock
    try:
        flat = flatten(
            grey_of(decode(data).rgba),
            sheet.area.marks,
            sheet.area.machine.marks,
            stock.width_mm,
            stock.height_mm,
        )
    except NotTheSheet as error:
        return str(error)
    return read_cuts(flat, sheet.drawn, sheet.wanted)
