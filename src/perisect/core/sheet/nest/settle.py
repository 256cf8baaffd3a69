"""Copies that overlap a little, moved apart exactly: linear programs, one after the other.

Near places of two copies may come no nearer than to touch; linearized where they are nearest, that is one inequality
for each, and copies move as little as keeps them all (Li and Milenkovic, 1995). A few rounds bring every copy
within a few micrometres of touching at most.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

STEP_MM = 0.7
REACH_MM = 2 * STEP_MM * 2**0.5
SPACING_MM, CLOSE_MM = 2.0, 0.4
"""From point to point along an outline; and where two outlines cross each other between such points."""
MOST_OF_A_PAIR, LEAST_OF_A_PAIR, MOST_OF_ALL = 60, 6, 2_000
"""Near places of a pair that are looked at; of hundreds of shapes fewer, so that a program is not larger."""
SAME_WAY = 1e-3
"""Of places with one way out of the second, to so many radians, only the nearest one counts."""
SECONDS = 3.0
"""For one program, which takes hundredths of one; a huge one is given up."""
TOUCHING_MM = 0.004
MARGIN_MM = 0.001
ROUNDS = 8
MOVING, PRESSED = 1e-4, 100.0
"""Cost of a way beside that of an overlap of as much; and of both beside the length, where that is pressed."""
STUCK, MOST_STUCK = 0.8, 2
"""Overlaps that so many rounds on end do not bring below so much of what they were are given up."""

Box = tuple[float, float, float, float]
Floats = NDArray[np.float64]


class Settled(NamedTuple):
    """(n, 2) by how much each moves, mm, or None when that is not found; then which of them still overlapped."""

    moved: Floats | None
    overlapping: tuple[int, ...] = ()


@dataclass(frozen=True)
class _Contacts:
    """Near places of pairs: the pair, the way out of the second, and how far the first is out of it, mm."""

    first: NDArray[np.intp]
    second: NDArray[np.intp]
    out: Floats
    apart_mm: Floats


def settle(
    shapes: Sequence[shapely.Polygon],
    obstacles: Sequence[shapely.Geometry],
    box: Box,
    press: bool = False,
    stopping: Callable[[], bool] = lambda: False,
) -> Settled:
    """How (n,) shapes move so that none overlaps another or an obstacle, and each is in the box.

    Args:
        press: then they move on to the top as long as it makes what they take there shorter.
    """
    moved = np.zeros((len(shapes), 2))
    overlapping: tuple[int, ...] = ()
    found: Floats | None = None
    least, stuck, spacing = np.inf, 0, SPACING_MM
    for _ in range(ROUNDS):
        there = [shapely.transform(s, lambda xy, d=d: xy + d) for s, d in zip(shapes, moved, strict=True)]
        contacts = _contacts(there, obstacles, spacing)
        bounds = shapely.bounds(there)
        outside = np.maximum((box[:2] - bounds[:, :2]).max(axis=1), (bounds[:, 2:] - box[2:]).max(axis=1))
        deep = contacts.apart_mm < -TOUCHING_MM
        still = np.unique(
            np.r_[contacts.first[deep], contacts.second[deep], np.flatnonzero(outside > TOUCHING_MM)]
        )
        overlapping = tuple(still[still < len(shapes)].tolist())
        worst = max(-float(contacts.apart_mm.min(initial=0.0)), float(outside.max(initial=0.0)))
        if worst <= TOUCHING_MM and _overlap(there, obstacles):
            if spacing == CLOSE_MM:
                return Settled(found, overlapping)
            spacing = CLOSE_MM
            contacts = _contacts(there, obstacles, spacing)
        elif worst <= TOUCHING_MM:
            found = moved
            if not press:
                return Settled(found, overlapping)
        elif found is None:
            stuck = stuck + 1 if worst > STUCK * least else 0
            if stuck == MOST_STUCK:
                return Settled(None, overlapping)
            least = min(least, worst)
        if stopping():
            return Settled(found, overlapping)
        step = _moves(contacts, bounds, box, press)
        if step is None:
            return Settled(found, overlapping)
        moved = moved + step
    return Settled(found, overlapping)


def _overlap(there: list[shapely.Polygon], obstacles: Sequence[shapely.Geometry]) -> bool:
    """Whether any two overlap, where their points do not tell: a tip that crosses another has none in it."""
    every = np.array([*there, *obstacles], dtype=object)
    first, second = shapely.STRtree(every).query(there, predicate="intersects")
    pairs = first < second
    common = shapely.intersection(every[first[pairs]], every[second[pairs]])
    return not shapely.is_empty(shapely.buffer(common, -2 * TOUCHING_MM)).all()


def _contacts(
    there: list[shapely.Polygon], obstacles: Sequence[shapely.Geometry], spacing_mm: float
) -> _Contacts:
    every = np.array([*there, *obstacles], dtype=object)
    shapely.prepare(every)
    edges = shapely.boundary(every)
    points, owner = shapely.get_coordinates(shapely.segmentize(edges, spacing_mm), return_index=True)
    boxes = shapely.bounds(every) + (-REACH_MM, -REACH_MM, REACH_MM, REACH_MM)
    dots = shapely.points(points)
    at, near = shapely.STRtree(shapely.box(*boxes.T)).query(dots)
    first = owner[at]
    other = (first != near) & ((first < len(there)) | (near < len(there)))
    at, first, near = at[other], first[other], near[other]
    ends = shapely.get_coordinates(shapely.shortest_line(dots[at], edges[near]))
    way = ends[0::2] - ends[1::2]
    length = np.hypot(*way.T)
    within = shapely.contains_xy(every[near], *points[at].T)
    sign = np.where(within, -1.0, 1.0)
    told = (length > 1e-9) & (length <= REACH_MM)
    out = way[told] / length[told, None] * sign[told, None]
    most = max(LEAST_OF_A_PAIR, min(MOST_OF_A_PAIR, MOST_OF_ALL // len(there)))
    return _nearest(_Contacts(first[told], near[told], out, (length * sign)[told]), most)


def _nearest(contacts: _Contacts, most: int) -> _Contacts:
    """Of each pair the places where it is nearest, one for each way out: outlines of thousands of nodes have more than
    count."""
    way = np.round(np.arctan2(contacts.out[:, 1], contacts.out[:, 0]) / SAME_WAY)
    order = np.lexsort((contacts.apart_mm, way, contacts.second, contacts.first))
    of = np.c_[contacts.first, contacts.second, way][order]
    order = order[np.r_[True, (np.diff(of, axis=0) != 0).any(axis=1)][: len(order)]]
    order = order[np.lexsort((contacts.apart_mm[order], contacts.second[order], contacts.first[order]))]
    first, second = contacts.first[order], contacts.second[order]
    begins = np.flatnonzero(np.r_[True, (np.diff(first) != 0) | (np.diff(second) != 0)])
    rank = np.arange(len(order)) - np.repeat(begins, np.diff(np.r_[begins, len(order)]))
    kept = order[rank < most]
    return _Contacts(contacts.first[kept], contacts.second[kept], contacts.out[kept], contacts.apart_mm[kept])


def _moves(contacts: _Contacts, bounds: Floats, box: Box, press: bool) -> Floats | None:
    """The next step of each shape: as little overlap as there can be, then, pressed, the least length."""
    # A third of a second to load, and only searches need it.
    from scipy import sparse
    from scipy.optimize import linprog

    count, met = len(bounds), len(contacts.apart_mm)
    pairs = np.sort(np.c_[contacts.first, contacts.second], axis=1)
    _, pair = np.unique(pairs, axis=0, return_inverse=True)
    slacks = int(pair.max(initial=-1)) + 1
    # Columns: to the right and down, then to the left and up, then what each pair still overlaps, then the end.
    first, end = 4 * count, 4 * count + slacks
    rows, columns, values = [], [], []
    line = np.arange(met)
    for which, sign in ((contacts.first, -1.0), (contacts.second, 1.0)):
        free = which < count
        for axis in (0, 1):
            for back in (0, 1):
                rows.append(line[free])
                columns.append(2 * count * back + 2 * which[free] + axis)
                values.append(sign * (1 - 2 * back) * contacts.out[free, axis])
    rows.append(line)
    columns.append(first + pair)
    values.append(-np.ones(met))
    most = contacts.apart_mm - MARGIN_MM
    if press:
        # The end lies below each of them.
        below, every = met + np.arange(count), np.arange(count)
        rows += [below, below, below]
        columns += [2 * every + 1, 2 * (count + every) + 1, np.full(count, end)]
        values += [np.ones(count), -np.ones(count), -np.ones(count)]
        most = np.r_[most, -bounds[:, 3]]
    matrix = sparse.csr_matrix(
        (np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))),
        shape=(len(most), end + press),
    )
    # Who sticks out of the box comes in, at most by a step.
    low = np.clip(box[:2] - bounds[:, :2], -STEP_MM, STEP_MM).ravel()
    high = np.clip(box[2:] - bounds[:, 2:], -STEP_MM, STEP_MM).ravel()
    high = np.maximum(low, high)
    there, back = np.c_[low, high].clip(0.0), np.c_[-high, -low].clip(0.0)
    limits = np.r_[there, back, np.tile((0.0, np.inf), (slacks, 1))]
    cost = np.r_[np.full(4 * count, MOVING), np.ones(slacks)]
    if press:
        limits, cost = np.r_[limits, [(-np.inf, np.inf)]], np.r_[cost * PRESSED, 1.0]
    # Sparse matrices are taken, though the stubs do not know it.
    told = {"time_limit": SECONDS}
    solved = linprog(cost, matrix, most, bounds=limits, method="highs-ds", options=told)  # type: ignore[call-overload]
    if solved.status != 0:
        return None
    return np.asarray(solved.x[: 2 * count] - solved.x[2 * count : 4 * count]).reshape(count, 2)
