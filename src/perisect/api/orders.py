"""Orders: who wants what by when; made in jobs, told apart after the cut, packed and sent."""

from datetime import datetime
from decimal import Decimal
from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import AwareDatetime, BaseModel, Field

from perisect.api.problems import Problem
from perisect.api.shelf import unknown_item
from perisect.core.job.recipe import LongestMm
from perisect.core.ledger.packing_list import MOST_ADDRESSES, address_sheet, packing_list
from perisect.services import orders as service
from perisect.services import shop
from perisect.services.orders import NothingToMake, OrderNow, Rest, SomeLacks
from perisect.services.packing import addresses_of, packed
from perisect.store import orders, shelf
from perisect.store.database import transaction
from perisect.store.orders import Line, OrderStale, Said, State, UnknownOrder
from perisect.store.shelf import UnknownShelfItem

router = APIRouter(prefix="/api", tags=["orders"])

Words = r"^[^\x00-\x08\x0b-\x1f\x7f]*$"
MOST_OF_ONE = 20_000


class NewLine(BaseModel):
    """So many of a design of the shelf, at its own size unless another is given."""

    item: int
    longest_mm: LongestMm | None = None
    quantity: Annotated[int, Field(ge=1, le=MOST_OF_ONE)]


class NewOrder(BaseModel):
    """Who wants what by when; `version` is that of the order that is changed."""

    who: Annotated[
        str, Field(min_length=1, max_length=120, pattern=r"^[^\x00-\x1f\x7f]*\S[^\x00-\x1f\x7f]*$")
    ]
    address: Annotated[str, Field(max_length=400, pattern=Words)] = ""
    note: Annotated[str, Field(max_length=400, pattern=Words)] = ""
    due_at: AwareDatetime | None = None
    price: Annotated[Decimal, Field(ge=0, le=1_000_000, decimal_places=2)] | None = None
    lines: Annotated[list[NewLine], Field(min_length=1, max_length=60)]
    version: int = 0


class OrderedLine(BaseModel):
    """A line of an order: how many are wanted and good by now, and the job it is made in."""

    item: int
    name: str
    picture: str
    longest_mm: float
    quantity: int
    good: int
    job: int | None


class OrderView(BaseModel):
    """An order as it stands."""

    id: int
    who: str
    address: str
    note: str
    due_at: datetime | None
    price: float | None
    state: State
    complete: bool
    """Whether everything of it is there."""
    lines: list[OrderedLine]
    version: int
    created_at: datetime


class Closing(BaseModel):
    """What became of an order; `rest` is what becomes of what it lacks, where it is sent with less than all."""

    version: int
    state: State
    rest: Rest | None = None


class ToMake(BaseModel):
    """Orders that share their sheets."""

    orders: Annotated[list[int], Field(min_length=1, max_length=100)]


class MadeIn(BaseModel):
    """Jobs that were begun."""

    jobs: list[int]


class WhoseSheet(BaseModel):
    """A counted cut, and the order of each of its stickers; null for a bad or a spare one."""

    run: int
    print_id: int
    orders: list[int | None]


class WhoseView(BaseModel):
    """Whose sticker lies where on the counted sheets of a job; names by order."""

    sheets: list[WhoseSheet]
    names: dict[int, str]


def _view(now: OrderNow) -> OrderView:
    order = now.order
    lines: dict[tuple[int, float], OrderedLine] = {}
    for line in now.lines:
        key = (line.item.shelf_id, line.item.longest_mm)
        if (there := lines.get(key)) is not None:
            there.quantity += line.item.quantity
            there.good += line.good
            continue
        lines[key] = OrderedLine(
            item=line.item.shelf_id,
            name=line.item.shelf.name,
            picture=line.item.shelf.picture,
            longest_mm=line.item.longest_mm,
            quantity=line.item.quantity,
            good=line.good,
            job=line.item.job_id,
        )
    return OrderView(
        id=order.id,
        who=order.who,
        address=order.address,
        note=order.note,
        due_at=order.due_at,
        price=None if order.price is None else float(order.price),
        state=order.state,  # type: ignore[arg-type]
        complete=now.is_complete,
        lines=list(lines.values()),
        version=order.version,
        created_at=order.created_at,
    )


def _one(order_id: int) -> OrderView:
    with transaction() as session:
        return _view(service.orders_now(session, [orders.get(session, order_id)])[0])


