"""Mark patterns: how many marks a sheet has, where, in what shape, under what names, and what they keep free.

A pattern is one object in `PATTERNS`; usable area, print file, cut files, sensing, findings and the screen ask it.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

import shapely

from perisect.core.sheet.marks import Anchor, Mark, MarkSettings
from perisect.core.sheet.stock import Stock

Box = tuple[float, float, float, float]
"""Left, top, right, bottom in sheet mm."""

FRAME_CLEAR_MM = 1.5
"""Bare inside a frame's line."""

NUMBERS = {2: "two", 3: "three", 4: "four"}
CORNERS = ("top left", "top right", "lower left", "lower right")


@dataclass(frozen=True)
class MarkPattern:
    """Four marks, one in each corner, row by row from the top and left before right; other patterns differ from it
    in what they override."""

    name: str = "four"
    title: str = "four corners"

    def centres(self, stock: Stock, settings: MarkSettings) -> list[tuple[float, float]]:
        """Centres in sheet mm, the one that wears the ring first."""
        left, right = settings.side_mm, stock.width_mm - settings.side_mm
        return [(x, y) for y in self._rows(stock, settings) for x in (left, right)]

    def shapes(self, count: int, settings: MarkSettings) -> list[str]:
        """The shape of each mark, a name in `mark_shape.SHAPES`."""
        return [settings.shape] * count

    def names(self, count: int) -> list[str]:
        """What each mark is called."""
        return list(CORNERS[:count])

    def counted(self, count: int) -> str:
        """So many marks, in words."""
        return f"{NUMBERS.get(count, count)} marks"

    def joining_line(self, marks: Sequence[Mark], settings: MarkSettings) -> shapely.Polygon | None:
        """Ink between the marks, where there is any."""
        return None

    def room(self, box: Box, marks: Sequence[Mark], settings: MarkSettings) -> Box:
        """What the pattern leaves of a box for cutting, before the marks' own keep-outs."""
        return box

    def keep_outs(self, marks: Sequence[Mark], settings: MarkSettings, stock: Stock) -> tuple[Box, ...]:
        """What each mark takes, out to the nearest side and, in the outer rows, to the nearest end: no sliver beyond
        a mark is used."""
        clear = settings.clear_mm
        highest = min((mark.y_mm for mark in marks), default=0.0)
        lowest = max((mark.y_mm for mark in marks), default=0.0)
        boxes = []
        middle = middle_of(marks, stock)
        for mark in marks:
            at_left = mark.x_mm < stock.width_mm / 2
            at_top = mark.y_mm - highest < clear and mark.y_mm < middle
            at_bottom = lowest - mark.y_mm < clear and not at_top
            boxes.append(
                (
                    0.0 if at_left else mark.x_mm - clear,
                    0.0 if at_top else mark.y_mm - clear,
                    mark.x_mm + clear if at_left else stock.width_mm,
                    stock.height_mm if at_bottom else mark.y_mm + clear,
                )
            )
        return tuple(boxes)

    def _rows(self, stock: Stock, settings: MarkSettings) -> list[float]:
        return [settings.top_mm, stock.height_mm - settings.bottom_mm]


class ThreeCorners(MarkPattern):
    """All corners but the lower right."""

    def centres(self, stock: Stock, settings: MarkSettings) -> list[tuple[float, float]]:
        """As four, without the last."""
        return super().centres(stock, settings)[:3]


class Frame(MarkPattern):
    """A line round everything whose corners are the marks."""

    def shapes(self, count: int, settings: MarkSettings) -> list[str]:
        """Angles that go on into the line."""
        return ["frame_corner"] * count

    def joining_line(self, marks: Sequence[Mark], settings: MarkSettings) -> shapely.Polygon | None:
        """The frame."""
        if len(marks) != 4:
            return None
        ring = [(marks[n].x_mm, marks[n].y_mm) for n in (0, 1, 3, 2)]
        return shapely.buffer(shapely.LinearRing(ring), settings.line_mm / 2, join_style="mitre")

    def room(self, box: Box, marks: Sequence[Mark], settings: MarkSettings) -> Box:
        """Inside the line."""
        left, top, right, bottom = box
        inside = settings.line_mm / 2 + FRAME_CLEAR_MM
        return (
            max(left, max(marks[0].x_mm, marks[2].x_mm) + inside),
            max(top, max(marks[0].y_mm, marks[1].y_mm) + inside),
            min(right, min(marks[1].x_mm, marks[3].x_mm) - inside),
            min(bottom, min(marks[2].y_mm, marks[3].y_mm) - inside),
        )


