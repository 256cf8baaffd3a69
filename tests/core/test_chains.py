"""Chains of cubics: a circle of four of them, whose every measure is known, and rings as they are."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from perisect.core.curve import Curve, OpenCurve, bernstein, control_of, straight
from perisect.core.lines.fitted import Fitted, fitted_all

RADIUS = 20.0
KAPPA = 4 / 3 * (np.sqrt(2) - 1)
"""Handles of a quarter circle, in radii."""
OFF = 2.73e-4
"""How far such a quarter leaves its circle at most, in radii."""


def circle() -> Curve:
    turn = np.arange(4) * np.pi / 2
    nodes = RADIUS * np.column_stack([np.cos(turn), np.sin(turn)])
    along = RADIUS * KAPPA * np.column_stack([-np.sin(turn), np.cos(turn)])
    return Curve(nodes, nodes - along, nodes + along, np.zeros(4, bool))


def off_circle(points: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.abs(np.hypot(*points.T) - RADIUS)


@pytest.mark.parametrize("sagitta", [0.1, 0.01, 0.001])
def test_a_flattened_circle_leaves_it_by_no_more_than_its_chords_may(sagitta: float) -> None:
    flat = circle().flat(sagitta)
    middles = (flat + np.roll(flat, -1, axis=0)) / 2
    assert off_circle(flat).max() <= OFF * RADIUS * 1.01
    assert off_circle(middles).max() <= sagitta + OFF * RADIUS
    # A regular polygon of n sides leaves its circle by r (1 - cos(pi / n)); twice as many sides are plenty.
    needed = np.pi / np.arccos(1 - sagitta / RADIUS)
    assert needed * 0.7 <= len(flat) <= needed * 2 + 4


def test_a_circle_of_cubics_bends_with_its_radius() -> None:
    assert circle().tightest_mm() == pytest.approx(RADIUS, rel=0.01)


def test_a_chain_begun_elsewhere_is_the_same_ring() -> None:
    flat, begun = circle().flat(), circle().begun_at(3).flat()
    assert begun[0] == pytest.approx((0, -RADIUS))
    assert shapely.Polygon(flat).symmetric_difference(shapely.Polygon(begun)).area < 1e-6


@pytest.mark.parametrize(("begin", "end"), [(0.0, 1.0), (0.25, 0.75), (1.5, 3.25), (3.5, 4.5), (0.0, 4.0)])
def test_a_part_of_a_circle_is_an_arc_from_place_to_place(begin: float, end: float) -> None:
    part = circle().part(begin, end)
    t = np.linspace(0, 1, 50)
    points = np.einsum("kn,mkd->mnd", bernstein(t), part.stretches).reshape(-1, 2)
    assert off_circle(points).max() <= OFF * RADIUS * 1.01
    for place, point in ((begin, points[0]), (end, points[-1])):
        whole = circle().stretches[int(place) % 4]
        assert point == pytest.approx(bernstein(np.array([place % 1])).T[0] @ whole, abs=1e-9)
    swept = np.unwrap(np.arctan2(points[:, 1], points[:, 0]))
    assert swept[-1] - swept[0] == pytest.approx((end - begin) * np.pi / 2, abs=0.02)


def test_weights_of_a_cubic_are_a_share_each() -> None:
    t = np.linspace(0, 1, 21)
    assert bernstein(t).sum(axis=0) == pytest.approx(np.ones(21))
    assert bernstein(np.array([0.5]))[:, 0] == pytest.approx((1 / 8, 3 / 8, 3 / 8, 1 / 8))


def test_control_points_are_told_once_where_two_stretches_meet() -> None:
    assert control_of(circle()).shape == (13, 2)
    open_part = circle().part(0.5, 1.5)
    assert control_of(open_part).shape == (7, 2)
    assert (open_part.closed, circle().closed) == (False, True)


def test_what_is_moved_keeps_its_form() -> None:
    half = np.array([[0.0, -0.5], [0.5, 0.0]])
    small = circle().moved(lambda at: at @ half.T + (7, 3))
    assert np.hypot(*(small.flat() - (7, 3)).T) == pytest.approx(np.full(len(small.flat()), 10.0), abs=0.01)
    arc = OpenCurve(circle().part(0, 1).stretches).moved(lambda at: at + (1, 1))
    assert arc.stretches[0, 0] == pytest.approx((RADIUS + 1, 1))


corner = st.tuples(st.integers(-50, 50), st.integers(-50, 50))


@settings(deadline=None, max_examples=50)
@given(st.lists(corner, min_size=3, max_size=9, unique=True))
def test_a_straight_ring_goes_through_its_corners_and_nowhere_else(corners: list[tuple[int, int]]) -> None:
    ring = np.array(corners, float)
    curve = straight(ring)
    assert np.array_equal(curve.nodes, ring)
    assert curve.corner.all()
    along = np.einsum("kn,mkd->mnd", bernstein(np.linspace(0, 1, 7)), curve.stretches)
    way = np.linspace(0, 1, 7)[None, :, None] * (np.roll(ring, -1, axis=0) - ring)[:, None] + ring[:, None]
    assert along == pytest.approx(way, abs=1e-9)
    assert curve.flat() == pytest.approx(ring)


def test_lines_that_are_not_fitted_are_their_rings_holes_first() -> None:
    holed = shapely.box(0, 0, 30, 20).difference(shapely.box(5, 5, 10, 10))
    shape = shapely.multipolygons([holed, shapely.box(40, 0, 50, 10)])
    line, nothing = fitted_all([shape, shapely.MultiPolygon()], 0.0)
    assert [len(curve.nodes) for curve in line.curves] == [4, 4, 4]
    assert line.curves[0].nodes.max() == 10
    assert (line.nodes, nothing.nodes) == (12, 0)
    assert line == Fitted(shape)
    assert [curve.nodes.max() for _, curve in line.outer] == [30, 50]
