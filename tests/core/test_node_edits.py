"""Nodes edited by hand, by the arithmetic of Béziers."""

from dataclasses import replace

import numpy as np
import pytest
import shapely

from perisect.core.curve import bernstein, straight
from perisect.core.lines.fitted import Fitted
from perisect.core.lines.nodes import edited
from perisect.core.lines.recipe import NodeRecipe

LONG = 100.0


def line_of(*rings: list[tuple[float, float]]) -> Fitted:
    """Polygons without holes, as they are."""
    return Fitted(shapely.multipolygons([shapely.Polygon(ring) for ring in rings]))


SQUARE = [(0.0, 0.0), (40.0, 0.0), (40.0, 40.0), (0.0, 40.0)]
FAR_SQUARE = [(x + 60, y + 60) for x, y in SQUARE]


def edit(does: str, x: float, y: float, to: tuple[float, float] = (0.0, 0.0)) -> NodeRecipe:
    return NodeRecipe.model_validate(
        {"does": does, "x": x / LONG, "y": y / LONG, "to_x": to[0] / LONG, "to_y": to[1] / LONG}
    )


def nodes_of(line: Fitted, loop: int = 0) -> set[tuple[float, float]]:
    return {(round(float(x), 6), round(float(y), 6)) for x, y in line.curves[loop].nodes}


def test_no_edit_leaves_the_very_line() -> None:
    line = line_of(SQUARE)
    assert edited(line, [], LONG) == (line, ())


def test_a_corner_that_is_moved_takes_a_triangle_along() -> None:
    made, missed = edited(line_of(SQUARE), [edit("move", 40, 40, (50, 50))], LONG)
    assert missed == ()
    assert nodes_of(made) == {(0, 0), (40, 0), (50, 50), (0, 40)}
    # Its handles go with it, so both sides bend: but not further than their control polygon, 13 1/3 mm from the node.
    assert made.shape.area > 1600
    hull = shapely.MultiPoint(made.curves[0].stretches.reshape(-1, 2)).convex_hull
    assert hull.buffer(1e-6).covers(made.shape)


def test_a_node_that_is_put_in_leaves_the_line_where_it_is() -> None:
    round_ = Fitted(
        shapely.multipolygons([shapely.Point(50, 50).buffer(20, 32)]), (circle(50.0, 50.0, 20.0),)
    )
    made, missed = edited(round_, [edit("add", 50 + 20 * 0.8, 50 + 20 * 0.6)], LONG)
    assert missed == ()
    assert len(made.curves[0].nodes) == 5
    before, after = (shapely.LinearRing(each.curves[0].flat(0.0005)) for each in (round_, made))
    assert shapely.hausdorff_distance(before, after) < 0.01


def circle(x: float, y: float, radius: float):
    """Four quarters, each with the handles of (4/3) tan(pi/8) of the radius."""
    k = 4 / 3 * np.tan(np.pi / 8) * radius
    nodes = np.array([(x + radius, y), (x, y + radius), (x - radius, y), (x, y - radius)])
    along = np.array([(0, k), (-k, 0), (0, -k), (k, 0)])
    return replace(straight(nodes), before=nodes - along, after=nodes + along, corner=np.zeros(4, bool))


def test_a_move_between_nodes_puts_one_in_first() -> None:
    made, missed = edited(line_of(SQUARE), [edit("move", 20, 0, (20, -10))], LONG)
    assert missed == ()
    assert nodes_of(made) == {(0, 0), (20, -10), (40, 0), (40, 40), (0, 40)}


def test_a_node_near_by_is_the_one_that_is_meant() -> None:
    # 0.3 mm beside a corner it is the corner, 0.6 mm beside it the line.
    made, _ = edited(line_of(SQUARE), [edit("move", 0.3, 0, (-5, -5))], LONG)
    assert len(made.curves[0].nodes) == 4
    other, _ = edited(line_of(SQUARE), [edit("move", 2.6, 0, (2.6, -5))], LONG)
    assert len(other.curves[0].nodes) == 5


@pytest.mark.parametrize(("away", "reached"), [(3.9, True), (4.1, False)])
def test_an_edit_reaches_a_twenty_fifth_of_the_piece(away: float, reached: bool) -> None:
    _, missed = edited(line_of(SQUARE), [edit("corner", -away, 0)], LONG)
    assert missed == (() if reached else (0,))


