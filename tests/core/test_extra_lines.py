"""Further lines of a piece: what they follow, how far, and what they become."""

import itertools

import numpy as np
import pytest
import shapely

from perisect.core.lines import LineRecipe
from perisect.core.lines.extra import drawn_line, extra_line, extras_reach
from perisect.core.lines.material import USUAL
from perisect.core.lines.recipe import ExtraLineRecipe

RECIPE = LineRecipe(cut_mm=4.0, tie_mm=0.6)
ART = shapely.multipolygons([shapely.box(10, 10, 40, 30)])
OWN = shapely.multipolygons([shapely.box(8, 8, 42, 32)])
OUTER = shapely.multipolygons([shapely.box(5, 5, 45, 35)])


def line_of(process: str, of: str, offset_mm: float):  # type: ignore[no-untyped-def]
    recipe = ExtraLineRecipe.model_validate({"process": process, "of": of, "offset_mm": offset_mm})
    return extra_line(recipe, RECIPE, ART, OWN, OUTER, USUAL)


@pytest.mark.parametrize(
    ("of", "offset_mm", "box"),
    [
        ("art", 3.0, (7, 7, 43, 33)),
        ("own", 1.0, (7, 7, 43, 33)),
        ("outer", 2.0, (3, 3, 47, 37)),
        ("art", -2.0, (12, 12, 38, 28)),
        ("box", 5.0, (0, 0, 50, 40)),
        ("box", -1.0, (6, 6, 44, 34)),
    ],
)
def test_it_runs_so_far_outside_of_what_it_follows(of: str, offset_mm: float, box: tuple[float, ...]) -> None:
    assert line_of("weed", of, offset_mm).shape.bounds == pytest.approx(box, abs=0.06)


def test_an_oval_round_the_piece_holds_all_of_it() -> None:
    oval = line_of("through", "ellipse", 1.0).shape
    assert oval.contains(OUTER)
    assert oval.centroid.coords[0] == pytest.approx((25, 20), abs=0.05)


@pytest.mark.parametrize(
    ("of", "offset_mm", "ends"),
    [("level", 0.0, (5, 20, 45, 20)), ("level", -6.0, (5, 14, 45, 14)), ("upright", 10.0, (35, 5, 35, 35))],
)
def test_a_straight_line_goes_over_the_piece_and_no_further(
    of: str, offset_mm: float, ends: tuple[float, ...]
) -> None:
    line = line_of("crease", of, offset_mm)
    assert line.shape.bounds == pytest.approx(ends)
    assert line.curves == ()


def test_a_straight_line_over_two_pieces_leaves_out_the_gap() -> None:
    pair = shapely.multipolygons([shapely.box(0, 0, 10, 10), shapely.box(30, 0, 40, 10)])
    recipe = ExtraLineRecipe(process="crease", of="level", offset_mm=0)
    line = extra_line(recipe, RECIPE, pair, pair, pair, USUAL)
    assert line is not None
    assert sorted(part.bounds for part in line.shape.geoms) == [(0, 5, 10, 5), (30, 5, 40, 5)]


@pytest.mark.parametrize(("of", "offset_mm"), [("art", -10.5), ("level", 40.0), ("upright", -60.0)])
def test_what_leaves_nothing_is_no_line(of: str, offset_mm: float) -> None:
    assert line_of("kiss", of, offset_mm) is None


def test_a_perforated_one_has_whole_periods_and_its_ties_are_left() -> None:
    line = line_of("perforate", "box", 5.0)
    (loop,) = line.perforations
    assert loop.ties == round(180 / 4.6)
    assert line.cut.length == pytest.approx(180 - loop.ties * loop.tie_mm, abs=0.2)
    assert len(line.chains) == loop.ties


def test_a_drawn_line_that_is_perforated_begins_and_ends_with_a_cut() -> None:
    drawn = shapely.LineString([(0, 0), (60, 0), (60, 40)])
    cuts = drawn_line("perforate", drawn, RECIPE, USUAL).shape
    count = round((100 + 0.6) / 4.6)
    assert len(cuts.geoms) == count
    assert cuts.length == pytest.approx(100 - (count - 1) * 0.6)
    assert cuts.geoms[0].coords[0] == (0, 0)
    assert cuts.geoms[-1].coords[-1] == pytest.approx((60, 40))
    gaps = [a.distance(b) for a, b in itertools.pairwise(cuts.geoms)]
    assert max(gaps) == pytest.approx(0.6)


def test_a_drawn_line_too_short_for_a_tie_is_one_cut() -> None:
    drawn = shapely.LineString([(0, 0), (4.5, 0)])
    assert drawn_line("perforate", drawn, RECIPE, USUAL).shape.length == 4.5


def test_a_drawn_ring_of_a_closed_process_is_a_shape_and_takes_room() -> None:
    ring = shapely.LineString([(0, 0), (20, 0), (20, 20), (0, 20), (0, 0)])
    crease = drawn_line("crease", shapely.LineString([(0, 5), (20, 5)]), RECIPE, USUAL)
    through = drawn_line("through", ring, RECIPE, USUAL)
    assert through.shape.area == pytest.approx(400, abs=0.5)
    assert np.sum(shapely.area(extras_reach((through, crease)))) == pytest.approx(400, abs=0.5)