def _said(new: NewOrder) -> Said:
    together: dict[tuple[int, float], int] = {}
    with transaction() as session:
        for line in new.lines:
            size = line.longest_mm or float(shelf.get(session, line.item).recipe["longest_mm"])
            together[line.item, size] = together.get((line.item, size), 0) + line.quantity
    if max(together.values()) > MOST_OF_ONE:
        raise Problem(
            422, f"An order takes at most {MOST_OF_ONE} of one design.", "Enter it as several orders."
        )
    merged = [Line(item, mm, many) for (item, mm), many in together.items()]
    return Said(new.who.strip(), new.address.strip(), new.note.strip(), new.due_at, new.price, merged)


@router.get("/orders")
def get_orders(
    state: State | None = None,
    named: Annotated[str, Query(max_length=120)] = "",
    skip: Annotated[int, Query(ge=0, le=100_000)] = 0,
    most: Annotated[int, Query(ge=1, le=200)] = 100,
) -> list[OrderView]:
    """Orders, those due first before the others."""
    with transaction() as session:
        return [
            _view(each)
            for each in service.orders_now(session, orders.page(session, state, named, skip, most))
        ]


@router.post("/orders", status_code=201)
def post_order(new: NewOrder) -> OrderView:
    """Enter an order."""
    try:
        return _one(service.enter(_said(new)))
    except UnknownShelfItem as error:
        raise unknown_item() from error


@router.get("/orders/{order_id}")
def get_order(order_id: int) -> OrderView:
    """An order as it stands."""
    try:
        return _one(order_id)
    except UnknownOrder as error:
        raise _unknown() from error


@router.put("/orders/{order_id}")
def put_order(order_id: int, new: NewOrder) -> OrderView:
    """Change an open order. What is in a job already stays there."""
    try:
        service.change(order_id, new.version, _said(new))
        return _one(order_id)
    except UnknownOrder as error:
        raise _unknown() from error
    except OrderStale as error:
        raise _stale() from error
    except UnknownShelfItem as error:
        raise unknown_item() from error


@router.put("/orders/{order_id}/state")
def put_order_state(order_id: int, closing: Closing) -> OrderView:
    """Say that an order is sent or cancelled, or open again."""
    try:
        service.close(order_id, closing.version, closing.state, closing.rest)
        return _one(order_id)
    except SomeLacks as error:
        raise Problem(
            409,
            f"{error.lacking} of this order are missing.",
            "Say whether the rest stays open as an order of its own, or is cancelled.",
        ) from error
    except UnknownOrder as error:
        raise _unknown() from error
    except OrderStale as error:
        raise _stale() from error


@router.post("/orders/jobs", status_code=201)
def post_order_jobs(wanted: ToMake) -> MadeIn:
    """Begin the jobs of orders: what is made on one stock by the same machines shares its sheets."""
    try:
        return MadeIn(jobs=[job.id for job in service.make_jobs(wanted.orders)])
    except UnknownOrder as error:
        raise _unknown() from error
    except NothingToMake as error:
        raise Problem(
            409, "All of these orders are in jobs already.", "Look at the jobs of these orders."
        ) from error


@router.get("/jobs/{job_id}/whose")
def get_whose(job_id: int) -> WhoseView:
    """Whose sticker lies where on the counted sheets of a job that is made for orders."""
    with transaction() as session:
        runs, shared = service.shared_of_job(session, job_id)
        names = {order.id: order.who for _, order in orders.items_of_job(session, job_id)}
    return WhoseView(
        sheets=[
            WhoseSheet(run=run.id, print_id=run.print_id, orders=list(whose))
            for run, whose in zip(runs, shared.sheets, strict=True)
        ],
        names=names,
    )


@router.get("/orders/{order_id}/packing.pdf", response_class=Response)
def get_packing_list(order_id: int) -> Response:
    """What goes into the parcel of an order."""
    try:
        with transaction() as session:
            (now,) = service.orders_now(session, [orders.get(session, order_id)])
            pdf = packing_list(packed(now, shop.get_name(session)))
    except UnknownOrder as error:
        raise _unknown() from error
    return _pdf(pdf, f"order-{order_id}-packing.pdf")


@router.get("/orders-addresses.pdf", response_class=Response)
def get_addresses(order: Annotated[list[int], Query(max_length=MOST_ADDRESSES)]) -> Response:
    """A sheet of stickers with the addresses of orders, three across and eight down."""
    try:
        with transaction() as session:
            pdf = address_sheet(addresses_of([orders.get(session, each) for each in order]))
    except UnknownOrder as error:
        raise _unknown() from error
    return _pdf(pdf, "addresses.pdf")


def _pdf(data: bytes, name: str) -> Response:
    return Response(
        data, media_type="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}"'}
    )


def _unknown() -> Problem:
    return Problem(404, "There is no such order.", "Look at the list of orders.")


def _stale() -> Problem:
    return Problem(
        409, "This order was changed elsewhere, or is not open any more.", "Look at it as it is now."
    )
