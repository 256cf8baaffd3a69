"""Station 5: registration, order, the knife and its machine."""

import re

import numpy as np
import pytest
import shapely

from perisect.core.curve import straight
from perisect.core.cutting.carriage import Carriage, path_seconds
from perisect.core.cutting.knife import KnifeSettings, axis_path, knife_of, with_overcut
from perisect.core.cutting.order import cut_order, in_cutting_order
from perisect.core.cutting.program import Tool, stroke
from perisect.core.cutting.registration import register
from perisect.core.cutting.route import path_length, short_route
from perisect.core.cutting.sensing import MarkNotFound, SheetTurned, sense_marks
from perisect.core.cutting.view import View
from perisect.core.formats import CutSheet
from perisect.core.formats.hpgl import read_hpgl
from perisect.core.sheet import A4, MarkSettings, marks_for
from perisect.core.sheet.mark_shape import mark_picture
from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS
from perisect.core.units import HPGL_UNITS_PER_MM
from perisect.devices.hpgl import Hpgl
from perisect.stand_ins.drag import Blade
from perisect.stand_ins.language import Language
from perisect.stand_ins.plotter import Plotter

MARKS = marks_for(A4, MarkSettings())
CORNERS = [(mark.x_mm, mark.y_mm) for mark in MARKS]


def square(x: float, y: float, side: float) -> np.ndarray:
    return np.array([(x, y), (x + side, y), (x + side, y + side), (x, y + side)], float)


def test_registration_recovers_shift_turn_scales_and_skew() -> None:
    a = np.radians(0.7)
    linear = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]]) @ np.array(
        [[1.002, 0.001], [0, 0.997]]
    )
    plotter = np.array(CORNERS) @ linear.T + (12.5, -3.25)
    fit = register(CORNERS, [tuple(p) for p in plotter])
    assert fit.matrix == pytest.approx(np.column_stack([linear, [12.5, -3.25]]), abs=1e-9)
    assert fit.residual_mm < 1e-9
    assert fit.within_tolerance


def test_one_mark_astray_leaves_a_quarter_of_it_at_every_mark() -> None:
    # Four corners of a rectangle and six unknowns leave one pattern of error: + - - +, a quarter each.
    moved = [tuple(np.array(c) + ((1.0, 0) if i == 3 else (0, 0))) for i, c in enumerate(CORNERS)]
    fit = register(CORNERS, moved)
    assert fit.residuals_mm == pytest.approx([0.25] * 4)
    assert not fit.within_tolerance


def test_registration_needs_three_marks_that_are_not_on_a_line() -> None:
    with pytest.raises(ValueError, match="three marks"):
        register(CORNERS[:2], CORNERS[:2])
    line = [(0.0, 0.0), (1.0, 1.0), (2.0, 2.0)]
    with pytest.raises(ValueError, match="one line"):
        register(line, line)


def sheet_of(kiss: list[np.ndarray], through: list[np.ndarray]) -> CutSheet:
    owners = {"kiss": list(range(len(kiss))), "through": list(range(len(through)))}
    return CutSheet(210, 297, {"kiss": kiss, "through": through}, owners, [])


def test_every_line_is_cut_once_kiss_before_through_and_inner_before_outer() -> None:
    kiss = [
        square(10, 10, 40),
        square(20, 20, 5),
        square(100, 10, 40),
        square(110, 20, 20),
        square(115, 25, 5),
    ]
    through = [square(5, 5, 50), square(95, 5, 50)]
    order = cut_order(sheet_of(kiss, through))
    keys = [(line.process, line.index) for line in order]
    assert sorted(keys) == sorted([("kiss", i) for i in range(5)] + [("through", i) for i in range(2)])
    assert all(process == "kiss" for process, _ in keys[:5])
    at = keys.index
    assert at(("kiss", 1)) < at(("kiss", 0))
    assert at(("kiss", 4)) < at(("kiss", 3)) < at(("kiss", 2))


def test_travel_is_far_shorter_than_in_a_bad_order() -> None:
    rng = np.random.default_rng(2)
    cells = [square(x, y, 10) for x in range(10, 190, 15) for y in range(10, 270, 15)]
    rng.shuffle(cells)
    starts = np.array([line.ring[0] for line in cut_order(sheet_of(cells, []))])
    bad = np.array([cell[0] for cell in cells])
    way = np.hypot(*np.diff(starts, axis=0).T).sum()
    assert way < 0.2 * np.hypot(*np.diff(bad, axis=0).T).sum()
    assert way < 2 * 15 * len(cells)


