"""Theme sheets: several stickers on a printed card with a heading, one or more cards to a sheet.

The pieces find their places on the card as they would on a small sheet; the cards stand in rows and columns,
and every piece goes with its card.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from perisect.core.finding import Finding
from perisect.core.formats import Ring
from perisect.core.lines.polygons import quarter_segments
from perisect.core.message import extent, mm, says
from perisect.core.sheet.fill import Footprint, SheetPlan, fill_sheets
from perisect.core.sheet.labels import PaintedText
from perisect.core.sheet.labels.label import set_text
from perisect.core.sheet.labels.recipe import TextBox
from perisect.core.sheet.layout import Layout, NestedOf, lay_out
from perisect.core.sheet.placement import Placement, centre, matrix
from perisect.core.sheet.placing import plan_of
from perisect.core.sheet.recipe import CardRecipe, SheetRecipe
from perisect.core.sheet.spread import spread
from perisect.core.sheet.stock import Stock
from perisect.core.sheet.usable import Machine, UsableArea

CARD = "\x00card"
HEADING_ROOM = 1.9
"""What a heading takes, heights of its capitals."""
LEAST_HEADING_MM = 1.5


@dataclass(frozen=True)
class Cards:
    """Cards by sheet, what stands on each of them, and how many pieces of each design it has no room for."""

    by_sheet: tuple[tuple[Placement, ...], ...]
    on_card: tuple[Placement, ...]
    missing: dict[str, int]


def lay_out_cards(
    area: UsableArea,
    footprints: Sequence[Footprint],
    sheet: SheetRecipe,
    card: CardRecipe,
    white_mm: float,
    nested: NestedOf,
) -> tuple[Layout, Cards]:
    """Pieces on a card, cards on sheets.

    Args:
        white_mm: what the widest white border is wider than its kiss line; two of them never meet.
    """
    inner = sheet.model_copy(
        update={
            "fill": False,
            "placements": sheet.placements if sheet.method == "hand" else (),
            "gap_mm": sheet.gap_mm + 2 * white_mm,
        }
    )
    room = _card_area(card, white_mm)
    on_card = lay_out(room, footprints, inner, nested)
    first = on_card.plan.sheets[0] if on_card.plan.sheets else ()
    if card.spread and sheet.method != "hand" and not any(place.locked for place in first):
        first = spread(
            first, footprints, (room.left_mm, room.top_mm, room.right_mm, room.bottom_mm), inner.gap_mm
        )
    missing = {f.key: f.copies - sum(p.key == f.key for p in first) for f in footprints}
    box = card_footprint(card, card.copies)
    cards = fill_sheets(area, [box], sheet.gap_mm, sheet.fill)
    standing = [on_carrier(piece, place) for places in cards.sheets for place in places for piece in first]
    plan = plan_of(area, footprints, standing, fill=True)
    if not cards.sheets or not standing:
        plan = SheetPlan((), {}, 0.0)
    found = Cards(cards.sheets, tuple(first), {key: count for key, count in missing.items() if count > 0})
    return replace(on_card, plan=plan), found


def card_footprint(card: CardRecipe, copies: int) -> Footprint:
    """What a card takes of a sheet; its area counts as that of its pieces."""
    width, height = card.width_mm, card.height_mm
    return Footprint(CARD, width, height, 0, 0, width, height, 0.0, copies)


def _card_area(card: CardRecipe, white_mm: float) -> UsableArea:
    """Where pieces may stand on a card: inside its margin, below its heading."""
    stock = Stock("card", "the card", card.width_mm, card.height_mm)
    edge = card.margin_mm + white_mm
    heading = card.heading_mm * HEADING_ROOM if card.heading.strip() else 0.0
    return UsableArea(stock, Machine(), edge, edge + heading, card.width_mm - edge, card.height_mm - edge, ())


def on_carrier(piece: Placement, card: Placement) -> Placement:
    """A piece where it comes to stand with what carries it."""
    m = matrix(card)
    x, y = (m[:, :2] @ centre(piece) + m[:, 2]).tolist()
    turn = (piece.rotation_deg + card.rotation_deg) % 360
    x, y = x - piece.width_mm / 2, y - piece.height_mm / 2
    return replace(piece, x_mm=x, y_mm=y, rotation_deg=turn, sheet=card.sheet)


def card_outline(card: CardRecipe) -> shapely.Polygon:
    """The card's outline, card mm."""
    radius = min(card.radius_mm, card.width_mm / 2 - 0.01, card.height_mm / 2 - 0.01)
    if radius <= 0:
        return shapely.box(0, 0, card.width_mm, card.height_mm)
    inner = shapely.box(radius, radius, card.width_mm - radius, card.height_mm - radius)
    return shapely.buffer(inner, radius, quad_segs=quarter_segments(radius))


def card_ring(card: CardRecipe, placement: Placement) -> Ring:
    """(n, 2) the card's outline on the sheet."""
    m = matrix(placement)
    points = shapely.get_coordinates(card_outline(card).exterior)[:-1]
    return np.asarray(points @ m[:, :2].T + m[:, 2])


def heading(card: CardRecipe) -> PaintedText | None:
    """The heading as it is set, card mm: as high as asked, lower where it would be wider than the card."""
    if not card.heading.strip():
        return None
    longest = max(card.width_mm, card.height_mm)
    box = TextBox(
        template="",
        x=card.margin_mm / longest,
        y=card.margin_mm / longest,
        width=(card.width_mm - 2 * card.margin_mm) / longest,
        height=card.heading_mm * HEADING_ROOM / longest,
        colour=card.heading_colour,
        font="head",
        size_mm=card.heading_mm,
        least_mm=LEAST_HEADING_MM,
    )
    return set_text(box, card.heading, longest)


def card_findings(card: CardRecipe, cards: Cards, names: dict[str, str], stock: Stock) -> list[Finding]:
    """Pieces that the card has no room for, cards that no sheet has room for, a heading that does not fit."""
    found = [
        Finding(
            code="card_full",
            station="sheet",
            severity="stop",
            design=key,
            message=says("card_full", missing=count, name=names[key]),
            measured=count,
            limit=0,
            unit="copies",
        )
        for key, count in cards.missing.items()
    ]
    if not cards.by_sheet:
        message = says("card_large", size=extent(card.width_mm, card.height_mm), stock=stock.name)
        found.append(Finding(code="card_large", station="sheet", severity="stop", message=message))
    if card.heading.strip() and heading(card) is None:
        message = says("card_heading", width=mm(card.width_mm))
        found.append(Finding(code="card_heading", station="sheet", severity="stop", message=message))
    return found
