"""The compiled steps of a nest's search beside SciPy's correlations and sums made cell by cell."""

import subprocess
import sys
from pathlib import Path
from typing import NamedTuple

import numpy as np
import pytest
from scipy import ndimage, signal

from perisect.core.sheet.nest import moves
from perisect.core.sheet.nest.laid import MET, NEAR_LEAST
from perisect.core.sheet.nest.moves import Copies, Room, Sheet, Tables
from perisect.core.sheet.nest.pairs import Pairs

ROWS, COLUMNS = 43, 31


class Small(NamedTuple):
    """A board of 43 by 31 cells with some pieces of a few cells, and what is blocked on it."""

    inside: list[np.ndarray]
    depth: list[np.ndarray]
    blocked: np.ndarray
    tables: Tables
    sheet: Sheet
    room: Room

    def laid(self, *there: tuple[int, int, int]) -> Copies:
        """Copies of pieces at y and x, laid one after the other."""
        self.sheet.whole[:] = self.sheet.edges
        number, y, x = np.array(there, np.intp).T.copy()
        copies = Copies(number, y, x, np.zeros((len(there), len(there) + 1)))
        for n in range(len(there)):
            moves.lay(self.tables, self.sheet, copies, n, 1.0)
        for n in range(len(there)):
            moves.measure(self.tables, self.sheet, copies, n)
        return copies

    def anywhere(self, rng: np.random.Generator, count: int) -> list[tuple[int, int, int]]:
        return [
            (n, int(rng.integers(self.sheet.rows[n])), int(rng.integers(self.sheet.columns[n])))
            for n in rng.integers(len(self.inside), size=count).tolist()
        ]

    def cost(self, copies: Copies, weights: np.ndarray, piece: int, leaving: int | None = None) -> np.ndarray:
        """(rows, columns): what a piece overlaps wherever it begins, of weighted pictures of all others."""
        whole = self.blocked * weights[-1]
        for n in range(len(copies.number)):
            if n != leaving:
                depth = self.depth[copies.number[n]]
                high, wide = depth.shape
                y, x = copies.y[n], copies.x[n]
                whole[y : y + high, x : x + wide] += depth * weights[n]
        return np.asarray(signal.correlate2d(whole, self.inside[piece], mode="valid"))