def test_a_closed_line_is_cut_past_its_beginning() -> None:
    path = with_overcut(square(0, 0, 10), 0.4)
    assert path[0] == pytest.approx((0, 0))
    assert path[-2] == pytest.approx((0, 0))
    assert path[-1] == pytest.approx((0.4, 0))


def test_the_axis_runs_an_offset_ahead_and_swings_round_corners() -> None:
    path = axis_path(np.array([(0.0, 0), (10, 0), (10, 10)]), 0.0, KnifeSettings(offset_mm=0.25))
    axis, heading = path.points, path.heading
    assert axis[0] == pytest.approx((0.25, 0))
    assert axis[-1] == pytest.approx((10, 10.25))
    assert heading == pytest.approx(np.pi / 2)
    swing = axis[np.hypot(*(axis - (10, 0)).T) < 0.26]
    assert np.hypot(*(swing - (10, 0)).T) == pytest.approx(0.25)


def test_corners_are_turned_with_a_light_touch_where_the_plotter_can() -> None:
    """A square of 12 mm, cut at 20 steps of force: round each corner the axis goes a quarter circle of 0.25 mm at 1."""
    knife = knife_of(EXAMPLE_PLOTTERS[0].model_copy(update={"light_corners": True}))
    axis = axis_path(with_overcut(square(30, 30, 12), 0.4), 0.0, knife)
    lightly = np.hypot(*np.diff(axis.points, axis=0).T)[axis.turns].sum()
    assert lightly == pytest.approx(4 * np.pi / 2 * 0.25, rel=0.01)
    text = Hpgl().encode([Tool("kiss", 1, 20, 20), *stroke(axis, knife, 20)])
    told = re.findall(r"FS\d+|P[UD]", text)
    assert told == "FS20 PU {} FS20 PD PU FS20".format(" ".join(["FS20 PD FS1 PD"] * 4)).split()
    plotter = Plotter(1)
    Language(plotter, lambda _: None, lambda _: None).feed(text)
    (cut,) = plotter.recorded
    assert cut.force == 20
    line = shapely.linearrings(square(30, 30, 12))  # Nobody turned the blade before it: at 2.5 mm it follows.
    assert shapely.distance(shapely.points(cut.tip[25:]), line).max() < 0.03
    plain = Hpgl().encode(stroke(axis, KnifeSettings(), 20))
    assert "FS" not in plain
    assert (read_hpgl(plain)[0].points == read_hpgl(text)[0].points).all()


def test_a_trailing_tip_follows_the_tractrix() -> None:
    # Axis along x from 0, blade at right angles: the tip's height is r / cosh(s / r) (the tractrix).
    blade = Blade(0.5, np.pi / 2)
    tip = blade.follow(np.array([(0.0, 0), (3.0, 0)]))
    s = np.linspace(0, 3, len(tip))
    assert -tip[:, 1] == pytest.approx(0.5 / np.cosh(s / 0.5), abs=1e-9)
    assert tip[:, 0] == pytest.approx(s - 0.5 * np.tanh(s / 0.5), abs=1e-9)


@pytest.mark.parametrize("heading", [0.0, 2.0, -3.0])
def test_a_led_knife_cuts_the_line_and_an_unled_one_does_not(heading: float) -> None:
    ring = square(0, 0, 12)
    line = shapely.linearrings(ring)
    tip_wanted = with_overcut(ring, 0.4)
    axis = axis_path(tip_wanted, heading, KnifeSettings(offset_mm=0.25)).points
    led = Blade(0.25, heading).follow(axis)
    unled = Blade(0.25, heading).follow(tip_wanted)
    assert shapely.distance(shapely.points(led), line).max() < 0.02
    assert shapely.distance(shapely.points(unled), line).max() > 0.1
    assert shapely.hausdorff_distance(line, shapely.linestrings(led)) < 0.02


