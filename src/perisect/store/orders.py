"""Orders: who wants what by when, and in which jobs it is made."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from decimal import Decimal
from typing import Literal

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from perisect.store.trade_models import CustomerOrder, OrderItem

State = Literal["open", "sent", "cancelled"]


class UnknownOrder(KeyError):
    """There is no such order."""


class OrderStale(Exception):
    """Somebody changed it meanwhile, or it is not open any more."""


@dataclass(frozen=True)
class Line:
    """So many of a design of the shelf, at a size."""

    shelf_id: int
    longest_mm: float
    quantity: int


@dataclass(frozen=True)
class Said:
    """What somebody says of an order."""

    who: str
    address: str
    note: str
    due_at: datetime | None
    price: Decimal | None
    lines: Sequence[Line]


def page(session: Session, state: State | None, named: str, skip: int, most: int) -> list[CustomerOrder]:
    """Orders, those due first before the others."""
    query = select(CustomerOrder).order_by(CustomerOrder.due_at.asc().nulls_last(), CustomerOrder.id)
    if state is not None:
        query = query.where(CustomerOrder.state == state)
    for word in named.split():
        is_it = CustomerOrder.who.icontains(word, autoescape=True)
        number = int(word) if word.isascii() and word.isdecimal() and len(word) < 10 else None
        query = query.where(is_it if number is None else is_it | (CustomerOrder.id == number))
    return list(session.scalars(query.offset(skip).limit(most)))


def get(session: Session, order_id: int) -> CustomerOrder:
    """An order.

    Raises:
        UnknownOrder.
    """
    order = session.get(CustomerOrder, order_id)
    if order is None:
        raise UnknownOrder(order_id)
    return order


def create(session: Session, said: Said) -> CustomerOrder:
    """Enter an order."""
    order = CustomerOrder(
        who=said.who, address=said.address, note=said.note, due_at=said.due_at, price=said.price, state="open"
    )
    order.lines = [_item(line) for line in said.lines]
    session.add(order)
    session.flush()
    session.refresh(order)
    return order


def _item(line: Line) -> OrderItem:
    return OrderItem(shelf_id=line.shelf_id, longest_mm=line.longest_mm, quantity=line.quantity)


def change(session: Session, order_id: int, version: int, said: Said) -> CustomerOrder:
    """Change an open order that is still at this version; lines that are made already stay as they are.

    Raises:
        UnknownOrder, OrderStale.
    """
    order = _held(session, order_id, version)
    order.who, order.address, order.note = said.who, said.address, said.note
    order.due_at, order.price = said.due_at, said.price
    made = [item for item in order.lines if item.job_id is not None]
    wanted = {(line.shelf_id, line.longest_mm): line.quantity for line in said.lines}
    for item in made:
        key = (item.shelf_id, item.longest_mm)
        wanted[key] = wanted.get(key, 0) - item.quantity
    order.lines = [
        *made,
        *(OrderItem(shelf_id=s, longest_mm=mm, quantity=n) for (s, mm), n in wanted.items() if n > 0),
    ]
    order.version += 1
    session.flush()
    session.refresh(order)
    return order


def _held(session: Session, order_id: int, version: int) -> CustomerOrder:
    query = select(CustomerOrder).where(CustomerOrder.id == order_id).with_for_update()
    order = session.scalar(query)
    if order is None:
        raise UnknownOrder(order_id)
    if order.version != version or order.state != "open":
        raise OrderStale
    return order


def close(session: Session, order_id: int, version: int, state: State) -> CustomerOrder:
    """Say that an order is sent, or cancelled; or open again.

    Raises:
        UnknownOrder, OrderStale.
    """
    order = session.scalar(
        update(CustomerOrder)
        .where(CustomerOrder.id == order_id, CustomerOrder.version == version)
        .values(state=state, version=version + 1, closed_at=None if state == "open" else datetime.now(UTC))
        .returning(CustomerOrder)
    )
    if order is None:
        get(session, order_id)
        raise OrderStale
    return order


def rest_of(session: Session, order: CustomerOrder) -> CustomerOrder:
    """Enter an open order for what another one lacks; whom it is for and when stay."""
    rest = CustomerOrder(
        who=order.who,
        address=order.address,
        note=f"Rest of order {order.id}",
        due_at=order.due_at,
        price=None,
        state="open",
    )
    session.add(rest)
    session.flush()
    return rest


def move(session: Session, item: OrderItem, quantity: int, to: CustomerOrder) -> None:
    """Have another order want so many of a line, made in the same job."""
    session.add(
        OrderItem(
            order_id=to.id,
            shelf_id=item.shelf_id,
            longest_mm=item.longest_mm,
            quantity=quantity,
            job_id=item.job_id,
            design=item.design,
        )
    )


MAX_NOTE = 400


def note(session: Session, order: CustomerOrder, text: str) -> None:
    """Add a sentence to an order's note."""
    order.note = f"{order.note} {text}".strip()[-MAX_NOTE:]
    session.flush()


def held(session: Session, ids: Sequence[int]) -> list[CustomerOrder]:
    """Open orders of these numbers, nobody else's until the transaction ends.

    Raises:
        UnknownOrder.
    """
    query = (
        select(CustomerOrder)
        .where(CustomerOrder.id.in_(ids), CustomerOrder.state == "open")
        .order_by(CustomerOrder.id)
        .with_for_update()
    )
    found = list(session.scalars(query))
    if len(found) < len(set(ids)):
        raise UnknownOrder(next(iter(set(ids) - {each.id for each in found})))
    return found


def items_of_job(session: Session, job_id: int) -> list[tuple[OrderItem, CustomerOrder]]:
    """What a job makes for orders, those due first before the others."""
    rows = session.execute(
        select(OrderItem, CustomerOrder)
        .join(CustomerOrder, CustomerOrder.id == OrderItem.order_id)
        .where(OrderItem.job_id == job_id, CustomerOrder.state != "cancelled")
        .order_by(CustomerOrder.due_at.asc().nulls_last(), CustomerOrder.id, OrderItem.id)
    )
    return [(item, order) for item, order in rows]


def counts(session: Session) -> dict[str, int]:
    """How many there are by state."""
    rows = session.execute(select(CustomerOrder.state, func.count()).group_by(CustomerOrder.state))
    return {str(state): int(many) for state, many in rows}
