"""Registration marks: which school, what shape, and where they stand.

Perisect's own mark is a disc with two opposite black quarters: they meet in the centre, a saddle that a
sensor finds to a fraction of a pixel whatever the exposure. The first mark, at the top left, wears a ring,
so that a turned sheet is noticed.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil
from typing import Literal

from perisect.core.sheet.stock import Stock

MarkKind = Literal["ringed", "plain"]
School = Literal["four", "three", "frame", "pairs"]
Shape = Literal["quartered", "disc", "ring", "cross", "angle"]


@dataclass(frozen=True)
class MarkSettings:
    """School, shape, size and place of the marks, settings of the plotter. All mm."""

    radius_mm: float = 3.0
    ring_inner_mm: float = 3.6
    ring_outer_mm: float = 4.2
    clear_mm: float = 5.5
    """Radius about the centre in which nothing else may stand."""
    side_mm: float = 11.0
    top_mm: float = 12.0
    bottom_mm: float = 15.0
    """Distance of the lower marks from the foot of the sheet: printers lose most there."""
    school: School = "four"
    shape: Shape = "quartered"
    line_mm: float = 0.8
    """Weight of the lines of a ring, a cross, an angle or a frame."""
    spacing_mm: float = 300.0
    """Greatest distance of two pairs along a sheet, for marks at intervals."""

    @property
    def drawn(self) -> Shape:
        """The shape that is printed: a frame's marks are its own corners."""
        return "angle" if self.school == "frame" else self.shape


@dataclass(frozen=True)
class Mark:
    """Centre of a mark in sheet coordinates; `corner` is the way an angle opens: right and down are 1."""

    x_mm: float
    y_mm: float
    kind: MarkKind
    corner: tuple[int, int] = (1, 1)


def marks_for(
    stock: Stock, settings: MarkSettings, places: Sequence[tuple[float, float]] = ()
) -> tuple[Mark, ...]:
    """The marks row by row from the top, left before right; the first one is ringed.

    Args:
        places: centres set by hand; they count when there are as many as the school has.
    """
    left, right = settings.side_mm, stock.width_mm - settings.side_mm
    top, bottom = settings.top_mm, stock.height_mm - settings.bottom_mm
    rows = [top, bottom]
    if settings.school == "pairs":
        parts = max(1, ceil((bottom - top) / settings.spacing_mm - 1e-9))
        rows = [top + (bottom - top) * n / parts for n in range(parts + 1)]
    centres = [(x, y) for y in rows for x in (left, right)]
    if settings.school == "three":
        centres.pop()
    if len(places) == len(centres):
        centres = list(places)
    middle = stock.width_mm / 2, stock.height_mm / 2
    return tuple(
        Mark(x, y, "plain" if n else "ringed", (1 if x < middle[0] else -1, 1 if y < middle[1] else -1))
        for n, (x, y) in enumerate(centres)
    )


WHERE = ("top left", "top right", "lower left", "lower right")
"""Names of the four places, in the order of `marks_for`."""


def mark_name(index: int, count: int) -> str:
    """What a mark is called among so many."""
    if count <= len(WHERE):
        return WHERE[index]
    side, row, rows = ("left", "right")[index % 2], index // 2, count // 2
    if row in (0, rows - 1):
        return f"{'top' if row == 0 else 'lower'} {side}"
    return f"{side} of pair {row + 1}"
