"""What packing lists and address stickers say of orders."""

from collections.abc import Sequence

from perisect.core.ledger.packing_list import Packed, PackedLine
from perisect.services.orders import OrderNow
from perisect.store.trade_models import CustomerOrder


def packed(now: OrderNow, shop: str) -> Packed:
    """The packing list of an order, its lines of one design and size together."""
    lines: dict[tuple[str, float], tuple[int, int]] = {}
    for line in now.lines:
        key = (line.item.shelf.name, line.item.longest_mm)
        good, wanted = lines.get(key, (0, 0))
        lines[key] = good + line.good, wanted + line.item.quantity
    order = now.order
    return Packed(
        shop,
        order.id,
        order.who,
        _lines(order.address),
        order.note,
        tuple(PackedLine(name, mm, good, wanted) for (name, mm), (good, wanted) in lines.items()),
    )


def addresses_of(found: Sequence[CustomerOrder]) -> list[tuple[str, ...]]:
    """Name and address of each order."""
    return [(order.who, *_lines(order.address)) for order in found]


def _lines(text: str) -> tuple[str, ...]:
    return tuple(line.strip() for line in text.splitlines() if line.strip())
