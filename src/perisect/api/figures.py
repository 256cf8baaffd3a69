"""Figures of what was counted and measured."""

from dataclasses import asdict
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from perisect.services.figures import Chart, figures_of
from perisect.store.database import transaction

router = APIRouter(prefix="/api/figures", tags=["figures"])


class PointView(BaseModel):
    """A value of one cut with its limits; of one outside them, what changed that day."""

    run: int
    job: int
    at: datetime
    value: float
    low: float | None
    high: float | None
    outside: bool
    changed: list[str]


class ChartView(BaseModel):
    """Points in time, and the middle line; no limits before there are five."""

    points: list[PointView]
    middle: float | None


class ShareView(BaseModel):
    """A cause, how often it was, and the share of it and all before it."""

    name: str
    count: int
    cumulative: float


class FiguresView(BaseModel):
    """Yield and mean slip (mm) of each cut, causes of bad stickers, hours by station, and sheets that were spoiled."""

    yields: ChartView
    slips: ChartView
    causes: list[ShareView]
    hours: dict[str, float]
    waste: list[ShareView]


Thing = Annotated[str | None, Query(max_length=40)]


@router.get("")
def get_figures(
    days: Annotated[int, Query(ge=1, le=3660)] = 90, plotter: Thing = None, stock: Thing = None
) -> FiguresView:
    """What the last days show, of one plotter or stock or of all."""
    with transaction() as session:
        found = figures_of(session, days, plotter, stock)
    return FiguresView(
        yields=_chart(found.yields),
        slips=_chart(found.slips),
        causes=[ShareView(**asdict(each)) for each in found.causes],
        hours=found.hours,
        waste=[ShareView(**asdict(each)) for each in found.waste],
    )


def _chart(chart: Chart) -> ChartView:
    return ChartView(points=[PointView(**asdict(point)) for point in chart.points], middle=chart.middle)
