"""Placements in hand: whose box tells them, what stands and what is missing, which of two layouts is better."""

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from perisect.core.sheet.fill import Footprint
from perisect.core.sheet.placement import Placement, boxed, placed, pose
from perisect.core.sheet.placing import (
    boxes_on,
    centred,
    locked_on,
    plan_of,
    rank,
    round_locked,
    set_by_hand,
    shapes_on,
)
from perisect.core.sheet.recipe import PlacementRecipe, SheetRecipe
from tests.core.test_nest import AREA

TRIANGLE = shapely.Polygon([(-2, -2), (42, -2), (-2, 32)])
HERON = Footprint("heron", 40, 30, -2, -2, 42, 32, TRIANGLE.area, 3, TRIANGLE)
LAMP = Footprint("lamp", 20, 20, -1, -1, 21, 21, 22 * 22, 2)
BOTH = {"heron": HERON, "lamp": LAMP}

turn = st.floats(-360, 720, allow_nan=False)
place = st.floats(0, 300, allow_nan=False)


def at(design: str, x: float, y: float, turned: float = 0.0, **more: object) -> PlacementRecipe:
    facts = {"design": design, "x_mm": x, "y_mm": y, "rotation_deg": turned}
    return PlacementRecipe.model_validate(facts | more)


@settings(deadline=None, max_examples=50)
@given(turn, place, place, st.floats(0, 80), st.floats(0, 80))
def test_a_copy_is_where_it_was_by_whatever_box_it_is_told(
    turned: float, x: float, y: float, width: float, height: float
) -> None:
    told = pose("heron", turned, x, y)
    other = boxed(told, width, height)
    assert shapely.hausdorff_distance(placed(TRIANGLE, told), placed(TRIANGLE, other)) < 1e-6
    back = boxed(other, 0, 0)
    assert (back.x_mm, back.y_mm) == pytest.approx((x, y), abs=1e-6)


@settings(deadline=None, max_examples=50)
@given(turn, place, place)
def test_what_is_set_by_its_middle_has_it_there(turned: float, x: float, y: float) -> None:
    copy = centred(LAMP, x, y, turned)
    assert placed(shapely.box(0, 0, 20, 20), copy).centroid.coords[0] == pytest.approx((x, y), abs=1e-6)
    assert 0 <= copy.rotation_deg < 360 or copy.rotation_deg == pytest.approx(360)


def test_a_plan_tells_every_copy_by_the_box_of_its_outline() -> None:
    mixed = [pose("heron", 450.0, 60, 70), centred(LAMP, 150, 200, 30.0), pose("lamp", 0.0, 30, 150)]
    plan = plan_of(AREA, [HERON, LAMP], mixed, fill=True)
    (sheet,) = plan.sheets
    assert [(each.width_mm, each.height_mm) for each in sheet] == [(40, 30), (20, 20), (20, 20)]
    assert sheet[0].rotation_deg == 90
    assert sheet[1] is mixed[1]
    for before, after in zip(mixed, sheet, strict=True):
        outline = BOTH[before.key].outline
        assert shapely.hausdorff_distance(placed(outline, before), placed(outline, after)) < 1e-9


def test_by_number_what_stands_nowhere_is_missing_and_on_filled_sheets_nothing_is() -> None:
    one = [centred(HERON, 60, 60, 0.0)]
    assert plan_of(AREA, [HERON, LAMP], one, fill=False).missing == {"heron": 2, "lamp": 2}
    assert plan_of(AREA, [HERON, LAMP], one, fill=True).missing == {}
    assert plan_of(AREA, [HERON], one * 4, fill=False).missing == {}


def test_used_is_the_share_of_all_sheets_within_the_outermost_lines() -> None:
    standing = [centred(HERON, 60, 60, 0.0), replace(centred(LAMP, 60, 60, 0.0), sheet=2)]
    plan = plan_of(AREA, [HERON, LAMP], standing, fill=True)
    assert [len(sheet) for sheet in plan.sheets] == [1, 0, 1]
    assert plan.used_share == pytest.approx((44 * 34 / 2 + 22 * 22) / (3 * 210 * 297))


def test_what_is_set_by_hand_counts_where_it_is_asked_for() -> None:
    places = (at("heron", 60, 60), at("lamp", 120, 90, 15.0, locked=True), at("gone", 20, 20, locked=True))
    by_hand = SheetRecipe(method="hand", placements=places)
    assert [each.key for each in set_by_hand([HERON, LAMP], by_hand)] == ["heron", "lamp"]
    assert [each.key for each in locked_on([HERON, LAMP], by_hand)] == ["lamp"]
    in_rows = SheetRecipe(method="rows", placements=places)
    assert [each.key for each in set_by_hand([HERON, LAMP], in_rows)] == ["lamp"]


@pytest.mark.parametrize("turned", [0.0, 33.0, 90.0, 211.0])
def test_boxes_are_those_of_the_turned_shapes(turned: float) -> None:
    copies = [centred(HERON, 50 + 7 * n, 60, turned) for n in range(3)]
    wanted = shapely.bounds(shapes_on(BOTH, copies))
    assert np.array(boxes_on(BOTH, copies)) == pytest.approx(wanted, abs=1e-9)


def test_what_stands_too_close_to_a_locked_piece_gives_way() -> None:
    row = [centred(LAMP, 40 + 24 * n, 60, 0.0) for n in range(4)]
    locked = [centred(LAMP, 70, 60, 0.0, locked=True)]
    plan = plan_of(AREA, [LAMP], row, fill=True)
    kept = round_locked(plan, [LAMP], locked, gap_mm=2.0)
    # They are 22 wide: those at 64 and 88 lie within 24 of the one at 70, those at 40 and 112 do not.
    assert [each.x_mm + 10 for each in kept] == [70, 40, 112]


def in_a_row(count: int, last: int) -> list[Placement]:
    """So many lamps side by side on a sheet, and the last ones on a second."""
    first = [centred(LAMP, 20 + 22 * n, 40, 0.0) for n in range(count)]
    return first + [replace(centred(LAMP, 20 + 22 * n, 40, 0.0), sheet=1) for n in range(last)]


def test_the_better_layout_lacks_less_then_takes_fewer_sheets_then_leaves_more() -> None:
    lamp = replace(LAMP, copies=8)
    lacking, two, one = (plan_of(AREA, [lamp], in_a_row(*n), fill=False) for n in ((7, 0), (4, 4), (8, 0)))
    low = plan_of(AREA, [lamp], [replace(each, y_mm=each.y_mm + 60) for each in in_a_row(8, 0)], fill=False)
    ranked = [rank(AREA, [lamp], plan) for plan in (one, low, two, lacking)]
    assert ranked == sorted(ranked)
    assert len(set(ranked)) == 4
