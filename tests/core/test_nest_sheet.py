"""A sheet's search: what it begins with, how long it goes on, and what it mends."""

from collections import Counter

import pytest
import shapely

from perisect.core.sheet import A4, usable_area
from perisect.core.sheet.inflated import with_half_gap
from perisect.core.sheet.nest.board import Board
from perisect.core.sheet.nest.one_sheet import Effort, SheetSearch, in_proportion

AREA = usable_area(A4)
SQUARE = shapely.box(0, 0, 30, 30)


def search(
    seconds: float, left: dict[str, int], shapes: dict[str, shapely.Polygon] | None = None
) -> SheetSearch:
    grown = {key: with_half_gap(shape, 2.0) for key, shape in (shapes or {"s": SQUARE}).items()}
    board = Board(AREA, grown, 1.0, (0.0, 90.0))
    areas = {key: float(shape.area) for key, shape in grown.items()}
    return SheetSearch(board, left, areas, (1,), Effort(seconds, lambda: False))


def test_pieces_are_taken_in_proportion_to_what_is_wanted() -> None:
    # A fifth of 10 x 100 and 10 x 50 mm².
    assert Counter(in_proportion({"a": 10, "b": 10}, {"a": 100.0, "b": 50.0}, 300.0)) == {"a": 2, "b": 2}
    # All there is, where it is less.
    assert Counter(in_proportion({"a": 1, "b": 3}, {"a": 100.0, "b": 50.0}, 900.0)) == {"a": 1, "b": 3}
    # Of five hundred that are each another as many as there is room for, not one of each.
    each = {f"p{n:03}": 1 for n in range(500)}
    taken = in_proportion(each, dict.fromkeys(each, 10.0), 200.0)
    assert len(taken) == len(set(taken)) == 20
    assert in_proportion({"a": 0}, {"a": 10.0}, 100.0) == []


def test_a_search_ends_after_its_steps_or_when_it_is_told_to() -> None:
    effort = Effort(3, lambda: False)
    assert [effort.spend(1) for _ in range(4)] == [False, False, False, True]
    stopped = Effort(100, lambda: True)
    assert stopped.over
    assert stopped.spend(1)
    spent = search(0, {"s": 4})
    assert spent.run(10_000).copies == ()


@pytest.mark.slow
def test_a_sheet_of_squares_holds_as_many_as_rows() -> None:
    # 198 by 282 mm hold six by eight squares of 32 less a gap, but for the four in whose corners marks stand:
    # these are 10.5 mm deep, and six of 32 mm leave 8 mm of the width.
    full = search(6, {"s": 60}).run(0.5 * 198 * 282)
    assert 40 <= len(full.copies) <= 48
    assert full.area_mm2 == pytest.approx(len(full.copies) * with_half_gap(SQUARE, 2.0).area)


def test_designs_that_are_furthest_behind_come_next() -> None:
    shapes = {"s": SQUARE, "t": shapely.box(0, 0, 20, 20)}
    mine = search(2, {"s": 3, "t": 9}, shapes)
    assert mine._next([]) == ["s", "t"]  # the larger one, while there is none of either
    laid = mine.run(10_000)
    assert Counter(key for key, _ in laid.copies) == {"s": 3, "t": 9}
    assert mine._next(key for key, _ in laid.copies) == []


def test_what_two_searches_share_is_never_prepared() -> None:
    """Two threads that ask one prepared shape end the process."""
    mine = search(0.5, {"s": 20})
    mine.run(20_000)
    obstacles = mine._board.obstacles(mine._board.height_mm)
    assert len(obstacles) == 4
    assert not shapely.is_prepared(obstacles).any()
