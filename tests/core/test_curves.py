"""Curves fitted to lines, their nodes edited by hand, and further lines of a design."""

import numpy as np
import pytest
import shapely

from perisect.core.lines import LineRecipe, Outline, SizedArt, cut_lines, trace
from perisect.core.lines.check import line_findings
from perisect.core.lines.recipe import ExtraLineRecipe, NodeRecipe
from tests.core.shapes import SHAPES, apart, disc, lines_of, picture_of

MM_PER_PX = 25.4 / 600
ROUND = ("disc", "ellipse", "ring")


@pytest.mark.parametrize("name", SHAPES)
@pytest.mark.parametrize("border", [2.0, -1.5])
def test_a_fitted_line_keeps_its_tolerance_of_the_exact_offset(name: str, border: float) -> None:
    for fit in (0.02, 0.05, 0.2):
        lines, shape = lines_of(SHAPES[name], border, fit_mm=fit)
        assert apart(lines.own, shapely.buffer(shape, border, quad_segs=200)) < max(fit, 0.03)


@pytest.mark.parametrize("name", SHAPES)
def test_a_fitted_line_needs_few_nodes(name: str) -> None:
    """A third of what Douglas and Peucker leave; sides that are straight need their ends whatever is done."""
    lines, shape = lines_of(SHAPES[name], 2.0)
    exact = shapely.buffer(shape, 2.0, quad_segs=200)
    simple = shapely.simplify(exact, 0.05)
    rings = shapely.get_num_interior_rings(shapely.get_parts(simple)).sum() + len(shapely.get_parts(simple))
    share = lines.nodes / (shapely.get_num_coordinates(simple) - rings)
    assert share < (1 / 3 if name in (*ROUND, "star") else 0.9)


@pytest.mark.parametrize("name", SHAPES)
@pytest.mark.parametrize("border", [0.0, 2.0, -1.5])
def test_a_picture_at_600_ppi_gives_its_shape_back(name: str, border: float) -> None:
    coverage, place = picture_of(SHAPES[name], 600)
    outline = trace(coverage)
    sized = SizedArt(outline, outline.longest_px * MM_PER_PX)
    start = (place - outline.box_px[:2]) * MM_PER_PX - SHAPES[name].bounds[:2]
    art = shapely.transform(SHAPES[name], lambda xy: xy + start)
    wanted = shapely.buffer(art, border, quad_segs=200) if border else art
    traced = sized.lines(border, None, LineRecipe(fit_mm=0)).own
    assert apart(traced, wanted) / MM_PER_PX < (0.5 if name in ROUND else 1.0)
    assert apart(sized.lines(border).own, wanted) < 0.05


def test_corners_stay_where_they_are_when_asked() -> None:
    star = SHAPES["star"]
    kept, art = lines_of(star, 0.0)
    corners = shapely.get_coordinates(art)[:-1]
    (curve,) = kept.own_line.curves
    away = np.hypot(*(corners[:, None] - curve.nodes[curve.corner]).transpose(2, 0, 1)).min(axis=1)
    assert away.max() < 1e-6
    rounded, _ = lines_of(star, 0.0, keep_corners=False)
    assert not rounded.own_line.curves[0].corner.any()
    assert apart(rounded.own, art) < 0.05


def plate(*nodes: dict[str, object], longest: float = 60.0) -> shapely.MultiPolygon:
    """A box of 60 x 40 whose nodes are its corners, after edits; in mm at its size."""
    box = shapely.multipolygons([shapely.box(0, 0, 6000, 4000)])
    recipe = LineRecipe(nodes=tuple(NodeRecipe.model_validate(node) for node in nodes))
    return cut_lines(Outline(box, 0), longest, 0.0, recipe=recipe).own


def test_a_moved_node_takes_the_line_with_it_at_any_size() -> None:
    pulled = {"does": "move", "x": 0, "y": 0, "to_x": -0.1, "to_y": -0.1}
    for longest in (60.0, 90.0):
        moved = plate(pulled, longest=longest)
        assert moved.bounds == pytest.approx(np.array([-0.1, -0.1, 1, 2 / 3]) * longest, abs=0.01)
    assert plate().area == pytest.approx(2400, abs=0.1)


def test_nodes_are_added_deleted_and_made_smooth_and_corners() -> None:
    # A point in the middle of the upper side, pulled 6 mm out: a triangle on straight sides.
    middle = {"x": 0.5, "y": 0.0}
    spike = [
        {"does": "add", **middle},
        {"does": "corner", **middle},
        {"does": "move", **middle, "to_x": 0.5, "to_y": -0.1},
    ]
    assert plate(*spike[:2]).area == pytest.approx(2400, abs=0.1)
    pulled = plate(*spike)
    assert pulled.bounds[1] == pytest.approx(-6, abs=0.01)
    assert pulled.area > 2400 + 60
    gone = plate(*spike, {"does": "delete", "x": 0.5, "y": -0.1})
    assert gone.area == pytest.approx(2400, abs=40)
    # One corner of the box gone leaves a side that no longer goes there.
    assert not plate({"does": "delete", "x": 0, "y": 0}).contains(shapely.Point(1, 1))
    smooth = plate({"does": "smooth", "x": 0, "y": 0})
    sharp = plate({"does": "smooth", "x": 0, "y": 0}, {"does": "corner", "x": 0, "y": 0})
    assert sharp.symmetric_difference(smooth).area > 1


