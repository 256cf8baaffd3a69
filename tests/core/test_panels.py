"""How long the panels of a roll are: the shortest that rows need, and where their marks hold."""

from math import ceil

import pytest

from perisect.core.sheet import Footprint
from perisect.core.sheet.mark_check import marks_hold
from perisect.core.sheet.panel import PanelRoom, area_of, ended
from perisect.core.sheet.placement import Placement
from perisect.core.sheet.placing import plan_of
from perisect.core.sheet.recipe import PANEL_STEP_MM, SheetRecipe
from perisect.core.sheet.rows import rows_plan
from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS, EXAMPLE_PRINTERS, EXAMPLE_STOCKS

ROLL = next(stock.recipe for stock in EXAMPLE_STOCKS if stock.kind == "roll")
ON = SheetRecipe(
    paper=ROLL, printer=EXAMPLE_PRINTERS[1].recipe, plotter=EXAMPLE_PLOTTERS[1].recipe, fill=False, gap_mm=2.0
)


def box(width: float, height: float, copies: int, key: str = "b") -> Footprint:
    return Footprint(key, width, height, 0, 0, width, height, width * height, copies)


def on(**changes: object) -> SheetRecipe:
    return ON.model_copy(update=changes)


@pytest.mark.parametrize("copies", [1, 4, 9, 30])
def test_a_panel_is_no_longer_than_its_rows_need(copies: int) -> None:
    piece = box(50, 50, copies)
    area = area_of(ON, [piece])
    length = area.stock.height_mm
    assert length % PANEL_STEP_MM == 0
    assert len(rows_plan(area, [piece], ON, []).sheets) == 1
    # A step shorter and they need another panel, or their marks run into each other.
    shorter = area_of(on(panel_mm=length - PANEL_STEP_MM), [piece])
    fits = marks_hold(shorter) and not shorter.polygon.is_empty
    plan = rows_plan(shorter, [piece], ON, []) if fits else None
    assert plan is None or len(plan.sheets) > 1 or plan.missing
    # By hand: so many rows of 52 mm less a gap.
    across = int((area.right_mm - area.left_mm + 2) // 52)
    assert area.bottom_mm - area.top_mm >= 52 * ceil(copies / across) - 2


def test_a_panel_of_a_set_length_has_it_and_one_that_is_filled_is_as_long_as_it_may_be() -> None:
    piece = box(60, 40, 4)
    assert area_of(on(panel_mm=500.0), [piece]).stock.height_mm == 500
    assert area_of(on(panel_mm=1e5), [piece]).stock.height_mm == ROLL.height_mm
    assert area_of(on(fill=True), [piece]).stock.height_mm == ROLL.height_mm
    assert area_of(ON, []).stock.height_mm == ROLL.height_mm


def test_several_panels_are_as_long_as_the_fewest_of_them_need() -> None:
    """More than one panel holds: none is longer than it takes to need no more of them."""
    piece = box(100, 100, 200)
    area = area_of(ON, [piece])
    whole = area_of(on(panel_mm=ROLL.height_mm), [piece])
    fewest = len(rows_plan(whole, [piece], ON, []).sheets)
    assert fewest > 1
    assert len(rows_plan(area, [piece], ON, []).sheets) == fewest
    assert area.stock.height_mm <= ROLL.height_mm


def test_a_piece_wider_than_the_roll_stands_nowhere_and_spends_no_more_of_it_than_marks_take() -> None:
    area = area_of(ON, [box(400, 400, 1)])
    assert rows_plan(area, [box(400, 400, 1)], ON, []).missing == {"b": 1}
    assert marks_hold(area)
    assert not marks_hold(area_of(on(panel_mm=area.stock.height_mm - PANEL_STEP_MM), [box(400, 400, 1)]))


@pytest.mark.parametrize("lowest_mm", [80.0, 240.0, 333.0])
def test_nested_panels_end_where_their_pieces_end(lowest_mm: float) -> None:
    sheet = on(method="nest")
    piece = box(40, 40, 1)
    area = area_of(on(panel_mm=800.0), [piece])
    middle = (area.left_mm + area.right_mm) / 2
    plan = plan_of(area, [piece], [Placement("b", middle, lowest_mm - 40, 40, 40)], False)
    shorter = ended(sheet, area, [piece], plan)
    length = shorter.stock.height_mm
    # Between the marks it may end as near as the plotter's grip allows, to a step.
    bare = area.stock.height_mm - area.bottom_mm
    least = ceil((lowest_mm + bare) / PANEL_STEP_MM) * PANEL_STEP_MM
    assert least <= length <= least + 30
    assert marks_hold(shorter)
    # A panel of a set length stays as long as it is, and so does one that is filled.
    assert ended(on(method="nest", panel_mm=800.0), area, [piece], plan) is area
    assert ended(on(method="nest", fill=True), area, [piece], plan) is area


def test_room_on_a_panel_is_that_of_its_length_or_none() -> None:
    room = PanelRoom(ON)
    short, long = room(300.0), room(600.0)
    assert short is not None
    assert long is not None
    assert (short.left_mm, short.top_mm, short.right_mm) == (long.left_mm, long.top_mm, long.right_mm)
    assert long.bottom_mm - short.bottom_mm == pytest.approx(300)
    # On twenty millimetres two rows of marks do not stand.
    assert room(20.0) is None
    # A line round everything keeps between the marks.
    ringed = PanelRoom(on(perimeter_cut="through"))(300.0)
    assert ringed is not None
    assert ringed.top_mm > short.top_mm
    assert ringed.bottom_mm < short.bottom_mm
