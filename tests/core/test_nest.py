"""Nesting: pieces in each other's hollows, clear of the marks, and the best so far when time is up."""

import time
from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import pytest
import shapely
from shapely import affinity

from perisect.core.sheet import A4, LETTER, UsableArea, usable_area
from perisect.core.sheet.grid import best_grid
from perisect.core.sheet.inflated import with_half_gap
from perisect.core.sheet.nest import NestQuestion, SearchDied, nest
from perisect.core.sheet.nest.board import Board
from perisect.core.sheet.nest.one_sheet import Effort, Found, SheetSearch
from perisect.core.sheet.nest.pockets import Pockets, fill_pockets
from perisect.core.sheet.placement import Placement, pose
from perisect.core.sheet.turns import ANGLES
from perisect.core.stage import Stage
from tests.core.shapes import disc, ellipse, gear, star

pytestmark = pytest.mark.slow

AREA = usable_area(A4)


def ell(long: float, wide: float) -> shapely.Polygon:
    """An L, two of which make a rectangle."""
    return shapely.box(0, 0, long, wide).union(shapely.box(0, 0, wide, long))


def question(shapes: dict[str, shapely.Polygon], **told: object) -> NestQuestion:
    asked = NestQuestion(AREA, shapes, None, 2.0, "quarter", 4, 1, 1)
    return replace(asked, **told)


def stands(asked: NestQuestion, found: Sequence[Placement]) -> dict[int, list[shapely.Polygon]]:
    """Shapes by sheet, turned and moved by Shapely's own affinity."""
    sheets: dict[int, list[shapely.Polygon]] = {}
    for piece in found:
        turned = affinity.rotate(asked.shapes[piece.key], piece.rotation_deg, origin=(0, 0))
        sheets.setdefault(piece.sheet, []).append(affinity.translate(turned, piece.x_mm, piece.y_mm))
    return sheets


def check(asked: NestQuestion, found: Sequence[Placement]) -> None:
    """Everything lies in the area and keeps its gap, every pair measured."""
    area = shapely.buffer(asked.area.polygon, 1e-5)
    for shapes in stands(asked, found).values():
        assert all(area.contains(shape) for shape in shapes)
        for n, one in enumerate(shapes):
            assert all(one.distance(other) >= asked.gap_mm - 1e-5 for other in shapes[n + 1 :])
            assert all(one.intersection(other).area < 1e-6 for other in shapes[n + 1 :])


def test_ells_lie_in_each_other_where_rows_leave_their_hollows_empty() -> None:
    asked = question({"l": ell(60, 22)}, seconds=6, seed=2)
    found = nest(asked).placements
    check(asked, found)
    rows = best_grid(AREA, 60, 60, 2).count
    assert rows == 12
    # Two of them, 2 mm apart, take 60 × 84: three such pairs by three hold 18.
    # A slow machine finds fewer in the same time.
    assert len(found) >= 14


@pytest.mark.long
@pytest.mark.parametrize("turns", ["none", "half", "quarter", "free"])
def test_only_the_turns_that_are_allowed_are_taken(turns) -> None:
    asked = question({"l": ell(50, 15), "s": star(22, 9)}, turns=turns, seconds=3)
    found = nest(asked).placements
    check(asked, found)
    assert {piece.key for piece in found} == {"l", "s"}
    step = {"none": 360, "half": 180, "quarter": 90}.get(turns)
    if step:
        assert all(abs((piece.rotation_deg + 1) % step - 1) < 1e-3 for piece in found)


def test_an_order_is_placed_whole_and_a_sheet_that_was_found_is_repeated() -> None:
    asked = question({"l": ell(60, 20), "d": disc(18)}, wanted={"l": 50, "d": 30}, most_sheets=60)
    begun = time.monotonic()
    found = nest(asked, clock=time.monotonic).placements
    # It ends by its clock, however long the last step takes on a busy machine.
    assert time.monotonic() - begun < 4 * asked.seconds + 20
    check(asked, found)
    assert Counter(piece.key for piece in found) == {"l": 50, "d": 30}
    first = sorted((p.key, p.x_mm, p.y_mm) for p in found if p.sheet == 0)
    assert first == sorted((p.key, p.x_mm, p.y_mm) for p in found if p.sheet == 1)


