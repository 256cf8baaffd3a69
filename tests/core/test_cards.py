"""Theme sheets: pieces on a card, cards on the sheet, white between kiss line and ground."""

import numpy as np
import pypdfium2
import pytest
import shapely

from perisect.core.job import JobPlan, JobRecipe, plan_job
from perisect.core.job.cut_sheet import cut_sheet
from perisect.core.job.files import print_pdf
from perisect.core.job.findings import findings_of
from perisect.core.prepress.print_file import encode_picture
from perisect.core.sheet.cards import card_outline, heading
from perisect.core.sheet.recipe import CardRecipe
from tests.core.test_sheet import planned, rectangle

ARTWORKS = {f"{n:064x}": rectangle(400, 300) for n in range(2)}
PAIR = planned((400, 300, 30.0), (400, 300, 24.0), border_mm=1.5, copies=2)


def carded(**card: object) -> JobPlan:
    recipe = PAIR.recipe.model_dump()
    recipe["sheet"] |= {"card": {"width_mm": 90, "height_mm": 120, "heading": "River birds"} | card}
    return plan_job(JobRecipe.model_validate(recipe), ARTWORKS)


def test_every_card_holds_every_piece_as_often_as_it_has_copies() -> None:
    plan = carded()
    assert plan.cards is not None
    # Two cards of 90 and a gap of 2 lie across 198 mm, two of 120 down 259.
    assert len(plan.cards.by_sheet[0]) == 4
    assert plan.sheets.count == 4 * 4
    assert not [f for f in findings_of(plan) if f.severity == "stop"]


def test_pieces_lie_on_their_cards_and_white_borders_do_not_meet() -> None:
    plan = carded()
    cut = cut_sheet(plan, 0)
    cards = [shapely.Polygon(ring) for ring in cut.lines["through"]]
    pieces = [shapely.Polygon(ring) for ring in cut.lines["kiss"]]
    assert len(cards) == 4
    for piece in pieces:
        (home,) = [card for card in cards if card.contains(piece)]
        # The white is as wide again as the border: it ends inside the margin of 4.
        assert piece.distance(home.exterior) >= 4 + 1.5 - 0.03
    for n, one in enumerate(pieces):
        assert all(one.distance(other) >= 2 + 2 * 1.5 - 0.03 for other in pieces[n + 1 :])
    for n, one in enumerate(cards):
        assert all(one.distance(other) >= 2 - 1e-3 for other in cards[n + 1 :])


def test_cards_are_cut_after_everything_on_them() -> None:
    from perisect.core.cutting.order import cut_order
    from perisect.core.job.cut_sheet import cut_sheet

    order = [line.process for line in cut_order(cut_sheet(carded(), 0))]
    assert order[-4:] == ["through"] * 4
    assert set(order[:-4]) == {"kiss"}
    assert "perforate" in cut_sheet(carded(cut="perforate"), 0).lines


def test_a_card_has_rounded_corners() -> None:
    card = CardRecipe(width_mm=90, height_mm=120, radius_mm=10)
    # A rectangle less what four quarter circles leave: (4 - pi) r².
    assert card_outline(card).area == pytest.approx(90 * 120 - (4 - np.pi) * 100, rel=1e-4)
    assert card_outline(card.model_copy(update={"radius_mm": 0.0})).area == pytest.approx(90 * 120)


def test_what_the_card_has_no_room_for_stops_it() -> None:
    full = carded(width_mm=40, height_mm=50)
    assert {f.code for f in findings_of(full) if f.severity == "stop"} == {"card_full"}
    large = carded(width_mm=300, height_mm=300)
    assert "card_large" in {f.code for f in findings_of(large) if f.severity == "stop"}
    assert large.sheets.count == 0
    assert "card_heading" in {f.code for f in findings_of(carded(heading="蜂蜜"))}


def test_a_heading_is_as_high_as_asked_or_as_the_card_is_wide() -> None:
    short = heading(CardRecipe(width_mm=90, heading="Birds", heading_mm=5))
    long = heading(CardRecipe(width_mm=90, heading="Birds of the lower river and its ferries", heading_mm=5))
    assert short is not None
    assert long is not None
    assert short.glyphs[0][4] == 5
    assert long.glyphs[0][4] < 5
    assert heading(CardRecipe(heading="  ")) is None


def test_ground_white_and_art_are_printed_in_this_order() -> None:
    plan = carded(colour="#204060")
    rgba = np.zeros((306, 406, 4), np.uint8)
    rgba[3:303, 3:403] = (200, 40, 30, 255)
    pdf = print_pdf(plan, 0, dict.fromkeys(ARTWORKS, encode_picture(rgba)))
    k = 10 * 72 / 25.4 * 25.4 / 72
    page = np.array(pypdfium2.PdfDocument(pdf)[0].render(scale=k * 25.4 / 72).to_pil().convert("RGB")).astype(
        int
    )
    ring = shapely.Polygon(cut_sheet(plan, 0).lines["kiss"][0])
    left, top, _, bottom = ring.bounds
    middle = (top + bottom) / 2

    def at(x: float) -> list[int]:
        return page[int(middle * k), int(x * k)].tolist()

    assert at(left - 0.7) == [255, 255, 255]
    assert at(left + 0.7) == [255, 255, 255]
    assert at(left - 2.2) == [0x20, 0x40, 0x60]
    assert at(left + 5) == [200, 40, 30]


def test_a_nested_card_is_cut_as_it_was_printed() -> None:
    from dataclasses import replace

    from perisect.core.sheet.nest import nest

    recipe = carded().recipe
    nested = recipe.model_copy(update={"sheet": recipe.sheet.model_copy(update={"method": "nest"})})
    found = plan_job(nested, ARTWORKS, nested=lambda question: nest(replace(question, seconds=0)))
    frozen = found.frozen()
    assert frozen.sheet.method == "hand"
    again = plan_job(frozen, ARTWORKS, nested=lambda question: None)
    assert [len(sheet) for sheet in again.sheets.sheets] == [len(sheet) for sheet in found.sheets.sheets]
    for one, other in zip(again.sheets.sheets[0], found.sheets.sheets[0], strict=True):
        assert (one.key, one.rotation_deg) == (other.key, other.rotation_deg)
        assert (one.x_mm, one.y_mm) == pytest.approx((other.x_mm, other.y_mm))


def test_an_order_of_theme_sheets_is_counted_in_cards() -> None:
    from perisect.core.job.questions import order_answer

    plan = carded()
    # Two of each on a card: 25 of one and 8 of the other need 13 cards, four of them on a sheet.
    answer = order_answer(plan, {"d0": 25, "d1": 8}, 0.0)
    assert (answer.cards, answer.sheets, answer.left_out) == (13, 4, 0)
    assert answer.to_print == {"d0": 26, "d1": 26}
