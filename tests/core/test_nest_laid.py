"""What copies overlap, by tables and by transforms: the same, and what cells counted by hand tell."""

import numpy as np
import pytest
import shapely

from perisect.core.sheet import A4, usable_area
from perisect.core.sheet.nest.board import Board, Spot
from perisect.core.sheet.nest.laid import MET, Laid
from perisect.core.sheet.nest.overlaps import Overlaps
from perisect.core.sheet.nest.pairs import Pairs, exact
from perisect.core.sheet.nest.tables import ByTables
from perisect.core.sheet.nest.transforms import ByTransforms

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
    pairs = Pairs(inside, depth)
    # The first moved over itself, from one row and two columns before it on; then the single cell moved over it.
    over_itself = [[1, 2, 3, 2, 1], [2, 4, 6, 4, 2], [1, 2, 3, 2, 1]]
    single = [[0, 0, 0, 0, 0], [0, 0, 1, 1, 1], [0, 0, 1, 1, 1]]
    assert pairs.table(0).tolist() == [over_itself, single]
    # And both moved over the single cell.
    assert pairs.table(1).tolist() == [[[4, 4, 4], [4, 4, 4]], [[0, 0, 0], [0, 0, 4]]]


def test_depths_are_eighths_and_roundings_are_none() -> None:
    told = exact(np.array([0.01, -0.2, 0.49, 1.0, 2**0.5, 5**0.5], np.float32))
    assert told.tolist() == [0, 0, 0, 1, 1.375, 2.25]


def both(board: Board, copies: list[Spot], rows: int) -> list[Laid]:
    assert board.pairs is not None
    laid: list[Laid] = [ByTables(board, board.pairs), ByTransforms(board)]
    blocked = board.blocked(board.height_mm)
    for each in laid:
        each.begin(blocked, rows, copies[:-1])
        each.append(copies[-1])
    return laid


def drawn(
    laid: Laid, blocked: np.ndarray, copies: list[Spot], rows: int, n: int, weights: np.ndarray
) -> set[Spot]:
    """Where copy n is moved by one chance or another."""
    found = set()
    for chance in np.linspace(0.0, 0.999, 9):
        laid.begin(blocked, rows, copies)
        laid.move(np.array([n]), np.arange(4)[None], np.array([chance]), weights)
        found.add(laid.spot(n))
    return found


@pytest.mark.parametrize("seed", range(4))
def test_tables_and_transforms_tell_the_same(seed: int) -> None:
    rng = np.random.default_rng(seed)
    board = Board(AREA, SHAPES, 1.0, ANGLES)
    copies, rows = crowd(board, rng, 25), board.size[0] - 13
    laid = both(board, copies, rows)
    one, other = (each.met for each in laid)
    # How much of what ends beyond the last row is blocked is told by neither: it comes first, whatever it is.
    inside = [spot.y < board.free(spot.key, spot.turn)[0] - 13 for spot in copies]
    assert one[:, :-1] == pytest.approx(other[:, :-1], abs=0.1, rel=1e-3)
    assert one[inside, -1] == pytest.approx(other[inside, -1], abs=0.1, rel=1e-3)
    assert (one[np.logical_not(inside), -1] > MET).all()
    weights = np.where(rng.random((25, 26)) < 0.3, rng.uniform(1, 40, (25, 26)), 1.0)
    weights[np.arange(25), np.arange(25)] = 1.0
    blocked = board.blocked(board.height_mm)
    for n in np.flatnonzero(one.sum(axis=1) > MET)[:4].tolist():
        places = [drawn(each, blocked, copies, rows, n, weights) for each in laid]
        # Wherever one lays it the other might have.
        costs = [cost(board, copies, n, spot, weights[n], blocked) for spot in places[0] | places[1]]
        assert max(costs) <= 1.03 * min(costs) + 1.0
        assert all(spot.y + board.turned[spot.key][spot.turn].inside.shape[0] <= rows for spot in places[0])
    for key in SHAPES:
        for each in laid:
            each.begin(blocked, rows, copies)
        tops = [each.first(key) for each in laid]
        assert tops[0] is not None
        assert tops[1] is not None
        assert abs(tops[0].y - tops[1].y) <= 1


@pytest.mark.parametrize("kind", [0, 1])
def test_after_many_moves_overlaps_are_what_they_are_when_all_are_laid_anew(kind: int) -> None:
    rng = np.random.default_rng(5)
    board = Board(AREA, SHAPES, 1.0, ANGLES)
    laid = both(board, crowd(board, rng, 30), board.size[0])[kind]
    weights = rng.uniform(1, 9, (30, 31))
    weights[np.arange(30), np.arange(30)] = 1.0
    for _ in range(6):
        laid.move(rng.permutation(30), np.tile(np.arange(4), (30, 1)), rng.random(30), weights)
    moved = [laid.spot(n) for n in range(30)]
    met, tops = laid.met.copy(), laid.first("s")
    laid.begin(board.blocked(board.height_mm), board.size[0], moved)
    # What two overlap is told by the one that moved last.
    mine = np.minimum(met[:, :-1], met[:, :-1].T)
    again = np.minimum(laid.met[:, :-1], laid.met[:, :-1].T)
    assert ((mine > MET) == (again > MET)).all()
    assert met[:, -1] == pytest.approx(laid.met[:, -1], abs=0.1)
    assert tops == laid.first("s")


def test_a_copy_that_overlaps_nothing_stays_and_others_move_only_as_they_may_turn() -> None:
    board = Board(AREA, {"l": ELL}, 1.0, ANGLES)
    free, other = Spot("l", 0, 70, 60), Spot("l", 1, 70, 110)
    for laid in both(board, [free, other, Spot("l", 1, 71, 111)], board.size[0]):
        assert laid.met[0].sum() <= MET
        assert laid.met[1, 2] > MET
        laid.move(np.arange(3), np.full((3, 1), 3), np.zeros(3), np.ones((3, 4)))
        assert laid.spot(0) == free
        assert laid.spot(1).turn == 3
        # By then nothing overlaps any more.
        assert laid.spot(2) == Spot("l", 1, 71, 111)
        assert laid.met.max() <= MET


def cost(
    board: Board, copies: list[Spot], n: int, spot: Spot, weights: np.ndarray, blocked: np.ndarray
) -> float:
    """Cell by cell."""
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


def test_where_all_others_weigh_thousands_the_least_is_found_too() -> None:
    rng = np.random.default_rng(9)
    board = Board(AREA, SHAPES, 1.0, ANGLES)
    copies = crowd(board, rng, 60)
    # The least of the map without weights tells little.
    weights = np.full((60, 61), 1000.0)
    weights[0, 0] = 1.0
    blocked = board.blocked(board.height_mm)
    told = []
    for laid in both(board, copies, board.size[0]):
        spots = drawn(laid, blocked, copies, board.size[0], 0, weights)
        told.append([cost(board, copies, 0, spot, weights[0], blocked) for spot in spots])
    assert max(told[0]) <= 1.03 * min(told[1]) + 1.0
    assert max(told[1]) <= 1.03 * min(told[0]) + 1.0


def test_a_piece_that_fits_one_way_only_is_never_laid_the_other() -> None:
    board = Board(AREA, {"long": shapely.box(0, 0, 12, 250)}, 1.0, ANGLES)
    for seed in range(8):
        overlaps = Overlaps(board, np.random.default_rng(seed), lambda _: False)
        overlaps.scatter(["long"] * 6)
        overlaps.anywhere([0, 3])
        overlaps.step()
        assert {spot.turn for spot in overlaps.copies} <= {0, 2}
