"""What is taken out of every cut of a plotter, and what was measured at each."""

from collections import defaultdict
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from perisect.core.cutting.run_state import RunState
from perisect.core.cutting.trueing import AS_IT_IS, Trueing
from perisect.core.ledger.calibration import SheetSlips
from perisect.core.ledger.cut_scan import noise_of
from perisect.core.ledger.measured_slips import MeasuredSheet, as_trued
from perisect.store.models import Run
from perisect.store.upkeep_models import PlotterTrueing

LAST_SHEETS = 40
"""A plotter changes with its belts and its sensor: what is older says little of it."""


def of(session: Session, plotter: str) -> Trueing:
    """What a plotter's cuts are trued by."""
    row = session.get(PlotterTrueing, plotter)
    return AS_IT_IS if row is None else Trueing.model_validate(row.trueing)


def save(session: Session, plotter: str, trueing: Trueing) -> None:
    """True a plotter's cuts from now on."""
    value = trueing.model_dump()
    session.execute(
        insert(PlotterTrueing)
        .values(plotter=plotter, trueing=value)
        .on_conflict_do_update(index_elements=["plotter"], set_={"trueing": value})
    )


def sheets_of(session: Session, plotter: str) -> list[SheetSlips]:
    """The last sheets a plotter cut in one go and that were measured, with their marks."""
    rows = session.execute(
        select(Run.slips, Run.aimed, Run.stickers)
        .where(Run.plotter == plotter, Run.state == RunState.DONE, Run.first_line == 0)
        .where(Run.slips.is_not(None), Run.aimed.is_not(None))
        .order_by(Run.id.desc())
        .limit(LAST_SHEETS)
    ).all()
    return [_sheet(slips, aimed, stickers) for slips, aimed, stickers in rows]


def _sheet(
    slips: list[dict[str, Any]], aimed: dict[str, Any], stickers: list[dict[str, Any]] | None = None
) -> SheetSlips:
    places = np.array([(each["x_mm"], each["y_mm"]) for each in slips], float).reshape(-1, 2)
    off = np.array([(each["dx_mm"], each["dy_mm"]) for each in slips], float).reshape(-1, 2)
    x, y = aimed["middle"]
    marks = tuple((float(a), float(b)) for a, b in aimed["marks"])
    turns = None
    if stickers and len(stickers) == len(aimed.get("turns") or ()):
        # A picture does not show every sticker: each slip is that of the sticker it lies in the middle of.
        boxes = np.array([each["box"] for each in stickers], float)
        middles = (boxes[:, :2] + boxes[:, 2:]) / 2
        nearest = np.hypot(*(places[:, None] - middles[None]).transpose(2, 0, 1)).argmin(axis=1)
        turns = np.array(aimed["turns"], np.int64)[nearest]
    return SheetSlips(
        places, off, (float(x), float(y)), Trueing.model_validate(aimed["trueing"]), marks, turns
    )


def last_measured(session: Session, plotter: str) -> int:
    """Number of the last cut of a plotter that was measured; 0 where none was."""
    found = select(func.max(Run.id)).where(
        Run.plotter == plotter, Run.slips.is_not(None), Run.state == RunState.DONE
    )
    return session.scalar(found) or 0


def measured_sheets(
    session: Session, plotter: str | None, stock: str | None, most: int = 100
) -> list[MeasuredSheet]:
    """The last sheets that were measured, of a plotter, of a stock, or of all, as they would have been cut by what
    their plotters are trued by now."""
    asked = select(Run.plotter, Run.slips, Run.aimed, Run.measured_by).where(
        Run.state == RunState.DONE, Run.slips.is_not(None)
    )
    if plotter is not None:
        asked = asked.where(Run.plotter == plotter)
    if stock is not None:
        asked = asked.where(Run.stock == stock)
    rows = session.execute(asked.order_by(Run.id.desc()).limit(most)).all()
    by_plotter = defaultdict(list)
    for row in rows:
        by_plotter[row.plotter].append(row)
    found = []
    for each, its in by_plotter.items():
        now = of(session, each)
        # Of the first cuts nobody kept what they were trued by: they stand as they are.
        unknown = {"middle": (0.0, 0.0), "marks": (), "trueing": now.model_dump()}
        sheets = [_sheet(row.slips, row.aimed or unknown) for row in its]
        found += as_trued(sheets, [_noise(row.slips, row.measured_by) for row in its], now)
    return found


def _noise(slips: list[dict[str, Any]], measured_by: str) -> NDArray[np.float64]:
    """(n,) deviation of measured slips. A simulated plotter shows what it did; and what a ruler's readings are fitted
    by has no noise of its own."""
    if measured_by != "picture":
        return np.zeros(len(slips))
    return noise_of(np.array([each.get("sure_mm") or 0.0 for each in slips], float))