def test_a_node_that_is_taken_out_lets_the_neighbours_reach_over_the_gap() -> None:
    with_middle = [(0.0, 0.0), (10.0, 0.0), (40.0, 0.0), (40.0, 40.0), (0.0, 40.0)]
    made, missed = edited(line_of(with_middle), [edit("delete", 10, 0)], LONG)
    assert missed == ()
    assert nodes_of(made) == {(0, 0), (40, 0), (40, 40), (0, 40)}
    # It lay on a straight side: the side stays, its handles a third along it.
    assert made.shape.symmetric_difference(shapely.Polygon(SQUARE)).area < 1e-6
    curve = made.curves[0]
    first = int(np.argmin(np.hypot(*curve.nodes.T)))
    assert curve.after[first] == pytest.approx((40 / 3, 0), abs=1e-6)


def test_of_a_triangle_no_node_is_taken_out() -> None:
    line = line_of([(0.0, 0.0), (40.0, 0.0), (20.0, 30.0)])
    made, missed = edited(line, [edit("delete", 20, 30)], LONG)
    assert missed == (0,)
    assert nodes_of(made) == nodes_of(line)


def test_through_a_smooth_node_the_line_runs_parallel_to_the_chord_beside_it() -> None:
    made, _ = edited(line_of(SQUARE), [edit("smooth", 40, 0)], LONG)
    curve = made.curves[0]
    node = int(np.argmin(np.hypot(*(curve.nodes - (40, 0)).T)))
    assert not curve.corner[node]
    out, back = curve.after[node] - (40, 0), curve.before[node] - (40, 0)
    # From (0, 0) to (40, 40) or back: 45 degrees, a third of 40 mm long.
    for handle in (out, back):
        assert abs(handle[0]) == pytest.approx(abs(handle[1]))
        assert np.hypot(*handle) == pytest.approx(40 / 3)
    assert out + back == pytest.approx((0, 0), abs=1e-9)


def test_a_smooth_node_made_a_corner_again_gives_the_square_back() -> None:
    made, _ = edited(line_of(SQUARE), [edit("smooth", 40, 0), edit("corner", 40, 0)], LONG)
    assert made.shape.symmetric_difference(shapely.Polygon(SQUARE)).area < 1e-6
    assert made.curves[0].corner.all()


def test_an_edit_that_would_make_the_line_cross_itself_is_left_out_and_the_next_is_done() -> None:
    crossing = edit("move", 40, 0, (-30, 60))
    made, missed = edited(line_of(SQUARE), [crossing, edit("move", 0, 0, (-5, -5))], LONG)
    assert missed == (0,)
    assert nodes_of(made) == {(-5, -5), (40, 0), (40, 40), (0, 40)}
    assert shapely.is_valid(made.shape)


def test_of_two_pieces_the_nearer_one_is_edited() -> None:
    made, missed = edited(line_of(SQUARE, FAR_SQUARE), [edit("move", 61, 61, (55, 55))], LONG)
    assert missed == ()
    loops = [nodes_of(made, n) for n in range(2)]
    assert {(0, 0), (40, 0), (40, 40), (0, 40)} in loops
    # The corner at (60, 60) is 1.4 mm away: a node is put into the line beside it.
    assert sorted(len(each) for each in loops) == [4, 5]


def test_places_are_shares_of_the_piece_so_an_edit_holds_at_any_size() -> None:
    small = line_of([(x / 2, y / 2) for x, y in SQUARE])
    asked = [edit("move", 40, 40, (50, 50))]
    large, _ = edited(line_of(SQUARE), asked, LONG)
    half, _ = edited(small, asked, LONG / 2)
    assert half.shape.area == pytest.approx(large.shape.area / 4, rel=1e-3)


def test_weights_of_a_cubic_are_those_of_bernstein() -> None:
    weights = bernstein(np.array([0.0, 0.5, 1.0]))
    assert weights.T.tolist() == [[1, 0, 0, 0], [0.125, 0.375, 0.375, 0.125], [0, 0, 0, 1]]
