"""The line set: offsets of known shapes, least radius, holes, joining, perforation, tabs, findings."""

import numpy as np
import pytest
import shapely
from shapely import affinity

from perisect.core.formats import CutSheet, rings_of
from perisect.core.formats.svg import write_svg
from perisect.core.lines import HangRecipe, LineError, Outline, TabRecipe, cut_lines
from perisect.core.lines.check import line_findings
from perisect.core.lines.cuttability import measure
from perisect.core.lines.join import least_joining_border
from perisect.core.lines.narrowest import narrow_places
from perisect.core.lines.perforate import corner_places, perforate
from tests.core.reading import read_svg
from tests.core.shapes import SHAPES, apart, disc, lines_of, star


@pytest.mark.parametrize("name", SHAPES)
@pytest.mark.parametrize("border", [2.0, -1.5])
def test_a_border_is_the_offset_of_the_shape(name: str, border: float) -> None:
    lines, shape = lines_of(SHAPES[name], border)
    wanted = shapely.buffer(shape, border, quad_segs=200)
    assert apart(lines.own, wanted) < 0.03


@pytest.mark.parametrize(("corner", "tip"), [("mitre", 2 / np.sin(np.radians(30))), ("round", 2.0)])
def test_pointed_corners_reach_as_far_as_their_angle_says(corner: str, tip: float) -> None:
    triangle = shapely.Polygon([(0, 0), (40, 0), (20, 40 * np.sqrt(0.75))])
    lines, _ = lines_of(triangle, 2, corner=corner)
    reach = max(
        float(np.hypot(*(xy - (0, 0))))
        for xy in shapely.get_coordinates(lines.own)
        if xy[0] < 1 and xy[1] < 1
    )
    assert reach == pytest.approx(tip, abs=0.02)


def test_an_inward_border_that_leaves_nothing_is_refused() -> None:
    with pytest.raises(LineError, match="leaves nothing"):
        lines_of(disc(10), -11)
    with pytest.raises(LineError, match="as wide as bends"):
        lines_of(disc(10), 0, radius_mm=19)


@pytest.mark.parametrize("name", SHAPES)
@pytest.mark.parametrize("radius", [0.5, 1.5])
def test_no_bend_of_the_exported_line_is_tighter_than_asked(name: str, radius: float) -> None:
    lines, _ = lines_of(SHAPES[name], 2.0, radius_mm=radius)
    rings = {"kiss": rings_of(lines.own)}
    curves = CutSheet(100, 100, rings, {}, [], lines.curves_by_process())
    for sheet in (curves, CutSheet(100, 100, rings, {}, [])):
        for ring in read_svg(write_svg(sheet))["kiss"]:
            assert least_radius(ring, 0.35 * radius) >= 0.95 * radius


def least_radius(ring: np.ndarray, way: float) -> float:
    """Least radius of the circle through the points a way before and after each place of a ring."""
    closed = np.vstack([ring, ring[:1]])
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(closed, axis=0).T))])
    count = int(along[-1] / 0.02)
    at = np.arange(count) * along[-1] / count
    points = np.column_stack([np.interp(at, along, closed[:, 0]), np.interp(at, along, closed[:, 1])])
    steps = round(way / 0.02)
    a, b, c = np.roll(points, steps, axis=0), points, np.roll(points, -steps, axis=0)
    sides = [np.hypot(*(p - q).T) for p, q in ((a, b), (b, c), (c, a))]
    cross = np.abs((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0])
    return float((sides[0] * sides[1] * sides[2] / np.maximum(2 * cross, 1e-12)).min())


