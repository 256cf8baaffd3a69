"""The steps of a nest's search that are taken millions of times, compiled: some eight times as many in the same time.

Sums are made in the order in which they are written, so that any machine finds the same.
"""

from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from numba import njit, types
from numpy.typing import NDArray

from perisect.core.sheet.nest.laid import Weights
from perisect.core.sheet.nest.pairs import Floats, Ints

GROUP = 32
"""Rows of a map of which the least of each column is looked for at a time."""


class Tables(NamedTuple):
    """What each turned piece overlaps of each other, wherever one lies beside the other.

    Of a laid one, `flat` holds from its `begins` on for every other an array of (`high` - 1 + its `rows`, `wide` - 1 +
    its `columns`): what that one overlaps where it begins so many rows and columns further on, less `high` - 1 and
    `wide` - 1.
    """

    flat: Floats
    begins: Ints
    rows: Ints
    columns: Ints
    high: int
    wide: int


class Sheet(NamedTuple):
    """For each turned piece what it overlaps of all that is laid, for every cell its box may begin in, (n, rows,
    columns); and of the same what is blocked, infinite where it may not begin. So many `rows` and `columns` of each
    are looked at."""

    whole: Floats
    edges: Floats
    rows: Ints
    columns: Ints


class Copies(NamedTuple):
    """(n,) the turned piece of each copy and where its box begins; (n, n + 1) what it overlaps of each, and last of
    what is blocked."""

    number: Ints
    y: Ints
    x: Ints
    met: NDArray[np.float64]


class Room(NamedTuple):
    """Where a search writes: the least of each group of cells, and places that may be as good as least with what they
    cost: room for all of a design. And what is no overlap, and how much more than least is as good: handed in, for what
    is compiled would not hear of another number in another file."""

    least: Floats
    place: Ints
    cost: NDArray[np.float64]
    met: float
    near: float


def _named(kind: Any, *fields: Any) -> Any:
    return types.NamedTuple(fields, kind)


_I, _IS = types.intp, types.intp[::1]
_D, _DS, _DDS = types.float64, types.float64[::1], types.float64[:, ::1]
_TABLES = _named(Tables, types.float32[::1], _IS, _IS, _IS, _I, _I)
_SHEET = _named(Sheet, types.float32[:, :, ::1], types.float32[:, :, ::1], _IS, _IS)
_COPIES = _named(Copies, _IS, _IS, _IS, _DDS)
_ROOM = _named(Room, types.float32[::1], _IS, _DS, _D, _D)


def _compiled(signature: Any) -> Callable[[Callable[..., Any]], Any]:
    """Compiled when this is first imported anywhere, and kept beside it where files can be written."""

    def made(function: Callable[..., Any]) -> Any:
        try:
            return njit(signature, cache=True, nogil=True)(function)
        except Exception:
            # It can be kept nowhere, or what was kept is broken and goes: the next process keeps it anew.
            _forget(function)
            return njit(signature, nogil=True)(function)

    return made


def _forget(function: Callable[..., Any]) -> None:
    with suppress(Exception):
        kept = Path(str(njit(cache=True)(function).stats.cache_path))
        for each in kept.glob(f"*.{function.__name__}-*.nb[ci]"):
            each.unlink(missing_ok=True)


@_compiled(types.void(_TABLES, _SHEET, _COPIES, _I, types.float32))
def lay(tables: Tables, sheet: Sheet, copies: Copies, n: int, sign: float) -> None:
    """Copy n onto all maps, or with -1 off them."""
    laid = copies.number[n]
    rows, columns = tables.high - 1 + tables.rows[laid], tables.wide - 1 + tables.columns[laid]
    # From the last place where it has no overlap yet.
    top, left = copies.y[n] - tables.high + 1, copies.x[n] - tables.wide + 1
    for moved in range(len(sheet.rows)):
        # What is no higher or wider than others begins to overlap later.
        first_y = max(0, copies.y[n] - tables.rows[moved] + 1)
        first_x = max(0, copies.x[n] - tables.columns[moved] + 1)
        last_y, last_x = min(sheet.rows[moved], top + rows), min(sheet.columns[moved], left + columns)
        begin = tables.begins[laid] + moved * rows * columns
        wide = last_x - first_x
        if wide <= 0:
            continue
        for y in range(first_y, last_y):
            at = begin + (y - top) * columns + first_x - left
            table = tables.flat[at : at + wide]
            there = sheet.whole[moved, y, first_x : first_x + wide]
            for x in range(wide):
                there[x] += sign * table[x]


@_compiled(_D(_TABLES, _COPIES, _I, _I, _I, _I))
def overlap(tables: Tables, copies: Copies, moved: int, y: int, x: int, other: int) -> float:
    """What a turned piece that begins there overlaps of another copy."""
    laid = copies.number[other]
    rows, columns = tables.high - 1 + tables.rows[laid], tables.wide - 1 + tables.columns[laid]
    down, right = y - copies.y[other] + tables.high - 1, x - copies.x[other] + tables.wide - 1
    if down < 0 or right < 0 or down >= rows or right >= columns:
        return 0.0
    return float(tables.flat[tables.begins[laid] + (moved * rows + down) * columns + right])


