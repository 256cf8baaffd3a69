"""Registration marks: their settings, and one mark.

Perisect's own mark is a disc with two opposite black quarters: they meet in the centre, which a
sensor finds to a fraction of a pixel whatever the exposure. The first mark, at the top left, wears a ring,
so that a turned sheet is noticed.
"""

from dataclasses import dataclass
from typing import Literal

MarkKind = Literal["ringed", "plain"]
Anchor = Literal["near", "middle", "far"]
"""From which edge a place is measured: left or top, the middle, right or foot."""


@dataclass(frozen=True)
class OwnMark:
    """A mark of a plotter's own pattern: its distance from an edge of the sheet along each axis, and its shape."""

    from_x: Anchor
    x_mm: float
    from_y: Anchor
    y_mm: float
    shape: str = "quartered"


@dataclass(frozen=True)
class MarkSettings:
    """Pattern, shape, size and place of the marks, settings of the plotter. All mm."""

    radius_mm: float = 3.0
    ring_inner_mm: float = 3.6
    ring_outer_mm: float = 4.2
    clear_mm: float = 5.5
    """Radius about the centre in which nothing else may stand."""
    side_mm: float = 11.0
    top_mm: float = 12.0
    bottom_mm: float = 15.0
    """Distance of the lower marks from the foot of the sheet: printers lose most there."""
    pattern: str = "four"
    """A name in `mark_pattern.PATTERNS`."""
    shape: str = "quartered"
    """A name in `mark_shape.SHAPES`, for patterns that do not say their own."""
    line_mm: float = 0.8
    """Weight of the lines of a ring, a cross, an angle or a frame."""
    spacing_mm: float = 300.0
    """Greatest distance of two pairs along a sheet, for marks at intervals."""
    own: tuple[OwnMark, ...] = ()
    """The marks of the pattern `own`."""


@dataclass(frozen=True)
class Mark:
    """Centre of a mark in sheet coordinates; `corner` is the way an angle opens: right and down are 1."""

    x_mm: float
    y_mm: float
    kind: MarkKind
    corner: tuple[int, int] = (1, 1)
    shape: str = "quartered"
    name: str = ""
    """What people call it: "top left"."""
