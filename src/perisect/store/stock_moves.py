"""The ledger of what the shop uses up. A row takes from one place what it gives to another: it always balances."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from decimal import Decimal

from sqlalchemy import Date, cast, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from perisect.core.ledger.stock_item import PACKS, ItemSettings, Place, kind_of
from perisect.store.locks import hold
from perisect.store.models import Run
from perisect.store.trade_models import ItemRow, StockMove

LEAST = Decimal("0.001")


@dataclass(frozen=True)
class Level:
    """What is on the shelf of an item, and what was used and wasted of it since it is kept."""

    shelf: float
    used: float
    waste: float
    supplied: float


def move(
    session: Session,
    item: str,
    out_of: Place,
    into: Place,
    quantity: float,
    why: str,
    key: str | None = None,
    job_id: int | None = None,
) -> bool:
    """Move so much of an item; whether it was not moved before under this key. Less than a thousandth is nothing."""
    much = Decimal(str(quantity)).quantize(LEAST)
    if much <= 0:
        return False
    values = {
        "item": item,
        "out_of": out_of,
        "into_place": into,
        "quantity": much,
        "why": why[:200],
        "key": key,
    }
    done = session.execute(
        insert(StockMove.__table__)  # type: ignore[arg-type]
        .values(**values, job_id=job_id)
        .on_conflict_do_nothing(index_elements=["key"])
        .returning(StockMove.__table__.c.id)
    ).first()
    return done is not None


def count(session: Session, item: str, there: float, why: str, key: str | None = None) -> float:
    """Set the shelf of an item right: so much is there. By how much it was off, negative for less than thought.

    Who counts the same item at once counts one after the other.
    """
    hold(session, f"stock {item}")
    off = there - level_of(session, item).shelf
    if off > 0:
        move(session, item, "found", "shelf", off, why, key)
    else:
        move(session, item, "shelf", "found", -off, why, key)
    return off


def was_moved(session: Session, item: str, key: str) -> bool:
    """Whether something was moved under this key; nobody else moves the item by a count until the transaction ends."""
    hold(session, f"stock {item}")
    return session.scalar(select(StockMove.id).where(StockMove.key == key)) is not None


def moved_for(session: Session, of: str) -> float:
    """What was moved under keys that begin so."""
    query = select(func.sum(StockMove.quantity)).where(StockMove.key.startswith(of, autoescape=True))
    return float(session.scalar(query) or 0)


def is_moved(session: Session, key: str) -> bool:
    """Return whether something was moved under just this key."""
    return session.scalar(select(StockMove.id).where(StockMove.key == key)) is not None


def times(session: Session, of: str) -> int:
    """How often something was moved under keys that begin so."""
    query = select(func.count()).where(StockMove.key.startswith(of, autoescape=True))
    return session.scalar(query) or 0


def is_kept(session: Session, item: str) -> bool:
    """Whether anything was ever moved of an item."""
    return session.scalar(select(StockMove.id).where(StockMove.item == item).limit(1)) is not None


def level_of(session: Session, item: str) -> Level:
    """The level of one item."""
    return levels(session, item).get(item, Level(0.0, 0.0, 0.0, 0.0))


def levels(session: Session, item: str | None = None) -> dict[str, Level]:
    """Levels by item, of those that were ever moved."""
    of = (StockMove.item == item,) if item is not None else ()
    amounts: dict[str, dict[str, Decimal]] = {}
    for place, sign in ((StockMove.into, 1), (StockMove.out_of, -1)):
        rows = session.execute(
            select(StockMove.item, place, func.sum(StockMove.quantity))
            .where(*of)
            .group_by(StockMove.item, place)
        )
        for name, where, much in rows:
            mine = amounts.setdefault(name, {})
            mine[where] = mine.get(where, Decimal(0)) + sign * much
    return {name: _level(mine) for name, mine in amounts.items()}


def _level(places: Mapping[str, Decimal]) -> Level:
    def at(place: Place) -> float:
        return float(places.get(place, Decimal(0)))

    return Level(at("shelf"), at("used"), at("waste"), -at("supplier"))


def unbalanced(session: Session) -> dict[str, Decimal]:
    """Items whose places do not sum to nothing: there are none, ever."""
    held: dict[str, Decimal] = {}
    for place, sign in ((StockMove.into, 1), (StockMove.out_of, -1)):
        rows = session.execute(
            select(StockMove.item, place, func.sum(StockMove.quantity)).group_by(StockMove.item, place)
        )
        for name, _, much in rows:
            held[name] = held.get(name, Decimal(0)) + sign * much
    return {name: off for name, off in held.items() if off != 0}


def used_by_day(session: Session, days: int) -> dict[str, tuple[int, dict[int, float]]]:
    """By item, since how many days it is kept (at most `days`), and what left the shelf so many days ago (from 0)."""
    today = datetime.now(UTC).date()
    first = session.execute(
        select(StockMove.item, func.min(cast(StockMove.at, Date))).group_by(StockMove.item)
    ).all()
    since = {name: min(days, (today - day).days + 1) for name, day in first}
    found: dict[str, tuple[int, dict[int, float]]] = {name: (kept, {}) for name, kept in since.items()}
    rows = session.execute(
        select(StockMove.item, cast(StockMove.at, Date), func.sum(StockMove.quantity))
        .where(
            StockMove.out_of == "shelf",
            StockMove.into.in_(("used", "waste")),
            StockMove.at > func.now() - func.make_interval(0, 0, 0, days),
        )
        .group_by(StockMove.item, cast(StockMove.at, Date))
    )
    for name, day, much in rows:
        found[name][1][max(0, (today - day).days)] = float(much)
    return found


def page(session: Session, item: str | None, before: int | None, most: int) -> list[StockMove]:
    """Moves, newest first."""
    query = select(StockMove).order_by(StockMove.id.desc()).limit(most)
    if item is not None:
        query = query.where(StockMove.item == item)
    if before is not None:
        query = query.where(StockMove.id < before)
    return list(session.scalars(query))


def settings_by_item(session: Session) -> dict[str, ItemSettings]:
    """How items are bought of which somebody has said it."""
    return {row.item: ItemSettings.model_validate(row.settings) for row in session.scalars(select(ItemRow))}


def usual_settings(item: str) -> ItemSettings:
    """How an item is bought as long as nobody has said."""
    return ItemSettings(pack=PACKS[kind_of(item)])


def set_settings(session: Session, item: str, settings: ItemSettings) -> None:
    """Say how an item is bought."""
    values = {"settings": settings.model_dump(mode="json")}
    session.execute(
        insert(ItemRow)
        .values(item=item, **values)
        .on_conflict_do_update(index_elements=["item"], set_=values)
    )


def cut_by_stock(session: Session, plotter: str) -> dict[str, float]:
    """Metres that a plotter has cut by stock, since its blade was changed."""
    fitted = session.scalar(
        select(func.max(StockMove.at)).where(
            StockMove.item == f"blade:{plotter}", StockMove.out_of == "supplier"
        )
    )
    query = select(Run.stock, func.sum(Run.cut_m)).where(Run.plotter == plotter, Run.cut_m > 0)
    if fitted is not None:
        query = query.where(Run.created_at >= fitted)
    return {stock: float(metres) for stock, metres in session.execute(query.group_by(Run.stock))}