class PairsAlong(MarkPattern):
    """Pairs at equal intervals along a long sheet, no further apart than the spacing."""

    def counted(self, count: int) -> str:
        """So many pairs."""
        return f"{NUMBERS.get(count // 2, count // 2)} pairs of marks"

    def names(self, count: int) -> list[str]:
        """The outer pairs by their corners, those between by their number."""
        rows = count // 2
        outer = {0: "top", rows - 1: "lower"}
        return [
            f"{outer[row]} {side}" if row in outer else f"{side} of pair {row + 1}"
            for row in range(rows)
            for side in ("left", "right")
        ]

    def _rows(self, stock: Stock, settings: MarkSettings) -> list[float]:
        top, bottom = super()._rows(stock, settings)
        parts = max(1, ceil((bottom - top) / settings.spacing_mm - 1e-9))
        return [top + (bottom - top) * n / parts for n in range(parts + 1)]


class OwnPattern(MarkPattern):
    """The marks that a plotter's record lists itself."""

    def centres(self, stock: Stock, settings: MarkSettings) -> list[tuple[float, float]]:
        """Each from its own edges."""
        return [
            (_from(mark.from_x, mark.x_mm, stock.width_mm), _from(mark.from_y, mark.y_mm, stock.height_mm))
            for mark in settings.own
        ]

    def shapes(self, count: int, settings: MarkSettings) -> list[str]:
        """Each its own."""
        return [mark.shape for mark in settings.own]

    def names(self, count: int) -> list[str]:
        """By number."""
        return [f"{number + 1}." for number in range(count)]


class NoMarks(MarkPattern):
    """No marks: the sheet is cut from the corner that it is laid into."""

    def centres(self, stock: Stock, settings: MarkSettings) -> list[tuple[float, float]]:
        """Return no centres."""
        return []

    def counted(self, count: int) -> str:
        """Return the words for a sheet without marks."""
        return "no marks"


def _from(anchor: Anchor, distance_mm: float, length_mm: float) -> float:
    return {"near": distance_mm, "middle": length_mm / 2 + distance_mm, "far": length_mm - distance_mm}[
        anchor
    ]


PATTERNS: dict[str, MarkPattern] = {
    pattern.name: pattern
    for pattern in (
        MarkPattern("four", "four corners"),
        ThreeCorners("three", "three corners"),
        Frame("frame", "a frame"),
        PairsAlong("pairs", "pairs at intervals"),
        OwnPattern("own", "a list of its own"),
        NoMarks("none", "no marks"),
    )
}


def pattern_of(settings: MarkSettings) -> MarkPattern:
    """The pattern that settings name.

    Raises:
        KeyError: there is none.
    """
    return PATTERNS[settings.pattern]


def middle_of(marks: Sequence[Mark], stock: Stock) -> float:
    """What is above is at the top: half way between the outer rows, which may stand on a part of the sheet."""
    return _middle([mark.y_mm for mark in marks], stock)


def _middle(rows_mm: Sequence[float], stock: Stock) -> float:
    several = len(rows_mm) > 1 and max(rows_mm) - min(rows_mm) > 1e-6
    return (max(rows_mm) + min(rows_mm)) / 2 if several else stock.height_mm / 2


def marks_for(
    stock: Stock, settings: MarkSettings, places: Sequence[tuple[float, float]] = ()
) -> tuple[Mark, ...]:
    """The marks of a sheet; the first one is ringed.

    Args:
        places: centres set by hand, mm; they count when there are as many as the pattern has.
    """
    pattern = pattern_of(settings)
    centres = pattern.centres(stock, settings)
    if len(places) == len(centres):
        centres = list(places)
    names, shapes = pattern.names(len(centres)), pattern.shapes(len(centres), settings)
    middle = stock.width_mm / 2, _middle([y for _, y in centres], stock)
    return tuple(
        Mark(
            x,
            y,
            "plain" if n else "ringed",
            (1 if x < middle[0] else -1, 1 if y < middle[1] else -1),
            shapes[n],
            names[n],
        )
        for n, (x, y) in enumerate(centres)
    )