def test_the_joining_border_equals_brute_force_on_two_hundred_sets_of_parts() -> None:
    rng = np.random.default_rng(8)
    for _ in range(200):
        parts = []
        while len(parts) < rng.integers(2, 9):
            made = affinity.rotate(
                star(rng.uniform(1, 4), rng.uniform(0.5, 1), int(rng.integers(3, 7))), rng.uniform(0, 360)
            )
            made = affinity.translate(made, *rng.uniform(0, 40, 2))
            if all(made.distance(part) > 0.05 for part in parts):
                parts.append(made)
        whole = shapely.multipolygons(parts)
        found = least_joining_border(whole)
        # Brute force: the least threshold at which the graph of gaps hangs together, by Prim.
        gap = shapely.distance(np.array(parts)[:, None], np.array(parts)[None, :])
        reached, longest = {0}, 0.0
        while len(reached) < len(parts):
            rest = [n for n in range(len(parts)) if n not in reached]
            away = gap[np.ix_(sorted(reached), rest)].min(axis=0)
            longest = max(longest, float(away.min()))
            reached.add(rest[int(away.argmin())])
        assert found == pytest.approx(longest / 2, abs=0.01)
        assert shapely.buffer(whole, longest / 2 + 0.01, quad_segs=60).geom_type == "Polygon"
        assert shapely.buffer(whole, longest / 2 - 0.01, quad_segs=60).geom_type == "MultiPolygon"


def test_a_thinner_border_bridges_what_it_would_not_join() -> None:
    pair = shapely.union_all([disc(10), disc(10, 23)])  # 3 mm apart
    apart_, _ = lines_of(pair, 1)
    joined, _ = lines_of(pair, 1, bridge_mm=0.6)
    assert (apart_.pieces, joined.pieces) == (2, 1)
    assert joined.own.bounds == pytest.approx(apart_.own.bounds, abs=0.03)  # no wider outside


def test_holes_are_filled_by_size_and_one_by_one() -> None:
    plate = shapely.box(0, 0, 60, 40).difference(
        shapely.union_all([disc(1, 10, 10), disc(3, 30, 20), disc(0.3, 50, 10)])
    )
    lines, _ = lines_of(plate, 0)
    assert lines.holes == 2  # the third is too small for any knife
    assert [(round(h.across_mm, 1), h.filled, h.too_small) for h in lines.holes_found] == [
        (6.0, False, False),
        (2.0, False, False),
        (0.6, True, True),
    ]
    by_size, _ = lines_of(plate, 0, fill_holes_mm=3)
    assert by_size.holes == 1
    kept, _ = lines_of(plate, 0, fill_holes_mm=3, holes_kept=[(10, 10)], holes_filled=[(30, 20)])
    (left,) = [hole for hole in kept.holes_found if not hole.filled]
    assert (left.x_mm, left.y_mm) == pytest.approx((10, 10), abs=1)


@pytest.mark.parametrize("shape", ["circle", "ellipse", "rectangle", "rounded"])
def test_simple_shapes_hold_the_art_with_their_border(shape: str) -> None:
    lines, art = lines_of(SHAPES["star"], 2, shape=shape)
    assert lines.own.contains(art)
    assert shapely.distance(lines.own.boundary, art) == pytest.approx(
        2, abs=0.9 if shape == "ellipse" else 0.03
    )


@pytest.mark.parametrize("name", SHAPES)
@pytest.mark.parametrize(("cut", "tie"), [(4.0, 0.6), (2.0, 0.3)])
def test_perforation_closes_in_whole_periods_with_no_tie_at_a_corner(
    name: str, cut: float, tie: float
) -> None:
    lines, _ = lines_of(SHAPES[name], 2, 3, outer="perforate", cut_mm=cut, tie_mm=tie)
    for loop, polygon in zip(lines.perforations, lines.around.geoms, strict=True):
        ring = shapely.get_coordinates(polygon.exterior)[:-1]
        length = polygon.exterior.length
        drawn = sum(float(np.hypot(*np.diff(path, axis=0).T).sum()) for path in loop.cuts)
        assert loop.ties == len(loop.cuts) >= 3
        assert drawn + loop.ties * loop.tie_mm == pytest.approx(length, rel=1e-6)
        assert loop.tie_mm == pytest.approx(tie, rel=0.02)
        lengths = [float(np.hypot(*np.diff(path, axis=0).T).sum()) for path in loop.cuts]
        assert np.median(lengths) == pytest.approx(cut, rel=0.02)
        if len(corner_places(ring)) == 0:
            assert lengths == pytest.approx([cut] * len(lengths), rel=0.02)
        corners = corner_places(ring)
        gaps = [(a[-1] + b[0]) / 2 for a, b in zip(loop.cuts, [*loop.cuts[1:], loop.cuts[0]], strict=True)]
        for place in corners:
            at = np.asarray(shapely.get_coordinates(polygon.exterior.interpolate(place))[0])
            assert min(np.hypot(*(gap - at)) for gap in gaps) > tie
    sheet = CutSheet(200, 200, {"perforate": rings_of(lines.by_process()["perforate"])}, {}, [])
    exported = read_svg(write_svg(sheet))["perforate"]
    assert len(exported) == sum(loop.ties for loop in lines.perforations)


