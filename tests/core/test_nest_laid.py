"""What copies overlap, by tables and by transforms: the same, and what cells counted by hand tell."""

import numpy as np
import pytest
import shapely

from perisect.core.sheet import A4, usable_area
from perisect.core.sheet.nest_board import Board, Spot
from perisect.core.sheet.nest_laid import ByTables
from perisect.core.sheet.nest_overlaps import Overlaps
from perisect.core.sheet.nest_pairs import Pairs, exact
from perisect.core.sheet.nest_transforms import ByTransforms

AREA = usable_area(A4)
ELL = shapely.box(0, 0, 50, 15).union(shapely.box(0, 0, 15, 50))
SHAPES = {"s": shapely.box(0, 0, 20, 20), "l": ELL, "c": shapely.Point(0, 0).buffer(17)}
ANGLES = (0.0, 90.0, 180.0, 270.0)


def crowd(board: Board, rng: np.random.Generator, count: int) -> list[Spot]:
    copies = []
    for _ in range(count):
        key, turn = list(SHAPES)[rng.integers(3)], int(rng.integers(4))
        rows, columns = board.free(key, turn)
        copies.append(Spot(key, turn, int(rng.integers(columns)), int(rng.integers(rows))))
    return copies


def test_a_table_tells_what_two_overlap_wherever_one_lies() -> None:
    # One of two cells by three, as deep as 1 throughout, and one of a single cell that is 4 deep.
    inside = [np.ones((2, 3), np.float32), np.ones((1, 1), np.float32)]
    depth = [np.ones((2, 3), np.float32), np.full((1, 1), 4, np.float32)]
    pairs = Pairs(inside, depth, columns=10)

    def met(moved: int, laid: int, down: int, right: int) -> float:
        by = np.array([down * pairs.stride + right])
        return float(pairs.met(moved, np.array([laid]), by)[0])

    assert met(0, 0, 0, 0) == 6
    assert met(0, 0, 1, 0) == met(0, 0, -1, 0) == 3
    assert met(0, 0, 1, 2) == met(0, 0, -1, -2) == 1
    assert met(0, 0, 0, 3) == met(0, 0, 2, 0) == met(0, 0, 0, -3) == 0
    assert met(0, 1, 0, 0) == met(0, 1, -1, -2) == 4
    assert met(1, 0, 0, 0) == met(1, 0, 1, 2) == 1
    assert met(1, 0, 2, 0) == met(1, 0, 0, 3) == met(1, 0, -1, 0) == met(1, 0, 0, -1) == 0
    # Far away, beyond the ends of all tables.
    assert all(met(m, n, down, 0) == 0 for m in (0, 1) for n in (0, 1) for down in (-200, -5, 5, 200))


def test_depths_are_eighths_and_roundings_are_none() -> None:
    told = exact(np.array([0.01, -0.2, 0.49, 1.0, 2**0.5, 5**0.5], np.float32))
    assert told.tolist() == [0, 0, 0, 1, 1.375, 2.25]


@pytest.mark.parametrize("seed", range(4))
def test_tables_and_transforms_tell_the_same(seed: int) -> None:
    rng = np.random.default_rng(seed)
    board = Board(AREA, SHAPES, 1.0, ANGLES)
    assert board.pairs is not None
    both = ByTables(board, board.pairs), ByTransforms(board)
    copies = crowd(board, rng, 25)
    blocked, rows = board.blocked(board.height_mm), board.size[0] - 13
    for laid in both:
        laid.begin(blocked, rows, copies[:-1])
        laid.append(copies[-1])
    for n in range(25):
        one, other = (laid.shared(n) for laid in both)
        # What ends beyond the last row is told by whoever moves it.
        inside = copies[n].y < board.free(copies[n].key, copies[n].turn)[0] - 13
        assert one[: -1 if not inside else None] == pytest.approx(
            other[: -1 if not inside else None], abs=0.1, rel=1e-3
        )
    weights = np.where(rng.random(26) < 0.3, rng.uniform(1, 40, 26), 1.0)
    for n in range(25):
        weights[n], keep = 1.0, weights[n]
        places = []
        for laid in both:
            laid.take_up(n)
            # The same draws of a hundred: either tells where the other would lay it.
            drawn = {
                laid.draw(copies[n].key, range(4), weights, np.random.default_rng(draw)) for draw in range(60)
            }
            places.append(drawn)
            laid.lay(n, copies[n])
        weights[n] = keep
        assert places[0] & places[1]
        costs = [cost(board, copies, n, spot, weights, blocked) for spot in places[0] | places[1]]
        assert max(costs) <= 1.03 * min(costs) + 1.0
    for key in SHAPES:
        tops = [laid.first(key) for laid in both]
        assert tops[0] is not None
        assert tops[1] is not None
        assert abs(tops[0].y - tops[1].y) <= 1


def cost(
    board: Board, copies: list[Spot], n: int, spot: Spot | None, weights: np.ndarray, blocked: np.ndarray
) -> float:
    """Cell by cell."""
    assert spot is not None
    inside = board.turned[spot.key][spot.turn].inside
    whole = np.zeros(board.size)
    for m, other in enumerate(copies):
        if m != n:
            depth = board.turned[other.key][other.turn].depth
            whole[other.y : other.y + depth.shape[0], other.x : other.x + depth.shape[1]] += (
                depth * weights[m]
            )
    whole += blocked * weights[-1]
    rows, columns = inside.shape
    return float((inside * whole[spot.y : spot.y + rows, spot.x : spot.x + columns]).sum())


def test_where_thousands_weigh_more_whole_tables_are_summed() -> None:
    rng = np.random.default_rng(9)
    board = Board(AREA, SHAPES, 1.0, ANGLES)
    assert board.pairs is not None
    laid = ByTables(board, board.pairs)
    copies = crowd(board, rng, 60)
    blocked = board.blocked(board.height_mm)
    laid.begin(blocked, board.size[0], copies)
    laid.take_up(0)
    # All others weigh a thousand times as much, so that the least of the map tells little.
    weights = np.full(61, 1000.0)
    weights[0] = 1.0
    drawn = laid.draw(copies[0].key, range(4), weights, rng)
    every = ByTransforms(board)
    every.begin(blocked, board.size[0], copies)
    every.take_up(0)
    best = every.draw(copies[0].key, range(4), weights, rng)
    told = [cost(board, copies, 0, spot, weights, blocked) for spot in (drawn, best)]
    assert told[0] == pytest.approx(told[1], rel=0.03, abs=1.0)


def test_a_piece_that_fits_one_way_only_is_never_laid_the_other() -> None:
    board = Board(AREA, {"long": shapely.box(0, 0, 12, 250)}, 1.0, ANGLES)
    for seed in range(8):
        overlaps = Overlaps(board, np.random.default_rng(seed), lambda _: False)
        overlaps.scatter(["long"] * 6)
        overlaps.anywhere([0, 3])
        overlaps.step()
        assert {spot.turn for spot in overlaps.copies} <= {0, 2}
