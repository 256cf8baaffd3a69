"""The kiosk's books: what it has on the shelf, who ordered what, and what it used up in the weeks before."""

from datetime import UTC, datetime, timedelta
from decimal import Decimal

import numpy as np
from sqlalchemy import update
from sqlalchemy.orm import Session

from perisect.services import orders, shelf, stockroom
from perisect.store import stock_moves
from perisect.store.database import transaction
from perisect.store.orders import Line, Said
from perisect.store.trade_models import StockMove

SEED = 17
WEEKS_BEFORE = 4
TAGS = {
    "d1": ("birds", "spring"),
    "d2": ("river", "evening"),
    "d3": ("ropes",),
    "d4": ("boats", "river"),
    "d5": ("honey", "jars"),
}
"""Of the pieces of the spring stickers."""
A_DAY = {"stock:a4": 5.0, "stock:a4-film": 2.2, "ink:desk": 1.4, "blade:desk": 3.1, "mat:desk": 2.0}
"""What the kiosk uses on a working day in the mean, by its notebook."""
BEGAN = {"stock:a4": 260, "stock:a4-film": 96, "ink:desk": 70, "blade:desk": 120, "mat:desk": 60}


def keep_books(job_id: int) -> None:
    """Put the spring stickers on the shelf, enter the orders that are open, and the use of the weeks before."""
    kept = {design: shelf.put(job_id, design, None, tags).id for design, tags in TAGS.items()}
    today = datetime.now().astimezone().replace(hour=16, minute=0, second=0, microsecond=0)

    def order(who: str, street: str, days: int, price: str, *lines: tuple[str, float, int]) -> int:
        wanted = [Line(kept[design], mm, many) for design, mm, many in lines]
        address = f"{street}\nReedwater"
        return orders.enter(Said(who, address, "", today + timedelta(days=days), Decimal(price), wanted))

    office = order("Ferry office", "Landing stage 1", 2, "64.00", ("d1", 62.0, 40), ("d3", 48.0, 24))
    school = order("School of the upper meadow", "Mill lane 4", 3, "38.00", ("d4", 64.0, 28))
    order("Mill tearoom", "Weir path 9", 6, "52.50", ("d5", 50.0, 60))
    order("Boathouse café", "Lower quay 2", 9, "21.00", ("d2", 38.0, 24), ("d1", 40.0, 12))
    orders.make_jobs([office, school])
    with transaction() as session:
        _notebook(session)


def _notebook(session: Session) -> None:
    """Deliveries and use of the weeks before, day by day."""
    rng, now = np.random.default_rng(SEED), datetime.now(UTC)
    first = now - timedelta(weeks=WEEKS_BEFORE)

    def at(key: str, when: datetime) -> None:
        session.execute(update(StockMove).where(StockMove.key == key).values(at=when))

    for item, began in BEGAN.items():
        stockroom.open_item(session, item)
        there = stock_moves.level_of(session, item).shelf
        stock_moves.move(
            session, item, "supplier", "shelf", began - min(there, 0), "Delivered", f"notebook {item}"
        )
        at(f"notebook {item}", first)
        at(f"open {item}", first)
        if there > 0:
            stock_moves.move(
                session, item, "shelf", "found", there, "Counted before", f"notebook counted {item}"
            )
            at(f"notebook counted {item}", first)
        for day in range(1, WEEKS_BEFORE * 7):
            when = first + timedelta(days=day)
            if when.weekday() > 4:
                continue
            used = float(rng.poisson(A_DAY[item] * 4) / 4)
            whole = round(used) if item.startswith(("stock", "mat")) else used
            key = f"notebook {item} {day}"
            stock_moves.move(session, item, "shelf", "used", whole, "by the notebook", key)
            at(key, when)
