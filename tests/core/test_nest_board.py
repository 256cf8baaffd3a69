"""The raster of a nest: overlaps counted by hand, what marks take, panels that are cut shorter."""

from dataclasses import replace

import numpy as np
import pytest
import shapely
from shapely import affinity

from perisect.core.sheet import A4, UsableArea, usable_area
from perisect.core.sheet.nest.board import Board, Spot, _missed
from perisect.core.sheet.nest.overlaps import Overlaps

AREA = usable_area(A4)
SQUARE = shapely.box(0, 0, 20, 20)


def overlaps_on(board: Board, seed: int = 1) -> Overlaps:
    return Overlaps(board, np.random.default_rng(seed), lambda _: False)


def test_overlaps_are_cells_times_their_depth() -> None:
    board = Board(AREA, {"s": SQUARE}, 1.0, (0.0,))
    assert board.cell == 1.0  # a twentieth of the piece
    overlaps = overlaps_on(board)
    overlaps.begin([Spot("s", 0, 60, 60), Spot("s", 0, 77, 60)])
    # Three columns of twenty cells; a cell of a square is as deep as its way to the nearest side.
    rows = np.minimum(np.arange(1, 21), np.arange(20, 0, -1))
    met = sum(float(np.minimum(rows, column).sum()) for column in (1, 2, 3))
    assert overlaps.total == pytest.approx(met)
    overlaps.begin([Spot("s", 0, 60, 60), Spot("s", 0, 80, 60)])
    assert overlaps.total == 0


def test_an_overlap_everywhere_is_what_each_place_tells() -> None:
    shapes = {"s": SQUARE, "d": shapely.Point(0, 0).buffer(12)}
    board = Board(AREA, shapes, 1.0, (0.0, 90.0))
    depth = board.turned["d"][0].depth
    whole = board.room()
    whole[50 : 50 + depth.shape[0], 70 : 70 + depth.shape[1]] = depth
    met = board.met(board.field(whole), "s", 1)
    inside = board.turned["s"][1].inside
    for y, x in ((40, 60), (50, 70), (45, 88), (20, 20), (62, 71)):
        cells = whole[y : y + inside.shape[0], x : x + inside.shape[1]]
        assert met[y, x] == pytest.approx(float((cells * inside).sum()), abs=0.05)


@pytest.mark.parametrize("gap_mm", [0.0, 2.0, 6.0])
def test_who_meets_no_obstacle_lies_in_the_area(gap_mm: float) -> None:
    half = gap_mm / 2
    piece = shapely.Point(0, 0).buffer(7, 32).union(shapely.box(-9, -2, 9, 2))
    grown = shapely.buffer(piece, half, quad_segs=32)
    board = Board(AREA, {"p": grown}, half, (0.0,))
    obstacles = shapely.union_all(board.obstacles(board.height_mm))
    rng = np.random.default_rng(4)
    free = lost = 0
    for _ in range(1500):
        # Around the marks in the four corners.
        corner = np.where(rng.random(2) < 0.5, (AREA.left_mm, AREA.top_mm), (AREA.right_mm, AREA.bottom_mm))
        x, y = corner + rng.uniform(-30, 30, 2)
        taken = affinity.translate(grown, x, y)
        left, top, right, bottom = taken.bounds
        in_box = left >= board.left and top >= board.top
        in_box &= right <= board.left + board.width_mm and bottom <= board.top + board.height_mm
        if in_box and not taken.intersects(obstacles):
            free += 1
            assert AREA.holds(affinity.translate(piece, x, y).buffer(-1e-6))
        elif AREA.polygon.buffer(-0.35 * half - 0.01).covers(affinity.translate(piece, x, y)):
            lost += 1
    assert free > 100
    assert lost == 0  # no more than a third of half the gap is given away


def test_on_a_shorter_panel_marks_stand_where_they_stand_on_it() -> None:
    def panels(length_mm: float) -> UsableArea | None:
        return usable_area(replace(A4, height_mm=length_mm)) if length_mm > 150 else None

    board = Board(AREA, {"s": SQUARE}, 1.0, (0.0,), panels)
    for length_mm in (297.0, 250.0, 175.0):
        area = usable_area(replace(A4, height_mm=length_mm))
        taken = shapely.union_all(board.obstacles(board.height_mm - (297.0 - length_mm)))
        assert len(shapely.get_parts(taken)) == 4
        # What marks take of the area's box, but for what half a gap gives back.
        notches = shapely.box(*area.polygon.bounds).difference(area.polygon)
        assert taken.difference(notches.buffer(1.5)).area < 1e-6
        assert notches.difference(taken.buffer(1.0)).area < 1e-6
    # Where marks do not hold no piece may stand.
    assert not (board.blocked(board.height_mm - 200.0) == 0).all()
    assert (board.blocked(board.height_mm - 200.0)[:80, 10:-10] > 0).all()
    still = Board(AREA, {"s": SQUARE}, 1.0, (0.0,))
    assert still.obstacles(100.0) == still.obstacles(still.height_mm)