def test_a_square_of_few_periods_gets_no_tie_at_its_corners() -> None:
    loop = perforate(shapely.get_coordinates(shapely.box(0, 0, 12, 12).exterior)[:-1], 3.0, 0.8)
    assert loop.ties >= 3
    ends = np.concatenate([[cut[0], cut[-1]] for cut in loop.cuts])
    corners = np.array([(0, 0), (0, 12), (12, 0), (12, 12)])
    assert np.hypot(*(ends[:, None] - corners).transpose(2, 0, 1)).min() >= 0.8


def test_the_verdict_on_how_perforation_holds() -> None:
    ring = shapely.get_coordinates(disc(20).exterior)[:-1]
    verdicts = [perforate(ring, cut, tie).verdict for cut, tie in ((12, 0.3), (4, 0.6), (2, 1.0))]
    assert verdicts == ["falls out", "holds", "hard to pop"]
    loop = perforate(ring, 4, 0.6)
    assert loop.hold_index == pytest.approx(0.6 / 4.6, rel=0.01)


def test_a_tab_grows_out_of_the_outer_line_where_it_is_calm() -> None:
    box = shapely.box(0, 0, 60, 30)
    lines, _ = lines_of(box, 1, 3, tab=TabRecipe(width_mm=12, length_mm=8).model_dump())
    plain, _ = lines_of(box, 1, 3)
    added = lines.around.difference(plain.around)
    assert added.area == pytest.approx(12 * 8 - (4 - np.pi) / 2 * (6 * 0.98) ** 2, rel=0.03)
    left, _, right, bottom = added.bounds
    assert bottom == pytest.approx(plain.around.bounds[3] + 8, abs=0.02)  # on the lower long side
    assert (left + right) / 2 == pytest.approx(30, abs=15)


def test_a_hanging_hole_near_the_edge_or_in_the_art_is_pointed_at() -> None:
    art = disc(15)
    good, _ = lines_of(art, 10, hang=HangRecipe(diameter_mm=3, from_edge_mm=4).model_dump())
    assert not [f for f in line_findings("d", "Disc", good, 10) if f.code.startswith("hang")]
    assert len(good.through.geoms) == 1
    near, _ = lines_of(art, 10, hang=HangRecipe(diameter_mm=5, from_edge_mm=3).model_dump())
    assert [f.measured for f in line_findings("d", "Disc", near, 10) if f.code == "hang_edge"] == [
        pytest.approx(3, abs=0.05)
    ]
    deep, _ = lines_of(art, 2, hang=HangRecipe(diameter_mm=4, from_edge_mm=4).model_dump())
    assert "hang_art" in {f.code for f in line_findings("d", "Disc", deep, 2)}


