"""Room for one more: how many squares, discs and corners find a place can be said by hand."""

from dataclasses import replace
from itertools import combinations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import affinity

from perisect.core.sheet.nest.pockets import Pockets, fill_pockets
from perisect.core.sheet.placement import Placement, placed
from perisect.core.sheet.turns import Turns
from tests.core.test_nest import AREA as MARKED

AREA = replace(MARKED, marks=(), used=(shapely.box(0, 0, 1, 1),))
"""Without marks it is a plain box."""
WHOLE = AREA.polygon
WIDE, HIGH = WHOLE.bounds[2] - WHOLE.bounds[0], WHOLE.bounds[3] - WHOLE.bounds[1]


def standing(shapes: dict[str, shapely.Polygon], laid: list[Placement]) -> list[shapely.Geometry]:
    return [placed(shapes[each.key], each) for each in laid]


def pockets(shapes: dict[str, shapely.Polygon], gap_mm: float, turns: Turns = "none") -> Pockets:
    return Pockets(AREA, shapes, gap_mm, turns)


@pytest.mark.parametrize(("side", "gap"), [(30, 2.0), (25, 0.0), (41, 5.0)])
def test_squares_one_by_one_stand_as_in_rows(side: float, gap: float) -> None:
    shapes = {"square": shapely.box(0, 0, side, side)}
    laid = fill_pockets(pockets(shapes, gap), ["square"] * 400)
    across, down = (int((room + gap) // (side + gap + 0.26)) for room in (WIDE, HIGH))
    # A raster of half a millimetre costs as much for each at most.
    assert len(laid) >= across * down
    assert len(laid) <= int((WIDE + gap) // (side + gap)) * int((HIGH + gap) // (side + gap))


def test_the_first_stands_at_the_top_and_then_at_the_left() -> None:
    shapes = {"square": shapely.box(0, 0, 30, 30)}
    first, second = fill_pockets(pockets(shapes, 3.0), ["square"] * 2)
    left, top, *_ = WHOLE.bounds
    assert (first.x_mm - left, first.y_mm - top) == pytest.approx((0, 0), abs=0.51)
    assert second.y_mm == pytest.approx(first.y_mm, abs=0.51)
    assert second.x_mm - first.x_mm == pytest.approx(33, abs=0.51)


def test_a_piece_finds_the_hollow_of_another() -> None:
    hollow = shapely.box(0, 0, 80, 80).difference(shapely.box(20, 20, 60, 80))
    shapes = {"hollow": hollow, "small": shapely.box(0, 0, 34, 34)}
    room = pockets(shapes, 2.0)
    outer = room.put("hollow")
    inner = room.put("small")
    assert outer is not None
    assert inner is not None
    box = shapely.box(*placed(hollow, outer).bounds)
    # The top of the sheet beside it is as high, so it may stand there too; filled up, it does not.
    wall = shapely.box(box.bounds[2] + 2, WHOLE.bounds[1], WHOLE.bounds[2], WHOLE.bounds[3])
    below = shapely.box(WHOLE.bounds[0], box.bounds[3] + 2, box.bounds[2], WHOLE.bounds[3])
    room = pockets(shapes, 2.0)
    room.put("hollow")
    room.occupy([wall, below])
    inner = room.put("small")
    assert inner is not None
    assert box.contains(placed(shapes["small"], inner))
    assert room.put("small") is None


def test_a_piece_too_long_as_it_comes_is_turned() -> None:
    long = {"long": shapely.box(0, 0, (WIDE + HIGH) / 2, 20)}
    assert pockets(long, 2.0, "none").put("long") is None
    turned = pockets(long, 2.0, "quarter").put("long")
    assert turned is not None
    assert turned.rotation_deg % 180 == 90
    assert AREA.holds(placed(long["long"], turned))


def test_what_found_no_place_is_not_tried_again_and_smaller_pieces_are() -> None:
    shapes = {"huge": shapely.box(0, 0, WIDE + 1, 10), "small": shapely.box(0, 0, 10, 10)}
    laid = fill_pockets(pockets(shapes, 1.0), ["huge", "small", "huge", "small"])
    assert [each.key for each in laid] == ["small", "small"]


def test_who_wants_what_there_is_gets_it() -> None:
    shapes = {"small": shapely.box(0, 0, 10, 10)}
    asked = iter([False, False, False, True])
    laid = fill_pockets(pockets(shapes, 1.0), ["small"] * 100, lambda: next(asked, True))
    assert len(laid) == 3


def test_a_copy_is_filled_without_the_first() -> None:
    shapes = {"square": shapely.box(0, 0, 60, 60)}
    room = pockets(shapes, 2.0)
    other = room.copy()
    many = len(fill_pockets(other, ["square"] * 40))
    assert len(fill_pockets(room, ["square"] * 40)) == many > 0
    assert room.put("square") is None


def test_an_area_with_a_hole_in_it_keeps_it_free() -> None:
    left, top, right, bottom = WHOLE.bounds
    hole = shapely.box(left + 30, top + 30, right - 30, bottom - 30)
    area = replace(AREA, used=(hole,))
    shapes = {"square": shapely.box(0, 0, 25, 25)}
    laid = fill_pockets(Pockets(area, shapes, 2.0, "none"), ["square"] * 100)
    assert len(laid) >= 12
    assert all(
        not shapely.intersects(hole, each) or shapely.touches(hole, each) for each in standing(shapes, laid)
    )


corner = st.tuples(st.integers(5, 40), st.integers(5, 40))


@settings(deadline=None, max_examples=15)
@given(
    st.lists(corner, min_size=1, max_size=4),
    st.sampled_from([0.0, 1.0, 3.5]),
    st.sampled_from(["half", "quarter"]),
)
def test_none_stands_nearer_to_another_than_the_gap_nor_out_of_the_area(
    sizes: list[tuple[int, int]], gap: float, turns: Turns
) -> None:
    triangles = {str(n): shapely.Polygon([(0, 0), (w, 0), (w / 3, h)]) for n, (w, h) in enumerate(sizes)}
    shapes = {key: affinity.rotate(shape, 17 * int(key), (0, 0)) for key, shape in triangles.items()}
    queue = [key for _ in range(4) for key in shapes]
    stand = standing(shapes, fill_pockets(pockets(shapes, gap, turns), queue))
    assert len(stand) == len(queue)
    assert all(AREA.holds(each) for each in stand)
    nearest = min((a.distance(b) for a, b in combinations(stand, 2)), default=np.inf)
    assert nearest >= gap - 1e-6
    assert all(a.intersection(b).area < 1e-9 for a, b in combinations(stand, 2))