@_compiled(types.void(_TABLES, _SHEET, _COPIES, _I))
def measure(tables: Tables, sheet: Sheet, copies: Copies, n: int) -> None:
    """Overlaps of copy n with all others and with what is blocked."""
    moved, y, x = copies.number[n], copies.y[n], copies.x[n]
    met = copies.met
    for other in range(len(copies.number)):
        met[n, other] = 0.0 if other == n else overlap(tables, copies, moved, y, x, other)
        met[other, n] = met[n, other]
    edge = sheet.edges[moved, y, x]
    # What sticks out at the end is moved first, however little it is.
    met[n, -1] = edge if edge < np.inf else tables.rows[moved] * tables.columns[moved]


@_compiled(_I(_SHEET, _IS, types.float32[::1]))
def _leasts(sheet: Sheet, tried: Ints, least: Floats) -> int:
    """How many groups there are: of each column of `GROUP` rows the least."""
    count = 0
    for moved in tried:
        wide = sheet.columns[moved]
        for first in range(0, sheet.rows[moved], GROUP):
            mine = least[count : count + wide]
            mine[:] = sheet.whole[moved, first, :wide]
            for y in range(first + 1, min(sheet.rows[moved], first + GROUP)):
                there = sheet.whole[moved, y, :wide]
                for x in range(wide):
                    mine[x] = min(mine[x], there[x])
            count += wide
    return count


@_compiled(_I(_ROOM, _I, _D))
def _kept(room: Room, count: int, most: float) -> int:
    """How many places are left that cost no more."""
    left = 0
    for n in range(count):
        if room.cost[n] <= most:
            room.place[left], room.cost[left] = room.place[n], room.cost[n]
            left += 1
    return left


@_compiled(types.UniTuple(_I, 4)(_TABLES, _SHEET, _COPIES, _ROOM, _IS, _DS, _D))
def place(
    tables: Tables,
    sheet: Sheet,
    copies: Copies,
    room: Room,
    tried: Ints,
    weights: Weights,
    chance: float,
) -> tuple[int, int, int, int]:
    """One of the places where one of turned pieces overlaps as good as least: piece, y, x, and how many pairs were
    looked up; piece -1 where none fits.

    As nothing counts for less than once, a map is never more than it is with weights: only places that are below the
    best one known are looked up with those.

    Args:
        weights: what each copy counts for, and last what is blocked, at least 1; one that is taken up 1.
        chance: which of them, 0 to 1.
    """
    size = _leasts(sheet, tried, room.least)
    least = np.float32(np.inf)
    for group in range(size):
        least = min(least, room.least[group])
    if least == np.inf:
        return -1, 0, 0, 0
    # Whoever weighs most soon tells that a place is no better.
    heavy = np.argsort(-weights[:-1])[: np.sum(weights[:-1] > 1)]
    best = most = np.inf
    looked, count = 0, 0
    _, high, wide = sheet.whole.shape
    # The least without weights comes first: then few others have to be looked at.
    for once in range(2):
        begin = 0
        for moved in tried:
            columns, rows = sheet.columns[moved], sheet.rows[moved]
            for first in range(0, rows, GROUP):
                for x in range(columns):
                    if room.least[begin + x] > (least if once == 0 else most) or (once == 0 and looked):
                        continue
                    for y in range(first, min(rows, first + GROUP)):
                        cost = float(sheet.whole[moved, y, x])
                        if cost > most:
                            continue
                        cost += (weights[-1] - 1.0) * sheet.edges[moved, y, x]
                        for other in heavy:
                            if cost > most:
                                break
                            looked += 1
                            cost += (weights[other] - 1.0) * overlap(tables, copies, moved, y, x, other)
                        looked += 1
                        if cost > most:
                            continue
                        if cost < best:
                            best, most = cost, cost + max(room.near * cost, room.met)
                        if once == 0:
                            continue
                        room.place[count], room.cost[count] = (moved * high + y) * wide + x, cost
                        count += 1
                begin += columns
    count = _kept(room, count, most)
    at = room.place[int(chance * count)]
    return at // wide // high, at // wide % high, at % wide, looked


@_compiled(types.UniTuple(_I, 3)(_TABLES, _SHEET, _COPIES, _ROOM, _IS, types.intp[:, ::1], _DS, _DDS))
def move(
    tables: Tables,
    sheet: Sheet,
    copies: Copies,
    room: Room,
    some: Ints,
    tried: Ints,
    chances: NDArray[np.float64],
    weights: Weights,
) -> tuple[int, int, int]:
    """Each of some copies that overlaps is moved where it overlaps least: how many were, how many maps were looked
    over, and pairs looked up.

    Args:
        tried: (some, turns) turned pieces.
        weights: (n, n + 1), as for `place`.
    """
    moved, maps, looked = 0, 0, 0
    for nth, n in enumerate(some):
        total = 0.0
        for other in range(copies.met.shape[1]):
            total += copies.met[n, other]
        if total <= room.met:
            continue
        lay(tables, sheet, copies, n, np.float32(-1.0))
        number, y, x, pairs = place(tables, sheet, copies, room, tried[nth], weights[n], chances[nth])
        maps, looked, moved = maps + tried.shape[1], looked + pairs, moved + 1
        if number >= 0:
            copies.number[n], copies.y[n], copies.x[n] = number, y, x
        lay(tables, sheet, copies, n, np.float32(1.0))
        measure(tables, sheet, copies, n)
    return moved, maps, looked
