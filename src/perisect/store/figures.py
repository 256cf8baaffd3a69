"""What figures are drawn from: cuts that were counted or measured, what was spoiled, and what changed on a day."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from perisect.core.cutting.run_state import RunState
from perisect.core.ledger.work_times import Span
from perisect.store.models import Print, Run
from perisect.store.trade_models import StockMove
from perisect.store.upkeep_models import BookRow, HeadCheckRow, PlotterTrueing, SetupCardRow

MOST = 400


@dataclass(frozen=True)
class CutPoint:
    """A cut: when and where, good ones of so many where it was counted, and its mean slip where it was measured."""

    run: int
    job: int
    at: datetime
    plotter: str
    stock: str
    good: int | None
    of: int | None
    slip_mm: float | None
    seconds: float
    count: dict | None
    stickers: list | None


def cuts(session: Session, days: int, plotter: str | None, stock: str | None) -> list[CutPoint]:
    """The last cuts, oldest first."""
    since = datetime.now(UTC) - timedelta(days=days)
    query = (
        select(Run)
        .where(Run.state == RunState.DONE, Run.created_at >= since)
        .order_by(Run.created_at.desc(), Run.id.desc())
        .limit(MOST)
    )
    if plotter:
        query = query.where(Run.plotter == plotter)
    if stock:
        query = query.where(Run.stock == stock)
    return [_point(run) for run in reversed(session.scalars(query).all())]


def _point(run: Run) -> CutPoint:
    counted = run.counted_good is not None
    return CutPoint(
        run.id,
        run.job_id,
        run.finished_at or run.created_at,
        run.plotter,
        run.stock,
        run.counted_good if counted else None,
        (run.counted_good or 0) + (run.counted_bad or 0) if counted else None,
        run.slip_mean_mm,
        run.seconds or 0.0,
        run.count,
        run.stickers,
    )


def printed(session: Session, days: int) -> int:
    """Sheets that were printed."""
    since = datetime.now(UTC) - timedelta(days=days)
    query = select(func.count()).where(Print.state.in_(("printed", "spoiled")), Print.finished_at >= since)
    return int(session.scalar(query) or 0)


def spoiled(session: Session, days: int) -> dict[str, int]:
    """Printed sheets that were thrown away, by what was said."""
    since = datetime.now(UTC) - timedelta(days=days)
    rows = session.execute(
        select(Print.message, func.count())
        .where(Print.state == "spoiled", Print.finished_at >= since)
        .group_by(Print.message)
    )
    return {str(why or "thrown away").removeprefix("You said: ").rstrip("."): int(n) for why, n in rows}


def changes(session: Session, days: int) -> list[tuple[datetime, str]]:
    """What changed at the machines, and when: a point out of the ordinary is looked at beside it."""
    since = datetime.now(UTC) - timedelta(days=days)
    found: list[tuple[datetime, str]] = []
    fitted = select(StockMove).where(StockMove.out_of == "supplier", StockMove.at >= since)
    for move in session.scalars(fitted):
        kind, _, of = move.item.partition(":")
        if kind in ("blade", "mat"):
            found.append((move.at, f"a new {kind} in {of}"))
        else:
            found.append((move.at, f"{kind} {of} delivered"))
    found += [
        (row.changed_at, f"{row.plotter} calibrated")
        for row in session.scalars(select(PlotterTrueing))
        if row.changed_at and row.changed_at >= since
    ]
    found += [
        (row.at, f"{row.process} of {row.stock} at {row.plotter} set anew")
        for row in session.scalars(select(BookRow).where(BookRow.at >= since))
    ]
    found += [
        (row.created_at, f"head of {row.printer} checked")
        for row in session.scalars(select(HeadCheckRow).where(HeadCheckRow.created_at >= since))
    ]
    found += [
        (row.ticked_at, f"{row.printer} set for {row.stock}")
        for row in session.scalars(select(SetupCardRow))
        if row.ticked_at is not None and row.ticked_at >= since
    ]
    return sorted(found)


def print_spans(session: Session) -> list[list[Span]]:
    """For each printer when its last sheets by the link were asked for and done, in their order."""
    rows = session.execute(
        select(Print.printer, Print.created_at, Print.finished_at)
        .where(Print.way == "link", Print.state == "printed", Print.finished_at.is_not(None))
        .order_by(Print.finished_at.desc())
        .limit(MOST)
    )
    return _by_machine((machine, begun, done) for machine, begun, done in rows if done is not None)


def cut_spans(session: Session) -> list[list[Span]]:
    """For each plotter when its last cuts were asked for and over, in their order."""
    rows = session.execute(
        select(Run.plotter, Run.created_at, Run.finished_at)
        .where(Run.finished_at.is_not(None))
        .order_by(Run.id.desc())
        .limit(MOST)
    )
    return _by_machine((machine, begun, done) for machine, begun, done in rows if done is not None)


def _by_machine(newest_first: Iterable[tuple[str, datetime, datetime]]) -> list[list[Span]]:
    spans: dict[str, list[Span]] = defaultdict(list)
    for machine, begun, done in reversed(list(newest_first)):
        spans[machine].append((begun, done))
    return list(spans.values())


def counts(session: Session) -> list[tuple[datetime, datetime, int]]:
    """When the last sheets that were counted had been cut, when they were counted, and how many stickers."""
    rows = session.execute(
        select(Run.finished_at, Run.counted_at, Run.counted_good, Run.counted_bad)
        .where(Run.finished_at.is_not(None), Run.counted_at.is_not(None))
        .order_by(Run.id.desc())
        .limit(MOST)
    )
    return [
        (over, counted, (good or 0) + (bad or 0))
        for over, counted, good, bad in rows
        if over is not None and counted is not None
    ]
