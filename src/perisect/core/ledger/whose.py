"""Whose sticker lies where: orders that share sheets, told apart again after the cut."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Claim:
    """So many good ones of a design that an order wants; those who come first are served first."""

    order: int
    design: str
    quantity: int


@dataclass(frozen=True)
class Shared:
    """By sheet the order of each sticker (from 0), None for a bad or a spare one; and what each claim lacks."""

    sheets: tuple[tuple[int | None, ...], ...]
    lacking: tuple[tuple[Claim, int], ...]

    def of(self, order: int) -> int:
        """Stickers that an order got."""
        return sum(each == order for sheet in self.sheets for each in sheet)


def share_out(
    sheets: Sequence[Sequence[str]], bad: Mapping[int, frozenset[int]], claims: Sequence[Claim]
) -> Shared:
    """Give every good sticker to the first claim of its design that still wants one.

    In the order of sheets and of stickers on them: an order's stickers lie together, and one that was bad is made good
    by the next.

    Args:
        sheets: designs of the stickers of each sheet, in their order.
        bad: numbers of the bad stickers by sheet.
        claims: in the order in which they are served.
    """
    left = Counter({number: claim.quantity for number, claim in enumerate(claims)})
    queues: dict[str, list[int]] = {}
    for number, claim in enumerate(claims):
        queues.setdefault(claim.design, []).append(number)
    shared = []
    for at, sheet in enumerate(sheets):
        whose: list[int | None] = []
        for sticker, design in enumerate(sheet):
            queue = queues.get(design, [])
            while queue and left[queue[0]] == 0:
                queue.pop(0)
            if not queue or sticker in bad.get(at, frozenset()):
                whose.append(None)
                continue
            left[queue[0]] -= 1
            whose.append(claims[queue[0]].order)
        shared.append(tuple(whose))
    lacking = tuple((claims[number], n) for number, n in sorted(left.items()) if n > 0)
    return Shared(tuple(shared), lacking)
