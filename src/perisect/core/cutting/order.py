"""In which order lines are cut: kiss before through, inner before outer, a short way between."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.curve import Chain, Curve
from perisect.core.cutting.route import path_length, short_route
from perisect.core.formats import CutSheet, Ring
from perisect.core.process import processes

LOOKED_AT = 24
"""Points of a ring at most, evenly along it, where it may be begun."""
ROUNDS = 3
"""Order and beginnings follow from each other; so often they are found in turn."""
SHEETS_OWN = -1
"""Among the rings: what lies in none of them lies in the sheet."""


@dataclass(frozen=True)
class CutLine:
    """One line: its process, its place among the sheet's lines of that process, and its points.

    A closed one is a ring; an open one runs from its first point to its last.
    """

    process: str
    index: int
    ring: Ring
    closed: bool = True


def cut_order(sheet: CutSheet, start_mm: tuple[float, float] | None = None) -> list[CutLine]:
    """Every line of the sheet once.

    Process after process in the order of the table, so all kiss lines come before any through line: the sheet
    must stay held. Within a process the lines inside another are cut right before it, the way from line to line is
    short, and each is begun where that makes it shorter.
    """
    at = np.array(start_mm if start_mm else (0.0, sheet.height_mm))
    ordered: list[CutLine] = []
    for process in processes():
        rings = sheet.lines.get(process.name, [])
        if not rings:
            continue
        if not process.closed:
            ordered += _open_lines(process.name, rings, sheet.owners[process.name], at)
            at = ordered[-1].ring[-1]
            continue
        ordered += _closed_lines(process.name, rings, at)
        at = ordered[-1].ring[0]
    return ordered


def lines_of(sheet: CutSheet, numbers: Mapping[str, Sequence[int]]) -> CutSheet:
    """The sheet with these of its lines alone, by process."""
    return replace(
        sheet,
        lines={process: [sheet.lines[process][n] for n in mine] for process, mine in numbers.items()},
        owners={process: [sheet.owners[process][n] for n in mine] for process, mine in numbers.items()},
        curves={},
    )


def in_cutting_order(sheet: CutSheet, ordered: Sequence[CutLine]) -> CutSheet:
    """The same lines, each where its turn comes and from where it is begun."""
    lines, owners, curves = dict(sheet.lines), dict(sheet.owners), dict(sheet.curves)
    for process in processes():
        cut = [line for line in ordered if line.process == process.name]
        if not cut:
            continue
        lines[process.name] = [line.ring for line in cut]
        owners[process.name] = [sheet.owners[process.name][line.index] for line in cut]
        fitted = sheet.curves.get(process.name, ())
        if len(fitted) == len(cut):
            curves[process.name] = [_begun_near(fitted[line.index], line.ring[0]) for line in cut]
    return replace(sheet, lines=lines, owners=owners, curves=curves)


def _begun_near(curve: Chain, place: NDArray[np.float64]) -> Chain:
    """The curve begun at its node nearest to a place; an open one as it is."""
    if not isinstance(curve, Curve):
        return curve
    return curve.begun_at(int(((curve.nodes - place) ** 2).sum(axis=1).argmin()))


def _open_lines(process: str, lines: list[Ring], owners: list[int], at: np.ndarray) -> list[CutLine]:
    """Sticker after sticker; within one the cuts follow each other round the loop."""
    owned = np.array(owners)
    stickers = np.unique(owned[owned >= 0])
    firsts = np.array([lines[int(np.flatnonzero(owned == owner)[0])][0] for owner in stickers])
    order = stickers[short_route(firsts, at)].tolist() if len(stickers) else []
    # What is no sticker's goes round all of them, and last.
    order += sorted(set(owned[owned < 0].tolist()))
    return [
        CutLine(process, int(n), lines[n], False) for owner in order for n in np.flatnonzero(owned == owner)
    ]


def _closed_lines(process: str, rings: list[Ring], at: np.ndarray) -> list[CutLine]:
    inside = _inside(rings)
    some = [np.arange(0, len(ring), -(-len(ring) // LOOKED_AT)) for ring in rings]
    places = np.array([ring.mean(axis=0) for ring in rings])
    best: tuple[float, list[int], list[int]] | None = None
    order: list[int] = []
    for _ in range(ROUNDS):
        order = _sequence(inside, places, at, order)
        begun = _beginnings([rings[n] for n in order], [some[n] for n in order], at)
        places = places.copy()
        places[order] = [rings[n][first] for n, first in zip(order, begun, strict=True)]
        length = path_length(np.vstack([at, places[order]]))
        if best is not None and length >= best[0]:
            break
        best = length, order, begun
    assert best is not None
    return [
        CutLine(process, n, np.roll(rings[n], -first, axis=0)) for n, first in zip(*best[1:], strict=True)
    ]


def _sequence(
    inside: Mapping[int, Sequence[int]], places: np.ndarray, at: np.ndarray, before: list[int]
) -> list[int]:
    """The rings by a short way, those in a ring right before it; `before` is an order to begin with, or empty."""
    rank = np.argsort(before)
    order: list[int] = []
    waiting: list[tuple[int, bool]] = [(SHEETS_OWN, False)]
    while waiting:
        ring, entered = waiting.pop()
        if entered:
            order.append(ring)
            continue
        if ring != SHEETS_OWN:
            waiting.append((ring, True))
        here = np.array(inside.get(ring, ()), np.intp)
        if len(here):
            start = places[order[-1]] if order else at
            known = np.argsort(rank[here]) if before else None
            waiting += [(int(n), False) for n in here[short_route(places[here], start, known)][::-1]]
    return order


def _beginnings(rings: list[Ring], some: list[NDArray[np.intp]], at: np.ndarray) -> list[int]:
    """Where each ring is begun so that the way through all of them, in this order, is shortest: some points of each
    by dynamic programming, then every point between those before and after it."""
    costs: list[NDArray[np.float64]] = []
    back: list[NDArray[np.intp]] = []
    before, cost = at[None], np.zeros(1)
    for ring, looked in zip(rings, some, strict=True):
        here = ring[looked]
        way = cost + np.hypot(*(here[:, None] - before[None]).transpose(2, 0, 1))
        back.append(way.argmin(axis=1))
        before, cost = here, way.min(axis=1)
        costs.append(cost)
    chosen = [int(costs[-1].argmin())]
    for pointers in back[:0:-1]:
        chosen.append(int(pointers[chosen[-1]]))
    begun = [int(looked[n]) for looked, n in zip(some, chosen[::-1], strict=True)]
    for n, ring in enumerate(rings):
        previous = rings[n - 1][begun[n - 1]] if n else at
        way = np.hypot(*(ring - previous).T)
        if n + 1 < len(rings):
            way = way + np.hypot(*(ring - rings[n + 1][begun[n + 1]]).T)
        begun[n] = int(way.argmin())
    return begun


def _inside(rings: list[Ring]) -> dict[int, list[int]]:
    """For each ring those that lie in it and in no other one of it."""
    polygons = shapely.polygons([shapely.linearrings(ring) for ring in rings])
    tree = shapely.STRtree(polygons)
    inner, outer = tree.query(shapely.points([ring[0] for ring in rings]), predicate="within")
    # Rings that cross may each begin in the other: the smaller one lies in the larger. The smallest round one is next.
    larger = shapely.area(polygons).argsort(kind="stable").argsort()
    true = larger[outer] > larger[inner]
    inner, outer = inner[true], outer[true]
    around = np.full(len(rings), SHEETS_OWN)
    by_size = np.argsort(-larger[outer])
    around[inner[by_size]] = outer[by_size]
    found: dict[int, list[int]] = {}
    for ring, owner in enumerate(around.tolist()):
        found.setdefault(owner, []).append(ring)
    return found
