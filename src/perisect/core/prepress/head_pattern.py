"""A page that shows which nozzles of a printer's head fire: for each ink stairs of dashes, each by a group of its own.

A head that prints in swaths from the top of the page prints each dash with one group of nozzles, for the stairs begin
at the top of a swath and a dash stands one group below the last. A head that is built otherwise shows its gaps as
well; only which group it is remains the printer's own business.
"""

from dataclasses import dataclass

from perisect.core.prepress.print_head import GROUPS, INKS, SWATH_MM
from perisect.core.prepress.text_page import Words, text_page
from perisect.core.sheet.stock import Stock

PRINTED = {"cyan": (0, 1, 1), "magenta": (1, 0, 1), "yellow": (1, 1, 0), "black": (0, 0, 0)}
"""Red, green and blue of each ink alone."""
PITCH_MM = SWATH_MM / GROUPS
DASH_MM = (6.0, 0.4)
STEP_MM = 7.5
"""From dash to dash along a stair of twelve."""
STAIR = 12
LEFT_MM = 34.0
TARGET_MM = 4.0
"""Radius of a target's outer disc; its ring is bare from 2/3 to 1/3 of it."""
EDGE_MM = 12.0
FIFTH_MM = 60.0
LEAST_MM = (LEFT_MM + STAIR * STEP_MM + 8, 6 * SWATH_MM)
"""Width and height of the smallest page that holds it."""


class PageTooSmall(ValueError):
    """The pattern does not fit the stock."""


@dataclass(frozen=True)
class Dash:
    """One group's dash: its ink, its number from 0, and its left, top, right and bottom, page mm."""

    ink: str
    group: int
    box: tuple[float, float, float, float]


def dashes() -> list[Dash]:
    """All dashes of the page, ink after ink."""
    width, height = DASH_MM
    found = []
    for number, ink in enumerate(INKS):
        top = (number + 1) * SWATH_MM
        for group in range(GROUPS):
            x = LEFT_MM + (group % STAIR) * STEP_MM
            y = top + group * PITCH_MM + (PITCH_MM - height) / 2
            found.append(Dash(ink, group, (x, y, x + width, y + height)))
    return found


def targets(stock: Stock) -> list[tuple[float, float]]:
    """Middles of the targets that a scan is read by: top left, top right, lower left, lower right of the pattern, and
    one more right of the first, so that up is known. Page mm."""
    right, low = stock.width_mm - EDGE_MM, 5 * SWATH_MM + EDGE_MM
    return [(EDGE_MM, EDGE_MM), (right, EDGE_MM), (EDGE_MM, low), (right, low), (EDGE_MM + FIFTH_MM, EDGE_MM)]


def head_pattern_pdf(stock: Stock, printer: str) -> bytes:
    """The page to print.

    Raises:
        PageTooSmall: the stock has no room for it.
    """
    if stock.width_mm < LEAST_MM[0] or stock.height_mm < LEAST_MM[1]:
        raise PageTooSmall(
            f"The pattern needs a sheet of {LEAST_MM[0]:g} × {LEAST_MM[1]:g} mm, and {stock.name} is smaller."
        )
    paint = []
    for dash in dashes():
        left, top, right, bottom = dash.box
        red, green, blue = PRINTED[dash.ink]
        paint.append(
            f"{red} {green} {blue} rg {left:.3f} {top:.3f} {right - left:.3f} {bottom - top:.3f} re f"
        )
    for x, y in targets(stock):
        paint += [
            f"{grey} g {_disc(x, y, TARGET_MM * part)} f" for grey, part in ((0, 1.0), (1, 2 / 3), (0, 1 / 3))
        ]
    words = [Words(f"Head check · {printer}", EDGE_MM + FIFTH_MM + 8, EDGE_MM + 1, 2.6, "head")]
    words += [Words(ink, 10, (number + 1.5) * SWATH_MM + 1, 2.2) for number, ink in enumerate(INKS)]
    return text_page(stock, words, paint)


KAPPA = 0.5522847498
"""Of a quarter circle's Bezier handles, so much of the radius."""


def _disc(x: float, y: float, radius: float) -> str:
    k, r = KAPPA * radius, radius
    return (
        f"{x + r:.3f} {y:.3f} m "
        f"{x + r:.3f} {y + k:.3f} {x + k:.3f} {y + r:.3f} {x:.3f} {y + r:.3f} c "
        f"{x - k:.3f} {y + r:.3f} {x - r:.3f} {y + k:.3f} {x - r:.3f} {y:.3f} c "
        f"{x - r:.3f} {y - k:.3f} {x - k:.3f} {y - r:.3f} {x:.3f} {y - r:.3f} c "
        f"{x + k:.3f} {y - r:.3f} {x + r:.3f} {y - k:.3f} {x + r:.3f} {y:.3f} c h"
    )
