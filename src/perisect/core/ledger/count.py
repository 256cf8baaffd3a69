"""What a person found on a cut sheet: good and bad stickers with their cause, and what that means for the order."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

BadCause = Literal[
    "slipped",
    "not cut",
    "not through",
    "ragged",
    "clings",
    "liner cut",
    "wrong side",
    "poor print",
    "lost",
]
Many = Annotated[int, Field(ge=0, le=5000)]


class CountImpossible(ValueError):
    """What was counted cannot be; the text says why."""


class Numbers(BaseModel):
    """Stickers of one design, counted without a picture."""

    model_config = ConfigDict(frozen=True)

    good: Many
    bad: Many = 0
    cause: BadCause = "slipped"


class Count(BaseModel):
    """What was found on one sheet: the causes of bad stickers by their number (from 0), all others being good; or
    numbers by design."""

    model_config = ConfigDict(frozen=True)

    bad: Annotated[dict[Annotated[int, Field(ge=0, lt=5000)], BadCause], Field(max_length=5000)] = {}
    numbers: Annotated[dict[str, Numbers], Field(max_length=60)] | None = None


@dataclass(frozen=True)
class Found:
    """Good and bad stickers by design, and bad ones by cause."""

    good: Counter[str]
    bad: Counter[str]
    causes: Counter[str]


def found_on(count: Count, stickers: Sequence[str]) -> Found:
    """What a count says of a sheet whose stickers (their designs, in their order) were cut.

    Raises:
        CountImpossible: it counts what is not on the sheet.
    """
    there = Counter(stickers)
    if count.numbers is None:
        if count.bad and max(count.bad) >= len(stickers):
            raise CountImpossible(
                f"The sheet has {len(stickers)} stickers: there is none of number {max(count.bad) + 1}."
            )
        bad = Counter(stickers[number] for number in count.bad)
        return Found(there - bad, bad, Counter(count.bad.values()))
    for design, each in count.numbers.items():
        if each.good + each.bad > there[design]:
            raise CountImpossible(
                f"{each.good} good and {each.bad} bad are more than the {there[design]} of that piece on the sheet."
            )
    good = Counter({design: each.good for design, each in count.numbers.items()})
    # What nobody names, and what is missing from a number, is not there.
    causes = Counter[str]()
    for each in count.numbers.values():
        causes[each.cause] += each.bad
    causes["lost"] += there.total() - good.total() - causes.total()
    return Found(+good, there - good, +causes)


@dataclass(frozen=True)
class OrderLine:
    """How a design stands in its order: wanted, found good and bad, cut and not counted yet, not cut yet.

    `more` are to be printed beside those; `spare` are good beyond what is wanted.
    """

    design: str
    wanted: int
    good: int
    bad: int
    uncounted: int
    to_cut: int

    @property
    def more(self) -> int:
        """So many are missing even when all that is under way turns out well."""
        return max(self.wanted - self.good - self.uncounted - self.to_cut, 0)

    @property
    def spare(self) -> int:
        """Good beyond the order."""
        return max(self.good - self.wanted, 0)


def order_lines(
    wanted: Mapping[str, int],
    counted: Sequence[Found],
    uncounted: Sequence[Sequence[str]],
    to_cut: Sequence[Sequence[str]],
) -> list[OrderLine]:
    """Every design of an order.

    Args:
        wanted: by design.
        counted: sheets that were counted.
        uncounted: stickers of sheets that are cut and were not counted yet.
        to_cut: stickers of sheets that are printed, or being printed, and not cut yet.
    """
    good, bad = Counter[str](), Counter[str]()
    for each in counted:
        good.update(each.good)
        bad.update(each.bad)
    waiting = Counter(sticker for sheet in uncounted for sticker in sheet)
    coming = Counter(sticker for sheet in to_cut for sticker in sheet)
    return [
        OrderLine(design, many, good[design], bad[design], waiting[design], coming[design])
        for design, many in wanted.items()
    ]
