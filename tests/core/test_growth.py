"""Growing from rung to rung is growing at once, to within what a knife can follow."""

import itertools

import numpy as np
import pytest
import shapely

from perisect.core.lines import LineRecipe, Outline, SizedArt, cut_lines
from perisect.core.lines.border import RUNGS_MM, Growth
from perisect.core.lines.check import line_findings
from perisect.core.lines.join import least_joining_border
from perisect.core.lines.polygons import quarter_segments
from perisect.core.lines.smooth import OVER
from tests.core.shapes import SHAPES, lines_of


def lobed(lobes: int, depth: float, radius: float = 25.0) -> shapely.Polygon:
    """A flower whose petals a border melts together."""
    turn = np.linspace(0, 2 * np.pi, 3000, endpoint=False)
    r = radius * (1 + depth * np.sin(lobes * turn))
    return shapely.Polygon(np.column_stack([r * np.cos(turn), r * np.sin(turn)]))


def outline_of(*parts: shapely.Polygon) -> Outline:
    return Outline(shapely.multipolygons(list(parts)), 0)


@pytest.mark.long
@pytest.mark.parametrize("distance", [0.1, 0.25, 0.3, 1.0, 1.7, 4.0, 7.3, 19.0])
@pytest.mark.parametrize("lobes", [5, 60])
def test_rungs_reach_the_same_line_as_one_growth(distance: float, lobes: int) -> None:
    shape = lobed(lobes, 0.04)
    direct = shape.buffer(distance, quad_segs=256)
    assert shapely.hausdorff_distance(Growth(shape).by(distance).boundary, direct.boundary) < 0.03


def test_a_slider_that_moves_back_finds_the_same_line_again() -> None:
    growth = Growth(lobed(30, 0.05))
    first = growth.by(2.2)
    for distance in (0.4, 6.0, 1.1):
        growth.by(distance)
    assert growth.by(2.2).equals(first)
    assert Growth(lobed(30, 0.05)).by(2.2).equals(first)  # and does not depend on the way there


def test_a_wider_border_holds_a_narrower_one() -> None:
    art = SizedArt(outline_of(lobed(12, 0.1)), 50)
    widths = [0.0, 0.2, 0.5, 1.0, 1.01, 3.0, 8.0, 20.0]
    lines = [art.lines(width).kiss for width in widths]
    for inner, outer in itertools.pairwise(lines):
        assert inner.difference(outer.buffer(0.02)).area == 0


def test_the_through_line_keeps_its_distance_from_the_kiss_line() -> None:
    # Unfitted within 0.03 as ever; fitted, each line may leave its own by half the tolerance of 0.05.
    for fit, within in ((0.0, 0.03), (0.05, 0.05)):
        lines = cut_lines(outline_of(lobed(7, 0.2)), 60, 1.5, 2.5, LineRecipe(fit_mm=fit))
        points = shapely.points(shapely.get_coordinates(shapely.segmentize(lines.through.boundary, 0.3)))
        away = shapely.distance(points, lines.kiss)
        assert away.min() == pytest.approx(2.5, abs=within)
        assert away.max() == pytest.approx(2.5, abs=within)


@pytest.mark.parametrize("radius", [0.001, 0.25, 2.0, 20.0])
def test_a_chord_leaves_its_arc_by_the_allowed_sagitta(radius: float) -> None:
    segments = quarter_segments(radius)
    sagitta = radius * (1 - np.cos(np.pi / 4 / segments))
    assert sagitta <= 0.003 or segments == 1
    assert segments <= 100


def test_rungs_double() -> None:
    assert all(after == 2 * before for before, after in itertools.pairwise(RUNGS_MM))


def test_an_empty_outline_has_no_lines() -> None:
    with pytest.raises(ValueError, match="empty"):
        SizedArt(Outline(shapely.MultiPolygon(), 3), 50)


def test_nodes_are_counted_once_round_every_ring() -> None:
    square = shapely.box(0, 0, 100, 100).difference(shapely.box(40, 40, 60, 60))
    lines = cut_lines(outline_of(square), 100, 0)
    assert (lines.nodes, lines.pieces, lines.holes) == (8, 1, 1)


# Three squares of 10 in a row, 4 and 9 apart: the tree's longest edge is 9.
ROW = (shapely.box(0, 0, 10, 10), shapely.box(14, 0, 24, 10), shapely.box(33, 0, 43, 10))


def test_the_least_border_that_joins_is_half_the_longest_gap_of_the_tree() -> None:
    lines = cut_lines(outline_of(*ROW), 43, 1)
    assert least_joining_border(lines.outline) == pytest.approx(4.5, abs=1e-6)
    assert least_joining_border(cut_lines(outline_of(ROW[0]), 10, 1).outline) is None


def test_loose_pieces_are_said_with_the_border_that_joins_them_and_it_does() -> None:
    lines = cut_lines(outline_of(*ROW), 43, 2.5)
    (finding,) = line_findings("d1", "Row", lines, 2.5)
    assert finding.code == "loose_pieces"
    assert finding.measured == 2
    assert finding.remedy is not None
    assert finding.where_mm is not None
    joined = cut_lines(outline_of(*ROW), 43, float(finding.remedy.value or 0))
    assert joined.pieces == 1
    assert line_findings("d1", "Row", joined, float(finding.remedy.value or 0)) == []


def test_a_hole_too_small_for_the_knife_is_filled_and_said() -> None:
    ring = shapely.box(0, 0, 100, 100).difference(shapely.Point(30, 60).buffer(0.3))
    lines = cut_lines(outline_of(ring), 100, 0)
    (finding,) = line_findings("d1", "Pinhole", lines, 0)
    assert (finding.code, finding.severity, lines.holes) == ("holes_filled", "good", 0)
    assert finding.where_mm == pytest.approx((30, 60), abs=0.05)
    assert finding.measured == pytest.approx(0.6, abs=0.05)
    assert finding.limit == pytest.approx(3 * 0.25)


@pytest.mark.long
@pytest.mark.parametrize("name", ["star", "gear", "ring", "koch"])
@pytest.mark.parametrize("filled", [0.0, 400.0])
def test_a_rounded_border_is_the_border_closed_by_a_disc(name: str, filled: float) -> None:
    border, peel, radius = 2.0, 3.0, 0.8
    lines, art = lines_of(SHAPES[name], border, peel, radius_mm=radius, fill_holes_mm=filled, fit_mm=0.0)
    reach = OVER * radius
    for distance, found in ((border, lines.own), (border + peel, lines.around)):
        wide = art.buffer(distance, quad_segs=256)
        closed = wide.buffer(reach, quad_segs=256).buffer(-reach, quad_segs=256)
        if filled:
            closed = shapely.union_all(shapely.polygons(shapely.get_exterior_ring(shapely.get_parts(closed))))
        assert shapely.hausdorff_distance(found.boundary, closed.boundary) < 0.03
    assert found.buffer(0.02).contains(lines.own.buffer(peel))
