"""Where a tab sits, how far it reaches, and where a hole to hang by is: on shapes of which that can be said by hand."""

import numpy as np
import pytest
import shapely
from shapely import affinity

from perisect.core.lines import HangRecipe, TabRecipe
from perisect.core.lines.smooth import resampled
from perisect.core.lines.tab import STEP_MM, calmest, hanging_hole, with_tab

PLATE = shapely.multipolygons([shapely.box(0, 0, 80, 40)])
DISC = shapely.multipolygons([shapely.Point(25, 25).buffer(25, 200)])


@pytest.mark.parametrize(
    ("near", "side"), [((0.5, 0.0), 1), ((1.0, 0.25), 2), ((0.5, 0.5), 3), ((0.0, 0.25), 0)]
)
def test_a_tab_stands_out_of_the_side_it_was_put_to(near: tuple[float, float], side: int) -> None:
    shape = with_tab(PLATE, TabRecipe(width_mm=12, length_mm=8, near=near), 80)
    grown = np.array(shape.bounds) - PLATE.bounds
    wanted = np.zeros(4)
    wanted[side] = 8 if side >= 2 else -8
    assert grown == pytest.approx(wanted, abs=0.02)


def test_a_tab_is_as_wide_as_asked_and_round_at_its_end() -> None:
    shape = with_tab(PLATE, TabRecipe(width_mm=12, length_mm=8, near=(0.5, 0.5)), 80)
    tab = shape.difference(PLATE)
    left, _, right, _ = tab.bounds
    assert right - left == pytest.approx(12, abs=0.05)
    assert (left + right) / 2 == pytest.approx(40, abs=STEP_MM)
    # A half disc of 0.98 times half the width on a band, all together 8 mm long.
    radius = 0.98 * 6
    corners = (4 - np.pi) / 2 * radius**2
    assert tab.area == pytest.approx(12 * 8 - corners, abs=0.3)


def test_every_piece_gets_a_tab() -> None:
    two = shapely.multipolygons([shapely.box(0, 0, 40, 40), shapely.box(100, 0, 140, 40)])
    shape = with_tab(two, TabRecipe(width_mm=10, length_mm=6), 140)
    assert len(shape.geoms) == 2
    assert [part.area > 40 * 40 + 40 for part in shape.geoms] == [True, True]


def test_the_calmest_place_of_a_plate_is_the_middle_of_a_long_side_the_lower_one() -> None:
    ring = resampled(shapely.get_coordinates(PLATE.geoms[0].exterior)[:-1], STEP_MM)
    assert ring[calmest(ring, 12)] == pytest.approx((40, 40), abs=4)


@pytest.mark.parametrize("turn", [0, 90, 200])
def test_the_calmest_place_turns_with_its_shape(turn: float) -> None:
    drop = shapely.union(shapely.Point(0, 0).buffer(10, 100), shapely.box(0, -10, 60, 10))
    ring = resampled(shapely.get_coordinates(affinity.rotate(drop, turn, (0, 0)).exterior)[:-1], STEP_MM)
    at = shapely.Point(ring[calmest(ring, 12)])
    x, y = affinity.rotate(at, -turn, (0, 0)).coords[0]
    on_a_long_side, on_the_end = abs(abs(y) - 10) < 0.1 and 10 < x < 50, abs(x - 60) < 0.1 and abs(y) < 5
    assert on_a_long_side or on_the_end


def test_a_hole_to_hang_by_is_below_the_top_by_its_distance() -> None:
    hole = hanging_hole(PLATE, HangRecipe(diameter_mm=5, from_edge_mm=4), 80)
    assert hole.bounds == pytest.approx((40 - 2.5, 4, 40 + 2.5, 9), abs=0.01)


@pytest.mark.parametrize(
    ("near", "centre"), [((1.0, 0.5), (43.5, 25)), ((0.5, 1.0), (25, 43.5)), ((0.0, 0.5), (6.5, 25))]
)
def test_a_hole_put_elsewhere_is_as_far_inside(
    near: tuple[float, float], centre: tuple[float, float]
) -> None:
    hole = hanging_hole(DISC, HangRecipe(diameter_mm=5, from_edge_mm=4, near=near), 50)
    assert hole.centroid.coords[0] == pytest.approx(centre, abs=0.3)
    assert hole.distance(DISC.geoms[0].exterior) == pytest.approx(4, abs=0.05)


def test_of_several_pieces_the_largest_is_hung() -> None:
    pieces = shapely.multipolygons([shapely.box(0, 0, 10, 10), shapely.box(50, 20, 90, 60)])
    hole = hanging_hole(pieces, HangRecipe(diameter_mm=4, from_edge_mm=3), 90)
    assert hole.centroid.coords[0] == pytest.approx((70, 25), abs=0.01)