@pytest.mark.parametrize("offset", [0.25, 0.45, 0.9])
@pytest.mark.parametrize("radius", [0.05, 0.1, 0.2, 0.5])
def test_a_blade_stays_on_radii_smaller_than_its_offset(offset: float, radius: float) -> None:
    """A circle, and a band of half circles that turn to and fro, as the wire's whole steps carry them."""
    turn = np.linspace(0, 2 * np.pi, 24, endpoint=False)
    half = np.linspace(0, np.pi, 13)[:-1]
    band = [
        np.column_stack([radius * (2 * n + 1 - np.cos(half)), (-1) ** n * radius * np.sin(half)])
        for n in range(8)
    ]
    circle = radius * np.column_stack([np.cos(turn), np.sin(turn)])
    for wanted, tip in (
        (shapely.linearrings(circle), with_overcut(circle, 0.4)),
        (shapely.linestrings(np.vstack(band)), np.vstack(band)),
    ):
        axis = axis_path(tip, 0.0, KnifeSettings(offset_mm=offset)).points
        cut = Blade(offset, 0.0).follow(np.round(axis * HPGL_UNITS_PER_MM) / HPGL_UNITS_PER_MM)
        assert shapely.distance(shapely.points(cut), wanted).max() < 0.05
        assert shapely.hausdorff_distance(wanted, shapely.linestrings(cut)) < 0.05


def test_time_is_that_of_a_trapezoid_of_speed() -> None:
    motion = Carriage(speed_mm_s=200, acceleration_mm_s2=2000)
    # 100 mm: 10 mm to reach 200 mm/s, 10 to stop, 80 between: 0.1 + 0.4 + 0.1 s.
    assert path_seconds(np.array([(0, 0), (100.0, 0)]), motion).sum() == pytest.approx(0.6)
    # 5 mm never reaches it: 2 sqrt(s / a).
    assert path_seconds(np.array([(0, 0), (5.0, 0)]), motion).sum() == pytest.approx(2 * np.sqrt(5 / 2000))
    # A point on the way changes nothing, a corner costs time, turning back means standing still.
    straight = path_seconds(np.array([(0, 0), (40.0, 0), (100.0, 0)]), motion).sum()
    assert straight == pytest.approx(0.6)
    corner = path_seconds(np.array([(0, 0), (50.0, 0), (50.0, 50)]), motion).sum()
    back = path_seconds(np.array([(0, 0), (50.0, 0), (0.0, 0)]), motion).sum()
    assert 0.6 < corner < back
    assert back == pytest.approx(2 * (0.2 + 30 / 200))


def scene(turn_deg: float, shift: tuple[float, float], ringed: int = 0, missing: int | None = None):
    """A sensor over four marks drawn at known places, with noise; and those places."""
    a = np.radians(turn_deg)
    linear = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]]) @ np.diag([1, -1])
    places = np.array(CORNERS) @ linear.T + (20 + shift[0], 317 + shift[1])
    rng = np.random.default_rng(1)
    k = 10.0
    pictures = [255 * mark_picture(MarkSettings(), i == ringed, k, 8.0) for i in range(4)]

    def look(x: float, y: float) -> View:
        import cv2

        canvas = np.full((161, 161), 255, np.float32)
        for i, place in enumerate(places):
            if i == missing:
                continue
            at = np.array([80 + (place[0] - x) * k, 80 - (place[1] - y) * k])
            warp = np.array([[np.cos(-a), -np.sin(-a), 0], [np.sin(-a), np.cos(-a), 0]])
            warp[:, 2] = at - warp[:, :2] @ (80, 80)
            mark = cv2.warpAffine(pictures[i], warp, (161, 161), borderValue=255)
            canvas = np.minimum(canvas, mark)
        noisy = canvas * 0.8 + 20 + rng.normal(0, 5, canvas.shape)
        return View(np.clip(noisy, 0, 255).astype(np.uint8), x, y, k)

    return look, places


def nominal(x: float, y: float) -> tuple[float, float]:
    return 20 + x, 317 - y


@pytest.mark.parametrize(("turn", "shift"), [(0.0, (0.013, -0.037)), (1.0, (1.4, -1.4)), (-1.0, (-2.0, 0.5))])
def test_marks_are_found_to_a_fraction_of_a_pixel(turn: float, shift: tuple[float, float]) -> None:
    look, places = scene(turn, shift)
    found = sense_marks(MARKS, MarkSettings(), nominal, look)
    assert [(m.x_mm, m.y_mm) for m in found] == [pytest.approx(tuple(p), abs=0.02) for p in places]
    assert [m.ringed for m in found] == [True, False, False, False]


