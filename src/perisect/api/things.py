"""Stocks, printers and plotters of the shop."""

from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel

from perisect.api.problems import Problem
from perisect.core.sheet.shop import PlotterRecipe, PrinterRecipe, StockRecipe
from perisect.store import things
from perisect.store.database import transaction
from perisect.store.things import MOST, LastOne, TooMany

router = APIRouter(prefix="/api/shop", tags=["shop"])

Kind = Literal["stock", "printer", "plotter"]


class ShopView(BaseModel):
    """Everything the shop prints on, prints with and cuts with."""

    stocks: list[StockRecipe]
    printers: list[PrinterRecipe]
    plotters: list[PlotterRecipe]


@router.get("")
def get_shop() -> ShopView:
    """The shop's stocks, printers and plotters; examples until it has its own."""
    with transaction() as session:
        return ShopView(
            stocks=things.all_of(session, "stock", StockRecipe),
            printers=things.all_of(session, "printer", PrinterRecipe),
            plotters=things.all_of(session, "plotter", PlotterRecipe),
        )


@router.put("/stock")
def put_stock(stock: StockRecipe) -> ShopView:
    """Keep a stock; one of the same id is replaced."""
    return _keep("stock", stock)


@router.put("/printer")
def put_printer(printer: PrinterRecipe) -> ShopView:
    """Keep a printer; one of the same id is replaced."""
    return _keep("printer", printer)


@router.put("/plotter")
def put_plotter(plotter: PlotterRecipe) -> ShopView:
    """Keep a plotter; one of the same id is replaced."""
    return _keep("plotter", plotter)


@router.delete("/{kind}/{thing_id}")
def delete_thing(kind: Kind, thing_id: str) -> ShopView:
    """Take one away. Jobs that use it keep its numbers."""
    try:
        with transaction() as session:
            if not things.forget(session, kind, thing_id):
                raise Problem(404, f"There is no such {kind}.", "Somebody has removed it already.")
    except LastOne as error:
        raise Problem(
            409, f"This is the last {kind}.", "Add another before you take this one away."
        ) from error
    return get_shop()


def _keep(kind: Kind, thing: BaseModel) -> ShopView:
    try:
        with transaction() as session:
            things.keep(session, kind, thing)
    except TooMany as error:
        raise Problem(422, f"There are {MOST} already.", "Remove one that is not used.") from error
    return get_shop()