def test_what_is_locked_keeps_its_place_and_the_rest_goes_round_it() -> None:
    fixed = (pose("l", 180.0, 120.0, 160.0), pose("d", 0.0, 60.0, 60.0))
    asked = question({"l": ell(60, 20), "d": disc(18)}, wanted={"l": 6, "d": 6}, most_sheets=9, fixed=fixed)
    found = nest(replace(asked, seconds=2)).placements
    check(asked, found)
    assert tuple(found[:2]) == fixed
    assert Counter(piece.key for piece in found) == {"l": 6, "d": 6}


def test_every_sheet_that_is_begun_is_filled() -> None:
    """A sheet holds two by three discs of 90 mm in a grid: one each of nine fills a sheet and a half."""
    grid = best_grid(AREA, 90, 90, 2).count
    shapes = {f"d{n}": disc(45) for n in range(9)}
    asked = question(shapes, wanted=dict.fromkeys(shapes, 1), most_sheets=60, seconds=5)
    alone = Counter(piece.sheet for piece in nest(asked).placements)
    assert sum(alone.values()) == 9
    filled = replace(asked, fills=True)
    assert filled.key != asked.key
    found = nest(filled).placements
    check(filled, found)
    on_sheets = Counter(piece.sheet for piece in found)
    assert len(on_sheets) == len(alone)
    assert min(on_sheets.values()) >= grid
    copies = Counter(piece.key for piece in found)
    assert set(copies) == set(shapes)
    assert max(copies.values()) - min(copies.values()) <= 1


def test_a_search_that_takes_all_of_its_steps_is_not_cut_short() -> None:
    asked = question({"g": gear(12, 22, 18)}, seconds=2)
    assert not nest(asked).is_cut_short


def test_the_clock_cuts_a_search_short_on_a_machine_that_is_too_slow() -> None:
    """Under a clock that runs an hour at each look there is no time for a search."""
    hours = iter(range(0, 10**9, 3600))
    asked = question({"g": gear(12, 22, 18)}, seconds=25)
    begun = time.monotonic()
    found = nest(asked, clock=lambda: float(next(hours)))
    assert found.is_cut_short
    assert time.monotonic() - begun < 12
    check(asked, found.placements)


def test_who_stops_it_gets_the_best_so_far() -> None:
    asked = question({"g": gear(12, 22, 18)}, seconds=25)
    begun = time.monotonic()
    said: list[Stage] = []
    found = nest(asked, said.append, lambda: time.monotonic() > begun + 2.5, clock=time.monotonic)
    assert time.monotonic() - begun < 8
    assert found.is_cut_short
    check(asked, found.placements)
    assert len(found.placements) >= 12  # 44 mm gears: 4 × 6 in rows
    shares = [stage.share for stage in said]
    assert len(set(shares)) >= 2  # a second each
    assert shares == sorted(shares)


def test_a_piece_larger_than_the_sheet_is_left_out_and_the_others_stand() -> None:
    asked = question(
        {"big": ell(400, 50), "d": disc(20)}, wanted={"big": 1, "d": 4}, seconds=2, most_sheets=3
    )
    found = nest(asked).placements
    assert Counter(piece.key for piece in found) == {"d": 4}
    assert nest(question({"big": ell(400, 50)}, seconds=2)).placements == ()


def test_the_answer_follows_from_the_question() -> None:
    shapes = {"l": ell(60, 20)}
    key = question(shapes).key
    assert key == question(dict(shapes)).key
    others = [
        question({"l": ell(60, 20.1)}),
        question(shapes, seed=2),
        question(shapes, gap_mm=2.1),
        question(shapes, turns="free"),
        question(shapes, area=usable_area(LETTER)),
        question(shapes, fixed=(pose("l", 0.0, 50.0, 50.0),)),
    ]
    assert len({key, *(other.key for other in others)}) == 7


SHAPES = {
    "d": disc(9).simplify(0.01),
    "e": ellipse(25, 12),
    "s": star(25, 10),
    "l": ell(40, 12),
    "g": gear(12, 15, 12),
}


@pytest.mark.long
@pytest.mark.parametrize("seed", range(16))
def test_pockets_hold_only_what_fits(seed: int) -> None:
    rng = np.random.default_rng(seed)
    keys = rng.permutation(list(SHAPES))[: rng.integers(1, 4)].tolist()
    scale = rng.uniform(0.5, 1.6)
    shapes = {key: affinity.scale(SHAPES[key], scale, scale) for key in keys}
    gap = float(rng.choice([0.0, 0.7, 2.0, 5.0]))
    area: UsableArea = usable_area(A4 if seed % 2 else LETTER)
    pockets = Pockets(area, shapes, gap, "quarter" if seed % 3 else "free")
    laid = fill_pockets(pockets, rng.choice(keys, 14).tolist())
    assert laid
    check(replace(question(shapes), area=area, gap_mm=gap), laid)


