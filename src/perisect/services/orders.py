"""Orders become jobs, share sheets, and are told apart again after the cut."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from perisect.core.ledger.count import Count, found_on
from perisect.core.ledger.spares import RejectLog, least_to_print
from perisect.core.ledger.whose import Claim, Shared, share_out
from perisect.services import shelf
from perisect.store import orders, runs
from perisect.store import shelf as shelf_store
from perisect.store.database import transaction
from perisect.store.models import Job, Run
from perisect.store.orders import Line, Said, State
from perisect.store.trade_models import CustomerOrder, OrderItem

MOST_COPIES = 2000
"""Of one piece in one job."""
USUAL_REJECTS = 0.03
LEAST_COUNTED = 30


class NothingToMake(Exception):
    """Every line of these orders is in a job already."""


@dataclass(frozen=True)
class LineNow:
    """A line of an order: how many are good by now, and where it is made."""

    item: OrderItem
    good: int

    @property
    def lacking(self) -> int:
        """So many are still wanted."""
        return max(self.item.quantity - self.good, 0)


@dataclass(frozen=True)
class OrderNow:
    """An order with how its lines stand."""

    order: CustomerOrder
    lines: list[LineNow]

    @property
    def is_complete(self) -> bool:
        """Whether everything is there."""
        return bool(self.lines) and all(line.lacking == 0 for line in self.lines)


def reject_share(session: Session) -> float:
    """Of stickers, so many were bad lately."""
    good, bad = runs.counted(session)
    return min(0.9, bad / (good + bad)) if good + bad >= LEAST_COUNTED else USUAL_REJECTS


def spares_for(session: Session, quantity: int) -> int:
    """How many to make so that `quantity` are good, with the chance that the shop plans with."""
    sheets = runs.counted_sheets(session)
    if len(sheets) >= 3 and quantity <= 400:
        return RejectLog(sheets).least(quantity, 12)[0]
    return least_to_print(quantity, reject_share(session))


def make_jobs(ids: Sequence[int]) -> list[Job]:
    """Begin jobs for everything of these orders that is in none yet; what is made on the same stock by the same
    machines shares its sheets.

    Raises:
        UnknownOrder: one is not there, or not open.
        NothingToMake.
        UnknownShelfItem.
    """
    with transaction() as session:
        # Who asks at once for the same orders waits here, and finds their lines taken.
        wanted = [
            (order, item)
            for order in orders.held(session, ids)
            for item in order.lines
            if item.job_id is None
        ]
        if not wanted:
            raise NothingToMake
        groups: dict[str, list[tuple[CustomerOrder, OrderItem]]] = defaultdict(list)
        for order, item in wanted:
            groups[_made_alike(item)].append((order, item))
        return [job for group in groups.values() for job in _jobs_of(session, group)]


def _made_alike(item: OrderItem) -> str:
    return " ".join(str(item.shelf.sheet[part]["id"]) for part in shelf.MADE_ON)


Wanted = tuple[CustomerOrder, OrderItem]


def _jobs_of(session: Session, group: Sequence[Wanted]) -> list[Job]:
    """Jobs of one stock: as few as hold all pieces and copies."""
    made, left = [], list(group)
    while left:
        batch, left = _batch(session, left)
        pieces = list(dict.fromkeys((item.shelf_id, item.longest_mm) for _, item in batch))
        many = {key: sum(item.quantity for _, item in batch if _key(item) == key) for key in pieces}
        taken = [
            shelf.Taken(shelf_id, mm, min(spares_for(session, many[shelf_id, mm]), MOST_COPIES))
            for shelf_id, mm in pieces
        ]
        job, designs = shelf.begin_job(session, _title(batch), taken, order=True)
        due = [order.due_at for order, _ in batch if order.due_at is not None]
        job.due_at = min(due, default=None)
        for _, item in batch:
            item.job_id, item.design = job.id, designs[pieces.index(_key(item))]
        session.flush()
        made.append(job)
    return made


def _key(item: OrderItem) -> tuple[int, float]:
    return item.shelf_id, item.longest_mm


def _batch(session: Session, wanted: Sequence[Wanted]) -> tuple[list[Wanted], list[Wanted]]:
    """What the next job holds, and what is left: a line that is too long is parted."""
    room: dict[tuple[int, float], int] = {}
    batch: list[Wanted] = []
    left: list[Wanted] = []
    most = MOST_COPIES
    while spares_for(session, most) > MOST_COPIES:
        most = int(most * 0.97)
    for order, item in wanted:
        key = _key(item)
        if key not in room and len(room) == shelf.MOST_PIECES:
            left.append((order, item))
            continue
        there = room.setdefault(key, most)
        if there == 0:
            left.append((order, item))
            continue
        if item.quantity > there:
            rest = OrderItem(
                order_id=order.id,
                shelf_id=item.shelf_id,
                longest_mm=item.longest_mm,
                quantity=item.quantity - there,
            )
            rest.shelf = item.shelf
            session.add(rest)
            item.quantity = there
            left.append((order, rest))
        room[key] = there - item.quantity
        batch.append((order, item))
    return batch, left


def _title(batch: Sequence[Wanted]) -> str:
    names = list(dict.fromkeys(order.who for order, _ in batch))
    if len(names) == 1:
        return names[0]
    return f"{names[0]} and {len(names) - 1} other{'s' if len(names) > 2 else ''}"


def family(session: Session, job_id: int) -> list[int]:
    """A job and those that make what its order lacked."""
    return [job_id, *session.scalars(select(Job.id).where(Job.more_of == job_id).order_by(Job.id))]


def latest_runs(session: Session, job_ids: Sequence[int]) -> list[Run]:
    """The last run of each print of some jobs, in the order of the prints."""
    query = (
        select(Run).where(Run.job_id.in_(job_ids), Run.stickers.is_not(None)).order_by(Run.print_id, Run.id)
    )
    return list({run.print_id: run for run in session.scalars(query)}.values())


def shared_of_job(
    session: Session, job_id: int, cancelled: CustomerOrder | None = None
) -> tuple[list[Run], Shared]:
    """Counted sheets of a job with whose each sticker is, and what its orders still want.

    Args:
        session: where they are read.
        job_id: the job.
        cancelled: an order that wants nothing any more, and is asked about: it comes after all others.
    """
    claims = [
        Claim(order.id, item.design or "", item.quantity)
        for item, order in orders.items_of_job(session, job_id)
    ]
    if cancelled is not None:
        mine = [item for item in cancelled.lines if item.job_id == job_id]
        claims += [Claim(cancelled.id, item.design or "", item.quantity) for item in mine]
    counted = [run for run in latest_runs(session, family(session, job_id)) if run.count is not None]
    sheets = [[str(each["design"]) for each in run.stickers or []] for run in counted]
    bad = {number: _bad(run, sheets[number]) for number, run in enumerate(counted)}
    return counted, share_out(sheets, bad, claims)


def _bad(run: Run, stickers: Sequence[str]) -> frozenset[int]:
    count = Count.model_validate(run.count)
    if count.numbers is None:
        return frozenset(count.bad)
    # Counted by number: which ones are bad nobody said, so they are taken from the end of each design's.
    left = found_on(count, stickers).good
    bad = set()
    for number, design in enumerate(stickers):
        if left[design] > 0:
            left[design] -= 1
        else:
            bad.add(number)
    return frozenset(bad)


def orders_now(session: Session, found: Sequence[CustomerOrder]) -> list[OrderNow]:
    """Orders with how their lines stand."""
    lacking: dict[tuple[int, str, int], int] = defaultdict(int)
    asked: set[tuple[int, int | None]] = set()
    for order in found:
        gone = order if order.state == "cancelled" else None
        for job_id in {item.job_id for item in order.lines if item.job_id is not None}:
            question = job_id, None if gone is None else gone.id
            if question in asked:
                continue
            asked.add(question)
            for claim, many in shared_of_job(session, job_id, gone)[1].lacking:
                # An open order is told by what is asked without one that was cancelled.
                if gone is None or claim.order == gone.id:
                    lacking[claim.order, claim.design, job_id] += many
    told = []
    for order in found:
        lines = []
        for item in order.lines:
            if item.job_id is None:
                lines.append(LineNow(item, 0))
                continue
            key = (order.id, item.design or "", item.job_id)
            short = min(lacking[key], item.quantity)
            lacking[key] -= short
            lines.append(LineNow(item, item.quantity - short))
        told.append(OrderNow(order, lines))
    return told


def enter(said: Said) -> int:
    """Enter an order; its number.

    Raises:
        UnknownShelfItem.
    """
    with transaction() as session:
        _known(session, said.lines)
        return orders.create(session, said).id


def change(order_id: int, version: int, said: Said) -> None:
    """Change an open order.

    Raises:
        UnknownOrder, OrderStale, UnknownShelfItem.
    """
    with transaction() as session:
        _known(session, said.lines)
        orders.change(session, order_id, version, said)


class SomeLacks(Exception):
    """An order is to be sent and is not complete; the attribute is how many lack."""

    def __init__(self, lacking: int) -> None:
        super().__init__(lacking)
        self.lacking = lacking


Rest = Literal["open", "cancel"]
"""Fate of the missing stickers of an order sent in part: a new open order, or cancelled."""


def close(order_id: int, version: int, state: State, rest: Rest | None = None) -> None:
    """Say that an order is sent or cancelled, or open again.

    Args:
        order_id: its number.
        version: the one that was looked at.
        state: what becomes of it.
        rest: what becomes of what lacks, for an order that is sent with less than all.

    Raises:
        UnknownOrder: there is no such order.
        OrderStale: somebody changed it meanwhile.
        SomeLacks: it is not complete, and nobody said what becomes of the rest.
    """
    with transaction() as session:
        order = orders.close(session, order_id, version, state)
        if state != "sent":
            return
        (now,) = orders_now(session, [order])
        lacking = sum(line.lacking for line in now.lines)
        # An order of which nothing is there is not sent at all.
        if lacking and (rest is None or lacking == sum(line.item.quantity for line in now.lines)):
            raise SomeLacks(lacking)
        if lacking:
            _send_less(session, now, rest == "open")


def _send_less(session: Session, now: OrderNow, stays_open: bool) -> None:
    """Part an order: what is there goes, the rest is an order of its own or is wanted no more."""
    order, wanted = now.order, sum(line.item.quantity for line in now.lines)
    sent = wanted - sum(line.lacking for line in now.lines)
    left = orders.rest_of(session, order) if stays_open else None
    for line in now.lines:
        if not line.lacking:
            continue
        if left is not None:
            orders.move(session, line.item, line.lacking, left)
        line.item.quantity -= line.lacking
        if not line.item.quantity:
            session.delete(line.item)
    became = "cancelled" if left is None else f"order {left.id}"
    orders.note(session, order, f"Sent {sent} of {wanted}; the rest is {became}.")


def _known(session: Session, lines: Sequence[Line]) -> None:
    for line in lines:
        shelf_store.get(session, line.shelf_id)
