"""Whether a printer prints at true size, from distances between marks that were read with a ruler."""

from dataclasses import dataclass
from math import sqrt

from perisect.core.sheet import Mark

READS_TO_MM = 0.25
"""How fine a ruler is read by eye."""
MOST_OFF = 0.05
"""No printer is further off than this share; a reading that says so was of something else."""


class ReadingImpossible(ValueError):
    """No printer is so far off; the text says what may have been read."""


class NoSuchMarks(LookupError):
    """The sheet has no two marks level with each other, and two below each other, to measure between."""


@dataclass(frozen=True)
class Span:
    """The distance between two marks as drawn, mm, and what they are called."""

    from_name: str
    to_name: str
    mm: float


@dataclass(frozen=True)
class AxisCheck:
    """One axis: what was drawn and what was read, mm; `error` and `uncertainty` (95 %) are shares of the length."""

    drawn_mm: float
    read_mm: float
    error: float
    uncertainty: float

    @property
    def is_sure(self) -> bool:
        """Whether the error is more than the ruler could have made of nothing."""
        return abs(self.error) > self.uncertainty

    @property
    def factor(self) -> float:
        """By how much more is to be printed: 1 where the error is not sure."""
        return self.drawn_mm / self.read_mm if self.is_sure else 1.0


def spans(marks: tuple[Mark, ...]) -> tuple[Span, Span]:
    """The longest distances from the first mark across and along the sheet.

    Raises:
        NoSuchMarks.
    """
    first = marks[0]
    level = [mark for mark in marks[1:] if abs(mark.y_mm - first.y_mm) < 0.01]
    below = [mark for mark in marks[1:] if abs(mark.x_mm - first.x_mm) < 0.01]
    if not level or not below:
        raise NoSuchMarks
    across = max(level, key=lambda mark: abs(mark.x_mm - first.x_mm))
    along = max(below, key=lambda mark: abs(mark.y_mm - first.y_mm))
    return (
        Span(first.name, across.name, abs(across.x_mm - first.x_mm)),
        Span(first.name, along.name, abs(along.y_mm - first.y_mm)),
    )


def check_scale(
    drawn_mm: tuple[float, float], read_mm: tuple[float, float], reads_to_mm: float = READS_TO_MM
) -> tuple[AxisCheck, AxisCheck]:
    """Across and along.

    A distance is the difference of two readings, each off by half of `reads_to_mm` at most and anything within that
    alike likely: the difference has a triangular distribution (JCGM 100:2008, 4.3.9), 95 % of which lie within
    reads_to (1 - sqrt 0.05).

    Raises:
        ReadingImpossible: more than 5 % off.
    """
    for axis, (drawn, read) in zip(("across", "along"), zip(drawn_mm, read_mm, strict=True), strict=True):
        if not abs(read / drawn - 1) <= MOST_OFF:
            swapped = all(
                abs(other / mine - 1) <= MOST_OFF
                for other, mine in zip(read_mm, reversed(drawn_mm), strict=True)
            )
            why = (
                "The two are swapped: across is the shorter way of this sheet."
                if swapped and drawn_mm[0] < drawn_mm[1]
                else "The two are swapped."
                if swapped
                else f"Measure from the middle of one mark to the middle of the other, {drawn:.1f} mm as drawn."
            )
            raise ReadingImpossible(f"{read:g} mm {axis} cannot be. {why}")
    half = reads_to_mm * (1 - sqrt(0.05))
    across, along = (
        AxisCheck(drawn, read, read / drawn - 1, half / drawn)
        for drawn, read in zip(drawn_mm, read_mm, strict=True)
    )
    return across, along