@pytest.mark.parametrize(
    "edit",
    [
        {"does": "delete", "x": 0.5, "y": 0.33},  # nothing near
        {"does": "move", "x": 0.5, "y": 0.3, "to_x": 0.5, "to_y": 0.31},
        {"does": "move", "x": 0, "y": 0, "to_x": 0.9, "to_y": 0.9},  # the line would cross itself
    ],
)
def test_an_edit_that_no_longer_fits_the_line_is_left_out_and_reported(edit: dict[str, object]) -> None:
    box = shapely.multipolygons([shapely.box(0, 0, 6000, 4000)])
    recipe = LineRecipe.model_validate({"nodes": [edit]})
    lines = cut_lines(Outline(box, 0), 60, 0.0, recipe=recipe)
    assert lines.missed_nodes == (0,)
    assert lines.own.area == pytest.approx(2400, abs=0.1)
    assert "edit_missed" in {found.code for found in line_findings("d", "Plate", lines, 0.0)}


def test_a_node_pulled_into_the_art_is_pointed_at() -> None:
    box = shapely.multipolygons([shapely.box(0, 0, 6000, 4000)])
    for to, found in ((0.2, True), (-0.1, False)):
        pulled = NodeRecipe(does="move", x=-2 / 60, y=-2 / 60, to_x=to, to_y=to)
        recipe = LineRecipe(corner="mitre", nodes=(pulled,))
        lines = cut_lines(Outline(box, 0), 60, 2.0, recipe=recipe)
        assert ("into_art" in {each.code for each in line_findings("d", "Plate", lines, 2.0)}) is found


def test_a_peel_edge_follows_the_line_as_it_was_edited() -> None:
    box = shapely.multipolygons([shapely.box(0, 0, 6000, 4000)])
    pulled = NodeRecipe(does="move", x=0, y=0, to_x=-0.1, to_y=-0.1)
    lines = cut_lines(Outline(box, 0), 60, 0.0, 3.0, LineRecipe(nodes=(pulled,)))
    assert lines.around.contains(lines.own)
    assert shapely.distance(lines.own.boundary, lines.around.boundary) == pytest.approx(3, abs=0.05)


def test_further_lines_follow_what_they_are_told() -> None:
    extras = (
        ExtraLineRecipe(process="weed", of="box", offset_mm=4),
        ExtraLineRecipe(process="crease", of="level", offset_mm=5),
        ExtraLineRecipe(process="kiss", of="art", offset_mm=-3),
        ExtraLineRecipe(process="perforate", of="outer", offset_mm=6),
    )
    lines, _ = lines_of(disc(20), 2.0, extras=extras)
    by_process = lines.by_process()
    assert by_process["weed"].bounds == pytest.approx((-6, -6, 46, 46), abs=0.05)
    fold = by_process["crease"]
    assert fold.bounds[1] == fold.bounds[3] == pytest.approx(25, abs=0.05)
    assert fold.length == pytest.approx(2 * np.sqrt(22**2 - 5**2), abs=0.05)
    inner = min(shapely.get_parts(by_process["kiss"]), key=shapely.area)
    assert inner.area == pytest.approx(np.pi * 17**2, rel=0.005)
    assert lines.taken.bounds == pytest.approx((-8, -8, 48, 48), abs=0.05)
    frame = lines.extras[3]
    assert frame.perforations[0].ties >= 3
    assert len(lines.curves_by_process()["kiss"]) == 2


def test_an_offset_that_leaves_nothing_leaves_no_line() -> None:
    lines, _ = lines_of(disc(5), 0.0, extras=(ExtraLineRecipe(process="kiss", of="art", offset_mm=-9),))
    assert lines.extras == ()


def test_what_a_knife_and_a_face_can_do_decides_what_is_found() -> None:
    holed = disc(20).difference(disc(0.6))  # a hole 1.2 mm across
    fine, _ = lines_of(holed, 0.0, knife_offset_mm=0.25)
    coarse, _ = lines_of(holed, 0.0, knife_offset_mm=0.5)  # closes nothing under 1.5 mm
    assert (fine.holes, coarse.holes) == (1, 0)
    neck = shapely.union_all([disc(10), disc(10, 25), shapely.box(0, -0.45, 25, 0.45)])  # 0.9 mm wide
    for face, found in (("paper", True), ("film", False)):
        lines, _ = lines_of(neck, 0.0, face=face)
        assert ("neck" in {each.code for each in line_findings("d", "Dumb-bell", lines, 0.0)}) is found


def test_a_stronger_face_needs_shorter_ties() -> None:
    popped = {"outer": "perforate", "cut_mm": 4.0, "tie_mm": 0.6}
    paper, _ = lines_of(disc(20), 2.0, 3.0, face="paper", **popped)
    film, _ = lines_of(disc(20), 2.0, 3.0, face="film", **popped)
    weak, _ = lines_of(disc(20), 2.0, 3.0, face="vinyl", **(popped | {"tie_mm": 0.25}))
    assert [lines.perforations[0].verdict for lines in (paper, film, weak)] == [
        "holds",  # 0.13 x 260 = 34 gf a mm
        "holds",  # 0.13 x 420 = 55
        "falls out",  # 0.059 x 180 = 11
    ]