def small(seed: int, ledge: float = 0.0) -> Small:
    """With corners that are blocked two cells deep, and the upper half as deep as the `ledge`."""
    rng = np.random.default_rng(seed)
    inside = [rng.random(size) < 0.7 for size in [(5, 7), (7, 5), (3, 9), (1, 1)]]
    inside = [np.maximum(each, np.eye(*each.shape)).astype(np.float32) for each in inside]
    # Eighths, as tables hold them.
    depth = [
        (np.rint(ndimage.distance_transform_edt(np.pad(each, 1))[1:-1, 1:-1] * 8) / 8).astype(np.float32)
        for each in inside
    ]
    blocked = np.zeros((ROWS, COLUMNS))
    blocked[: ROWS // 2] = ledge
    blocked[:4, :6] = blocked[-3:, -5:] = 2.0
    pairs = Pairs(inside, depth)
    rows, columns = (
        np.array([size - each.shape[axis] + 1 for each in inside], np.intp)
        for axis, size in enumerate((ROWS, COLUMNS))
    )
    edges = np.full((len(inside), ROWS, COLUMNS), np.inf, np.float32)
    for n, each in enumerate(inside):
        edges[n, : rows[n], : columns[n]] = signal.correlate2d(blocked, each, mode="valid")
    tables = Tables(pairs.flat, pairs.begins, pairs.rows, pairs.columns, pairs.high, pairs.wide)
    places = 4 * ROWS * COLUMNS
    room = Room(np.zeros(places, np.float32), np.zeros(places, np.intp), np.zeros(places), MET, NEAR_LEAST)
    return Small(inside, depth, blocked, tables, Sheet(np.zeros_like(edges), edges, rows, columns), room)


@pytest.mark.parametrize("seed", range(3))
def test_maps_hold_what_each_piece_would_overlap_of_all_that_is_laid(seed: int) -> None:
    board, rng = small(seed), np.random.default_rng(seed)
    copies = board.laid(*board.anywhere(rng, 9))
    for piece in range(4):
        told = board.cost(copies, np.ones(10), piece)
        rows, columns = told.shape
        assert board.sheet.whole[piece, :rows, :columns] == pytest.approx(told, abs=1e-4)
        assert np.isinf(board.sheet.whole[piece, rows:]).all()
        assert np.isinf(board.sheet.whole[piece, :, columns:]).all()
    # Taken up again, nothing of them is left: sums of eighths are exact.
    for n in rng.permutation(9).tolist():
        moves.lay(board.tables, board.sheet, copies, n, -1.0)
    assert (board.sheet.whole == board.sheet.edges).all()


@pytest.mark.parametrize("seed", range(3))
def test_what_copies_overlap_of_each_is_counted_cell_by_cell(seed: int) -> None:
    board, rng = small(seed), np.random.default_rng(seed + 10)
    copies = board.laid(*board.anywhere(rng, 12))
    # The last one to be measured tells what it overlaps of each.
    n = 11
    for other in range(11):
        alone = np.zeros(13)
        alone[other] = 1.0
        cost = board.cost(copies, alone, copies.number[n], leaving=n)
        assert copies.met[n, other] == copies.met[other, n] == pytest.approx(cost[copies.y[n], copies.x[n]])
    edge = board.cost(copies, np.r_[np.zeros(12), 1.0], copies.number[n])[copies.y[n], copies.x[n]]
    assert copies.met[n, -1] == pytest.approx(edge)
    assert copies.met[n, n] == 0


@pytest.mark.parametrize("heaviest", [1.0, 3.0, 400.0])
@pytest.mark.parametrize("seed", range(3))
def test_a_place_is_one_of_those_that_cost_as_good_as_least(seed: int, heaviest: float) -> None:
    board, rng = small(seed), np.random.default_rng(seed + 20)
    copies = board.laid(*board.anywhere(rng, 40))
    weights = np.where(rng.random(41) < 0.5, rng.uniform(1, heaviest, 41), 1.0)
    tried = np.array([0, 1, 2], np.intp)
    costs = [board.cost(copies, weights, piece) for piece in tried.tolist()]
    least = min(float(cost.min()) for cost in costs)
    most = least + max(NEAR_LEAST * least, MET)
    # Less what sums of floats leave.
    good = {
        (piece, int(y), int(x))
        for piece, cost in zip(tried.tolist(), costs, strict=True)
        for y, x in np.argwhere(cost <= most + 1e-3)
    }
    drawn = {
        moves.place(board.tables, board.sheet, copies, board.room, tried, weights, chance)[:3]
        for chance in np.linspace(0, 0.9999, 4 * len(good))
    }
    assert drawn <= good
    # Every one of them has its chance.
    assert len(drawn) >= len({spot for spot in good if costs[spot[0]][spot[1:]] <= most - 1e-3})


@pytest.mark.parametrize(("weight", "in_upper_half"), [(1.0, True), (400.0, False)])
def test_what_is_blocked_counts_for_its_weight(weight: float, in_upper_half: bool) -> None:
    """The lower half is crowded, and in the upper one each cell is blocked by an eighth."""
    board = small(1, ledge=0.125)
    lower = [(0, y, x) for y in range(ROWS // 2, ROWS - 4, 2) for x in range(0, COLUMNS - 6, 2)]
    copies = board.laid(*lower)
    weights = np.ones(len(lower) + 1)
    weights[-1] = weight
    _, y, x, _ = moves.place(
        board.tables, board.sheet, copies, board.room, np.array([1], np.intp), weights, 0.5
    )
    assert (y + 7 <= ROWS // 2) == in_upper_half
    cost = board.cost(copies, weights, 1)
    assert cost[y, x] <= float(cost.min()) + max(NEAR_LEAST * float(cost.min()), MET) + 1e-3


def test_where_nothing_fits_there_is_no_place() -> None:
    board = small(0)
    copies = board.laid((3, 0, 0))
    board.sheet.whole[1] = board.sheet.edges[1] = np.inf
    tried = np.array([1], np.intp)
    piece, *_ = moves.place(board.tables, board.sheet, copies, board.room, tried, np.ones(2), 0.5)
    assert piece == -1


def test_a_pass_moves_each_that_overlaps_to_where_all_others_stand_by_then() -> None:
    board, rng = small(4), np.random.default_rng(4)
    there = board.anywhere(rng, 60)
    copies = board.laid(*there)
    weights = rng.uniform(1, 5, (60, 61))
    weights[np.arange(60), np.arange(60)] = 1.0
    order = rng.permutation(60)
    mirror = board.laid(*there)
    tried = mirror.number[order, None].copy()
    moved, maps, _ = moves.move(
        board.tables, board.sheet, copies, board.room, order, tried, rng.random(60), weights
    )
    count = 0
    for n in order.tolist():
        piece = mirror.number[n]
        unweighted = board.cost(mirror, np.ones(61), piece, leaving=n)
        there_before = mirror.y[n], mirror.x[n]
        if unweighted[there_before] <= MET:
            assert (copies.y[n], copies.x[n]) == there_before
            continue
        count += 1
        cost = board.cost(mirror, weights[n], piece, leaving=n)
        least = float(cost.min())
        mirror.y[n], mirror.x[n] = copies.y[n], copies.x[n]
        assert cost[copies.y[n], copies.x[n]] <= least + max(NEAR_LEAST * least, MET) + 1e-3
    assert moved == maps == count
    assert count > 30


KEPT = """
from numba import types
from perisect.core.sheet.nest.moves import _compiled

@_compiled(types.float64(types.float64))
def twice(x):
    return 2 * x

print(twice(2.5))
"""


@pytest.mark.parametrize("broken", ["nbc", "nbi"])
def test_what_is_compiled_is_kept_and_made_anew_where_what_was_kept_is_broken(
    tmp_path: Path, broken: str
) -> None:
    (tmp_path / "kept.py").write_text(KEPT)

    def run() -> dict[str, int]:
        """Sizes of what is kept afterwards."""
        done = subprocess.run(
            [sys.executable, "-c", "import kept"], cwd=tmp_path, capture_output=True, text=True, check=True
        )
        assert done.stdout == "5.0\n"
        return {each.name: each.stat().st_size for each in tmp_path.glob("__pycache__/*.nb[ci]")}

    whole = run()
    assert len(whole) == 2
    (half,) = tmp_path.glob(f"__pycache__/*.{broken}")
    half.write_bytes(half.read_bytes()[:40])
    # As after a power cut: it works on, and what is broken does not stay.
    assert half.name not in run()
    assert run() == whole