def made_narrow(seed: int) -> tuple[shapely.Polygon, float, float]:
    """A shape with its one neck (or none) and its one slot (or none) under a millimetre."""
    rng = np.random.default_rng(seed)
    width, turn = rng.uniform(0.2, 0.9), rng.uniform(0, 360)
    if seed % 4 == 0:
        a, b, long = rng.uniform(4, 9), rng.uniform(4, 9), rng.uniform(3, 8)
        bar = shapely.box(0, -width / 2, a + long + b, width / 2)
        return affinity.rotate(shapely.union_all([disc(a), disc(b, a + long + b), bar]), turn), width, 0
    if seed % 4 == 1:
        plate, x, deep = shapely.box(0, 0, rng.uniform(20, 40), 30), rng.uniform(6, 14), rng.uniform(5, 12)
        cut = shapely.union(shapely.box(x - width / 2, -1, x + width / 2, deep), disc(width / 2, x, deep))
        return affinity.rotate(plate.difference(cut), turn), 0, width
    if seed % 4 == 2:
        return (
            affinity.rotate(star(rng.uniform(15, 25), rng.uniform(6, 14), int(rng.integers(4, 9))), turn),
            0,
            0,
        )
    return affinity.rotate(SHAPES["gear"], turn), 0, 0


def test_necks_and_slots_of_two_hundred_shapes_are_found_and_no_others() -> None:
    false = 0
    for seed in range(200):
        shape, neck, slot = made_narrow(seed)
        found = narrow_places(shapely.multipolygons([shape]), 1.0)
        for wanted, places in ((neck, found.necks), (slot, found.slots)):
            if wanted:
                assert places, seed
                assert places[0].width_mm == pytest.approx(wanted, abs=0.1)
            false += len(places) - bool(wanted)
    assert false <= 4


def test_remedies_of_narrow_places_do_what_they_say() -> None:
    slotted, _, _ = made_narrow(5)
    lines, _ = lines_of(slotted, 0)
    (slot,) = [f for f in line_findings("d", "Plate", lines, 0) if f.code == "slot"]
    bridged, _ = lines_of(slotted, 0, bridge_mm=slot.remedy.value)
    assert not [f for f in line_findings("d", "Plate", bridged, 0) if f.code == "slot"]
    necked, _, _ = made_narrow(4)
    lines, _ = lines_of(necked, 0)
    (neck,) = [f for f in line_findings("d", "Weight", lines, 0) if f.code == "neck"]
    wider, _ = lines_of(necked, neck.remedy.value)
    assert not [f for f in line_findings("d", "Weight", wider, neck.remedy.value) if f.code == "neck"]
    assert measure(lines).length_mm == pytest.approx(lines.own.length, rel=1e-6)


def test_sharp_turns_are_counted_and_rounded_away() -> None:
    comb = shapely.union_all(
        [shapely.box(0, 0, 60, 5), *(shapely.box(x, 0, x + 2, 12) for x in range(0, 60, 5))]
    )
    lines, _ = lines_of(comb, 0)
    (turns,) = [f for f in line_findings("d", "Comb", lines, 0) if f.code == "turns"]
    corners = len(shapely.get_coordinates(comb.exterior.simplify(0.001))) - 1
    assert turns.measured == pytest.approx(corners / comb.length * 100, rel=0.1)
    round_, _ = lines_of(comb, 0, radius_mm=turns.remedy.value)
    assert not [f for f in line_findings("d", "Comb", round_, 0) if f.code == "turns"]


@pytest.mark.long
@pytest.mark.slow
def test_every_line_set_of_five_hundred_drawings_is_valid() -> None:
    rng = np.random.default_rng(3)
    for n in range(500):
        parts = [
            affinity.translate(
                affinity.rotate(
                    star(rng.uniform(3, 12), rng.uniform(1, 5), int(rng.integers(3, 9))), rng.uniform(0, 360)
                ),
                *rng.uniform(0, 30, 2),
            )
            for _ in range(int(rng.integers(1, 5)))
        ]
        art = shapely.union_all(parts).difference(disc(rng.uniform(0.2, 2), *rng.uniform(5, 25, 2)))
        lines, _ = lines_of(
            art,
            float(rng.uniform(0, 4)),
            float(rng.uniform(1, 4)),
            radius_mm=float(rng.choice([0, 0.5])),
            bridge_mm=float(rng.choice([0, 0.8])),
            corner=str(rng.choice(["round", "mitre", "bevel"])),
            outer=str(rng.choice(["through", "perforate"])),
            tab=TabRecipe().model_dump() if n % 5 == 0 else None,
        )
        assert shapely.is_valid(lines.own)
        assert shapely.is_valid(lines.around)
        assert shapely.buffer(lines.around, 0.02).contains(lines.own)


