"""What the shop has, what comes in and goes out, and when to order."""

from dataclasses import asdict
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Path, Query
from pydantic import BaseModel, Field

from perisect.api.problems import Problem
from perisect.core.ledger.stock_item import ItemId, ItemKind, ItemSettings, Place, kind_of
from perisect.services import stockroom
from perisect.services.stockroom import ItemNow, What
from perisect.store import stock_moves
from perisect.store.database import transaction
from perisect.store.trade_models import StockMove

router = APIRouter(prefix="/api/stockroom", tags=["stockroom"])


class ForecastView(BaseModel):
    """Use a day in the mean, days that it lasts, the level to order at, the chance that it runs out before a delivery
    ordered now, and how much to order (0 for nothing)."""

    a_day: float
    lasts_days: float
    reorder_at: float
    runs_out: float
    order: float


class ItemView(BaseModel):
    """An item as it stands; without a level nobody has counted it yet."""

    item: str
    kind: ItemKind
    name: str
    unit: str
    level: float | None
    used: float
    waste: float
    settings: ItemSettings
    forecast: ForecastView | None
    cut_in: dict[str, float]
    """Metres by stock since the blade was changed."""


class MoveView(BaseModel):
    """So much went from one place to another."""

    id: int
    item: str
    out_of: Place
    into: Place
    quantity: float
    why: str
    job: int | None
    at: datetime


class NewMove(BaseModel):
    """What came, was lost, was counted, or was fitted anew (a blade with so many metres before it); `key` is the
    caller's own, so that what is sent twice is entered once."""

    item: ItemId
    what: What
    quantity: Annotated[float, Field(ge=0, le=1_000_000, allow_inf_nan=False)]
    note: Annotated[str, Field(max_length=120, pattern=r"^[^\x00-\x1f\x7f]*$")] = ""
    key: Annotated[str, Field(min_length=8, max_length=40, pattern=r"^[A-Za-z0-9-]+$")]


@router.get("")
def get_stockroom() -> list[ItemView]:
    """Everything the shop uses up, with what is to be ordered."""
    with transaction() as session:
        return [_view(each) for each in stockroom.items_now(session)]


def _view(item: ItemNow) -> ItemView:
    return ItemView(
        item=item.item,
        kind=kind_of(item.item),
        name=item.name,
        unit=item.unit,
        level=item.level,
        used=item.used,
        waste=item.waste,
        settings=item.settings,
        forecast=None if item.forecast is None else ForecastView(**asdict(item.forecast)),
        cut_in=item.cut_in,
    )


@router.get("/moves")
def get_moves(
    item: Annotated[str | None, Query(max_length=60)] = None,
    before: Annotated[int | None, Query(ge=1, le=2**31 - 1)] = None,
    most: Annotated[int, Query(ge=1, le=500)] = 100,
) -> list[MoveView]:
    """The ledger, newest first."""
    with transaction() as session:
        return [_move(each) for each in stock_moves.page(session, item, before, most)]


def _move(row: StockMove) -> MoveView:
    return MoveView.model_validate(
        {
            "id": row.id,
            "item": row.item,
            "out_of": row.out_of,
            "into": row.into,
            "quantity": float(row.quantity),
            "why": row.why,
            "job": row.job_id,
            "at": row.at,
        }
    )


@router.post("/moves", status_code=201)
def post_move(move: NewMove) -> list[ItemView]:
    """Enter a delivery, waste, a count, or a new blade or mat."""
    if move.quantity == 0 and move.what != "count":
        raise Problem(422, "The quantity is zero.", "Enter how much came or went.")
    if move.what == "fitted" and kind_of(move.item) not in ("blade", "mat"):
        raise Problem(422, "Only blades and mats are fitted.", "Enter a delivery instead.")
    with transaction() as session:
        if not stockroom.is_item(session, move.item):
            raise Problem(404, "The shop has no such item.", "Add it at Stocks and machines first.")
        stockroom.book(session, move.item, move.what, move.quantity, move.note, move.key)
    return get_stockroom()


@router.put("/items/{item}")
def put_item(
    item: Annotated[str, Path(max_length=60, pattern=r"^(stock|ink|film|blade|mat):[a-z0-9-]{1,40}$")],
    settings: ItemSettings,
) -> list[ItemView]:
    """Say how an item is bought."""
    with transaction() as session:
        stock_moves.set_settings(session, item, settings)
    return get_stockroom()