def test_after_many_moves_overlaps_are_those_of_where_the_copies_are() -> None:
    shapes = {"s": SQUARE, "l": shapely.box(0, 0, 50, 15).union(shapely.box(0, 0, 15, 50))}
    board = Board(AREA, shapes, 1.0, (0.0, 90.0, 180.0, 270.0))
    overlaps = overlaps_on(board)
    overlaps.scatter(["s", "l"] * 20)
    for _ in range(4):
        overlaps.step()
    overlaps.add("s")
    overlaps.step()
    again = overlaps_on(board)
    again.begin(overlaps.copies)
    assert len(again.copies) == 41
    # Depths of two differ, and a pair is told by the one that was moved last.
    assert overlaps.total == pytest.approx(again.total, rel=0.25)
    assert (overlaps.total == 0) == (again.total == 0)


def test_the_same_steps_lead_to_the_same_places() -> None:
    board = Board(AREA, {"s": SQUARE}, 1.0, (0.0, 90.0))
    found = []
    for _ in range(2):
        overlaps = overlaps_on(board, seed=5)
        overlaps.scatter(["s"] * 60)
        for _ in range(3):
            overlaps.step()
        found.append(overlaps.copies)
    assert found[0] == found[1]
    assert overlaps_on(board, seed=6).board is board


def test_copies_end_where_the_sheet_is_made_to_end() -> None:
    board = Board(AREA, {"s": SQUARE}, 1.0, (0.0,))
    overlaps = overlaps_on(board)
    overlaps.begin([Spot("s", 0, 10, board.size[0] - 20), Spot("s", 0, 60, 60)])
    overlaps.until(150.0)
    overlaps.begin(overlaps.copies)
    assert overlaps.total > 0
    overlaps.step()
    assert overlaps.total == 0
    assert all((copy.y + 20) * board.cell <= 150 for copy in overlaps.copies)


def test_where_there_is_no_room_weights_do_not_grow_beyond_all_numbers() -> None:
    board = Board(AREA, {"s": shapely.box(0, 0, 150, 150)}, 1.0, (0.0,))
    overlaps = overlaps_on(board)
    overlaps.scatter(["s"] * 3)
    for _ in range(400):
        overlaps.step()
    assert np.isfinite(overlaps.total)
    assert overlaps.total > 0


def test_cells_suit_the_pieces_and_the_sheet() -> None:
    small, large = shapely.box(0, 0, 6, 6), shapely.box(0, 0, 150, 150)
    assert Board(AREA, {"s": small}, 1.0, (0.0,)).cell < Board(AREA, {"s": large}, 1.0, (0.0,)).cell
    roll = usable_area(replace(A4, width_mm=1200.0, height_mm=3000.0))
    board = Board(roll, {"s": small}, 1.0, (0.0,))
    assert board.size[0] * board.size[1] <= 150_000
    assert not board.takes("s") or board.turned["s"][0].inside.any()


def test_cells_end_where_straight_sides_do() -> None:
    board = Board(AREA, {"s": shapely.box(0, 0, 31.5, 63)}, 1.0, (0.0, 90.0))
    assert 31.5 / board.cell == pytest.approx(round(31.5 / board.cell), abs=1e-6)
    # 10 mm at cells of 3: a side is 1 mm too far in, on two sides each way, and counts threefold; at 2.6 it is 0.4
    # too far out.
    told = _missed(shapely.box(0, 0, 10, 10), np.array([3.0, 2.5, 2.6]))
    assert told == pytest.approx([4 * 3 * 1 * 10, 0, 4 * 0.4 * 10])
    # What is straight nowhere has any cell.
    assert Board(AREA, {"d": shapely.Point(0, 0).buffer(31, 64)}, 1.0, (0.0,)).cell == pytest.approx(1.5)