def test_shapes_drawn_by_hand_are_united_and_cut_and_keep_their_place_when_the_size_changes() -> None:
    box = shapely.box(0, 0, 40, 20)
    unite = {"does": "unite", "shape": "box", "x": 0.9, "y": 0.1, "width": 0.3, "height": 0.2}
    cut = {"does": "cut", "shape": "ellipse", "x": -0.1, "y": 0.1, "width": 0.2, "height": 0.2}
    lines, _ = lines_of(box, 0, patches=[unite, cut])
    # 12 x 8 mm of which 4 are inside already; half an ellipse of 8 x 8.
    assert lines.own.area == pytest.approx(800 + 8 * 8 - np.pi * 16 / 2, rel=1e-3)
    outline = shapely.transform(box, lambda xy: xy * 100)
    larger = cut_lines(Outline(shapely.multipolygons([outline]), 0), 80, 0, None, lines.recipe)
    assert larger.own.area == pytest.approx(4 * lines.own.area, rel=1e-3)
    assert larger.missed == ()


def test_a_bridge_by_hand_joins_two_parts() -> None:
    pair = shapely.union_all([disc(8), disc(8, 30)])  # 14 mm apart, 46 wide
    bridge = {"does": "unite", "shape": "bridge", "x": 0.2, "y": 8 / 46, "width": 0.6, "height": 1e-5}
    lines, _ = lines_of(pair, 0, patches=[bridge])
    assert lines.pieces == 1
    band = lines.own.intersection(shapely.box(22, 0, 24, 20))
    assert band.bounds[3] - band.bounds[1] == pytest.approx(3, abs=0.05)


def test_a_shape_by_hand_that_no_longer_meets_the_line_is_reported() -> None:
    away = {"does": "unite", "shape": "box", "x": 1.5, "y": 0.1, "width": 0.1, "height": 0.1}
    lines, _ = lines_of(disc(10), 1, patches=[away])
    assert "edit_missed" in {f.code for f in line_findings("d", "Disc", lines, 1)}
    all_of_it = {"does": "cut", "shape": "box", "x": -1, "y": -1, "width": 3, "height": 3}
    with pytest.raises(LineError, match="by hand"):
        lines_of(disc(10), 1, patches=[all_of_it])


def test_an_inward_border_leaves_no_crumbs() -> None:
    # A disc with three arms that bulge: discs of radius 1.2 at the ends of thin necks. 1 mm in, each bulge is 0.4 mm
    # across, under the 0.75 mm that a blade of 0.25 mm offset closes; the disc stays.
    body = disc(15)
    for turn in (0, 2, 4):
        x, y = 20 * np.cos(turn), 20 * np.sin(turn)
        neck = shapely.LineString([(0, 0), (x, y)]).buffer(0.5)
        body = shapely.union_all([body, neck, disc(1.2, x, y)])
    lines, shape = lines_of(body, -1.0)
    assert lines.pieces == 1
    assert apart(lines.own, shapely.buffer(disc(15, *shapely.get_coordinates(shape.centroid)[0]), -1)) < 1.5
    assert len(lines.crumbs) == 3
    (told,) = [each for each in line_findings("d", "Buoy", lines, -1.0) if each.code == "crumbs"]
    assert told.measured == 3
    # Where a piece is all crumbs, the largest is still cut, and a border outwards leaves none out.
    assert lines_of(disc(1.2), -1.0)[0].pieces == 1
    assert lines_of(body, 1.0)[0].crumbs == ()
