"""Stocks, printers and plotters: the shop's own, or the examples until it has any."""

from typing import TypeVar

from pydantic import BaseModel
from sqlalchemy import select
from sqlalchemy.orm import Session

from perisect.core.sheet.shop import (
    EXAMPLE_PLOTTERS,
    EXAMPLE_PRINTERS,
    EXAMPLE_STOCKS,
    PlotterRecipe,
    PrinterRecipe,
    StockRecipe,
)
from perisect.store.models import Thing

MOST = 100

KINDS: dict[str, tuple[type[BaseModel], tuple[BaseModel, ...]]] = {
    "stock": (StockRecipe, EXAMPLE_STOCKS),
    "printer": (PrinterRecipe, EXAMPLE_PRINTERS),
    "plotter": (PlotterRecipe, EXAMPLE_PLOTTERS),
}

T = TypeVar("T", StockRecipe, PrinterRecipe, PlotterRecipe)


class TooMany(ValueError):
    """The shop has as many of a kind as it may."""


class LastOne(ValueError):
    """A shop without any of a kind cannot work."""


def all_of(session: Session, kind: str, model: type[T]) -> list[T]:
    """All of a kind, in the order they came to the shop's list, by name."""
    rows = session.scalars(select(Thing).where(Thing.kind == kind)).all()
    if not rows:
        return [model.model_validate(each.model_dump()) for each in KINDS[kind][1]]
    found = [model.model_validate(row.recipe) for row in rows]
    return sorted(found, key=lambda each: each.name.lower())


def stock(session: Session, stock_id: str) -> StockRecipe | None:
    """The stock of this id."""
    return next((each for each in all_of(session, "stock", StockRecipe) if each.id == stock_id), None)


def keep(session: Session, kind: str, thing: BaseModel) -> None:
    """Keep one; one of the same id is replaced.

    Raises:
        TooMany: there are as many as there may be.
    """
    _own(session, kind)
    thing_id = str(thing.model_dump()["id"])
    row = session.get(Thing, (kind, thing_id))
    if row is None:
        if len(session.scalars(select(Thing.id).where(Thing.kind == kind)).all()) >= MOST:
            raise TooMany
        row = Thing(kind=kind, id=thing_id)
        session.add(row)
    row.recipe = thing.model_dump(mode="json")
    session.flush()


def forget(session: Session, kind: str, thing_id: str) -> bool:
    """Take one away; whether there was one. Jobs that use it keep its numbers.

    Raises:
        LastOne: it is the last of its kind.
    """
    _own(session, kind)
    row = session.get(Thing, (kind, thing_id))
    if row is None:
        return False
    if len(session.scalars(select(Thing.id).where(Thing.kind == kind)).all()) == 1:
        raise LastOne
    session.delete(row)
    session.flush()
    return True


def _own(session: Session, kind: str) -> None:
    """Make the examples the shop's own before the first change."""
    if session.scalars(select(Thing.id).where(Thing.kind == kind).limit(1)).first() is None:
        for each in KINDS[kind][1]:
            session.add(Thing(kind=kind, id=each.model_dump()["id"], recipe=each.model_dump(mode="json")))
        session.flush()
