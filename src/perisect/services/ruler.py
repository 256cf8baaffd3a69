"""Measure a cut sheet by ruler: which stickers, and what their borders say of all of them."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from sqlalchemy.orm import Session

from perisect.core.cutting.error_map import VISIBLE_MM
from perisect.core.cutting.run_state import OVER
from perisect.core.job import JobRecipe
from perisect.core.ledger.ruler import USUAL, Reading, ruler_slips, to_measure
from perisect.services.picture_slip import NothingCut
from perisect.services.plans import plan
from perisect.store import runs
from perisect.store.database import transaction
from perisect.store.models import Print, Run
from perisect.store.runs import UnknownRun


def stickers_to_measure(run_id: int, many: int = USUAL) -> list[int]:
    """Numbers (from 0) of the stickers that tell most of how a sheet was cut.

    Raises:
        UnknownRun, NothingCut.
    """
    with transaction() as session:
        return to_measure(_places(_over(session, run_id)), many)


def measure_by_ruler(run_id: int, readings: Sequence[Reading]) -> Run:
    """Slips of a run's stickers by the borders of a few of them, in the place of what was measured before.

    Raises:
        UnknownRun, NothingCut.
        RulerImpossible: readings that cannot be.
    """
    with transaction() as session:
        run = _over(session, run_id)
        recipe = JobRecipe.model_validate(session.get_one(Print, run.print_id).recipe)
        stickers = run.stickers or []
    places = _places(run)
    found = ruler_slips(readings, places)
    lines = plan(recipe).plan.lines
    limits = {each.id: lines[each.id].border_mm(each.border_mm) or VISIBLE_MM for each in recipe.designs}
    slips = []
    for sticker, place, slip, sure in zip(stickers, places, found.slips_mm, found.sure_mm, strict=True):
        size = float(np.hypot(*slip))
        limit = limits.get(str(sticker["design"]), VISIBLE_MM)
        slips.append(
            {
                "design": sticker["design"],
                "x_mm": float(place[0]),
                "y_mm": float(place[1]),
                "slip_mm": size,
                "dx_mm": float(slip[0]),
                "dy_mm": float(slip[1]),
                "sure_mm": float(sure.max()),
                "limit_mm": limit,
                "good": size <= limit,
            }
        )
    with transaction() as session:
        kept = runs.keep_measured(session, run_id, slips, "ruler")
        if kept is None:
            raise UnknownRun(run_id)
        return kept


def _over(session: Session, run_id: int) -> Run:
    run = session.get(Run, run_id)
    if run is None:
        raise UnknownRun(run_id)
    if run.state not in OVER or run.lines_done == 0 or not run.stickers:
        raise NothingCut
    return run


def _places(run: Run) -> NDArray[np.float64]:
    """(n, 2) middles of a run's stickers, sheet mm."""
    boxes = np.array([each["box"] for each in run.stickers or []], float).reshape(-1, 4)
    return np.asarray((boxes[:, :2] + boxes[:, 2:]) / 2)