def test_a_missing_mark_is_named() -> None:
    look, _ = scene(0.2, (0.5, 0.5), missing=3)
    with pytest.raises(MarkNotFound, match="lower right") as error:
        sense_marks(MARKS, MarkSettings(), nominal, look)
    assert error.value.where == "lower right"


def test_a_turned_sheet_is_noticed_by_its_ring() -> None:
    look, _ = scene(0.0, (0, 0), ringed=3)
    with pytest.raises(SheetTurned, match="lower right"):
        sense_marks(MARKS, MarkSettings(), nominal, look)


def test_a_piece_is_finished_before_the_knife_goes_on() -> None:
    # Two squares of 40 mm with a hole of 10 mm each, 100 mm apart; rings begin at the corner farthest from the start.
    def square(x: float, side: float) -> np.ndarray:
        return np.array([(x + side, 0), (x, 0), (x, side), (x + side, side)], float) + (0, 100)

    rings = [square(0, 40), square(140, 40), square(15, 10) + (0, 15), square(155, 10) + (0, 15)]
    sheet = CutSheet(210, 297, {"kiss": rings}, {"kiss": [0, 1, 0, 1]}, [], {})
    order = cut_order(sheet, (0.0, 140.0))
    assert [line.index for line in order] == [2, 0, 3, 1]
    # Each is begun at the corner that makes the way to the next short too: the first square at its right one.
    begun = np.array([line.ring[0] for line in order])
    assert begun[1:].tolist() == [[40, 140], [155, 125], [140, 140]]
    way = np.hypot(*np.diff(np.vstack([(0, 140), begun]), axis=0).T).sum()
    assert way == pytest.approx(np.hypot(15, 15) + np.hypot(25, 15) + np.hypot(115, 15) + np.hypot(15, 15))


def test_rings_that_cross_are_each_cut_once() -> None:
    # Each begins inside the other.
    crossing = [square(10, 10, 20), np.roll(square(8, 8, 10), -2, axis=0), square(100, 100, 5)]
    order = cut_order(sheet_of(crossing, []))
    assert sorted(line.index for line in order) == [0, 1, 2]
    assert [line.index for line in order].index(1) < [line.index for line in order].index(0)


def test_lines_within_lines_a_thousand_deep() -> None:
    rings = [square(100 - n / 20, 100 - n / 20, n / 10) for n in range(1, 1001)]
    order = [line.index for line in cut_order(sheet_of(rings, []))]
    assert order == list(range(1000))


def test_the_way_through_many_places_is_as_short_as_a_solver_finds_it() -> None:
    # OR-tools 9.15 (guided local search, 60 s) finds 5089.5 and 5719.5 mm for these.
    for count, solved_mm in ((761, 5089.5), (1000, 5719.5)):
        places = np.random.default_rng(count).uniform(0, (200, 287), (count, 2))
        order = short_route(places, np.array([0.0, 297.0]))
        assert sorted(order.tolist()) == list(range(count))
        assert path_length(np.vstack([(0.0, 297.0), places[order]])) <= 1.03 * solved_mm


def test_the_way_round_a_circle_is_the_circle() -> None:
    turns = np.random.default_rng(1).permutation(np.linspace(0, 2 * np.pi, 60, endpoint=False))
    places = 50 * np.stack([np.cos(turns), np.sin(turns)], axis=1)
    order = short_route(places, np.array([50.0, 0.0]))
    assert path_length(places[order]) == pytest.approx(59 * 100 * np.sin(np.pi / 60), rel=1e-9)


def test_places_that_coincide_are_each_visited() -> None:
    places = np.repeat([[5.0, 5.0], [9.0, 5.0]], 20, axis=0)
    assert sorted(short_route(places, np.zeros(2)).tolist()) == list(range(40))


def test_files_have_their_lines_in_the_order_of_the_cut() -> None:
    ring = shapely.get_coordinates(shapely.Point(30, 30).buffer(10))[:-1]
    far, near = straight(ring + (120, 0)), straight(ring + (0, 200))
    sheet = CutSheet(210, 297, {"kiss": [far.nodes, near.nodes]}, {"kiss": [0, 1]}, [], {"kiss": [far, near]})
    cut = in_cutting_order(sheet, cut_order(sheet))
    assert cut.owners["kiss"] == [1, 0]
    for ring, curve in zip(cut.lines["kiss"], cut.curves["kiss"], strict=True):
        assert curve.nodes == pytest.approx(ring)
        assert curve.flat() == pytest.approx(ring)