def test_a_pocket_takes_what_just_fits_between_two_that_stand() -> None:
    shapes = {"bar": shapely.box(0, 0, 198, 100), "d": disc(20)}
    pockets = Pockets(AREA, shapes, 2.0, "none")
    pockets.occupy([shapely.box(6, 20, 204, 120), shapely.box(6, 166, 204, 260)])
    # 46 mm between the bars hold a disc of 40 with 2 mm on each side, and 3 mm to spare for the raster.
    place = pockets.put("d")
    assert place is not None
    assert 142 <= place.y_mm <= 144
    assert pockets.put("bar") is None


def searched(seconds: float, seed: int, left: dict[str, int]) -> Found:
    """One search of so much effort, whatever the clock says."""
    shapes = {"l": with_half_gap(ell(60, 20), 2.0), "d": with_half_gap(disc(15), 2.0)}
    board = Board(AREA, shapes, 1.0, ANGLES["quarter"])
    areas = {key: shape.area for key, shape in shapes.items()}
    return SheetSearch(board, left, areas, (seed,), Effort(seconds, lambda: False)).run(20_000)


def test_the_same_steps_find_the_same_on_any_machine() -> None:
    left = {"l": 14, "d": 14}
    first, second, other = (searched(1.5, seed, left) for seed in (3, 3, 4))
    assert first.copies == second.copies
    assert np.allclose(first.at_mm, second.at_mm, atol=1e-6)
    assert not np.array_equal(first.at_mm, other.at_mm)
    # More steps never find less.
    assert searched(3.0, 3, left).area_mm2 >= first.area_mm2


def test_what_is_left_of_a_sheet_is_in_one_piece_below() -> None:
    asked = question({"s": shapely.box(0, 0, 40, 40)}, wanted={"s": 8}, most_sheets=5, seconds=3)
    found = nest(asked).placements
    check(asked, found)
    assert len(found) == 8
    # Two rows of four: 82 mm of 282, wherever the marks let them begin.
    assert max(piece.y_mm for piece in found) + 40 - AREA.top_mm < 100


def test_marks_in_the_middle_of_a_side_are_gone_round() -> None:
    """Room for a piece on both sides of what stands in the middle, which no strip between corners offers."""
    lying = shapely.box(6, 140, 160, 150)
    area = usable_area(A4, used=[lying])
    asked = question({"d": disc(30)}, area=area, wanted={"d": 12}, seconds=3, most_sheets=1)
    found = nest(asked).placements
    check(asked, found)
    above = sum(piece.y_mm < 140 for piece in found)
    # Three in a row, two rows on either side.
    assert above >= 5
    assert len(found) - above >= 5


def test_sixty_that_are_each_another_take_no_sheet_more_than_their_area_needs() -> None:
    rng = np.random.default_rng(8)
    shapes = {
        f"p{n}": affinity.rotate(ellipse(27, 19), float(turn))
        for n, turn in enumerate(rng.uniform(0, 180, 40))
    }
    asked = question(shapes, wanted=dict.fromkeys(shapes, 1), seconds=8, most_sheets=60)
    begun = time.monotonic()
    found = nest(asked, clock=time.monotonic).placements
    assert time.monotonic() - begun < 40
    check(asked, found)
    assert Counter(piece.key for piece in found) == dict.fromkeys(shapes, 1)
    # 56 by 40 mm with their gap, in rows by boxes of at most 56: fifteen a sheet and three sheets.
    assert max(piece.sheet for piece in found) <= 2


@pytest.mark.parametrize("dead", [(0,), (1,), (0, 1)])
def test_what_is_left_when_a_search_was_killed_is_no_answer(dead: tuple[int, ...]) -> None:
    """It would be kept for ever, and another machine would find more."""

    def together(jobs, over):  # type: ignore[no-untyped-def]
        return [None if n in dead else job(lambda: False) for n, job in enumerate(jobs)]

    with pytest.raises(SearchDied):
        nest(question({"l": ell(60, 22)}, seconds=1), together=together)
    # Where all of them live there is one.
    assert nest(question({"l": ell(60, 22)}, seconds=1), together=lambda jobs, over: [j(over) for j in jobs])
