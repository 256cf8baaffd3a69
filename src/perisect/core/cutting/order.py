"""In which order lines are cut: kiss before through, inner before outer, short travel between."""

from dataclasses import dataclass

import numpy as np
import shapely

from perisect.core.formats import CutSheet, Ring
from perisect.core.process import processes

LOOKED_AT = 24
"""Points of a ring at most, evenly along it, that are held against where the knife is."""


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
    must stay held. Within a process a line waits until the lines inside it are cut; among those that may go, the
    nearest goes next, and is begun where it is nearest.
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


def _open_lines(process: str, lines: list[Ring], owners: list[int], at: np.ndarray) -> list[CutLine]:
    """Sticker after sticker, the nearest next; within one the cuts follow each other round the loop."""
    owned = np.array(owners)
    firsts = {int(owner): int(np.flatnonzero(owned == owner)[0]) for owner in np.unique(owned)}
    ordered: list[CutLine] = []
    while firsts:
        # What is no sticker's goes round all of them, and last.
        owner = min(firsts, key=lambda n: (n < 0, float(np.hypot(*(lines[firsts[n]][0] - at)))))
        del firsts[owner]
        ordered += [CutLine(process, int(n), lines[n], False) for n in np.flatnonzero(owned == owner)]
        at = ordered[-1].ring[-1]
    return ordered


def _closed_lines(process: str, rings: list[Ring], at: np.ndarray) -> list[CutLine]:
    """The ring that any of its points is nearest of, among those with nothing left to cut inside them; from there."""
    inner, outer = _nested(rings)
    waiting = np.bincount(outer, minlength=len(rings))
    # Some points of each ring are enough to tell which is near.
    some = [ring[:: -(-len(ring) // LOOKED_AT)] for ring in rings]
    places = np.concatenate(some)
    ring_of = np.repeat(np.arange(len(rings)), [len(points) for points in some])
    left = np.ones(len(rings), bool)
    ordered: list[CutLine] = []
    while left.any():
        away = np.where((left & (waiting == 0))[ring_of], ((places - at) ** 2).sum(axis=1), np.inf)
        index = int(ring_of[away.argmin()])
        left[index] = False
        np.subtract.at(waiting, outer[inner == index], 1)
        # Begin where the knife arrives.
        first = int(np.hypot(*(rings[index] - at).T).argmin())
        ordered.append(CutLine(process, index, np.roll(rings[index], -first, axis=0)))
        at = ordered[-1].ring[0]
    return ordered


def _nested(rings: list[Ring]) -> tuple[np.ndarray, np.ndarray]:
    """Pairs of rings of which the first lies in the second."""
    polygons = shapely.polygons([shapely.linearrings(ring) for ring in rings])
    tree = shapely.STRtree(polygons)
    inner, outer = tree.query(shapely.points([ring[0] for ring in rings]), predicate="within")
    apart = inner != outer
    return inner[apart], outer[apart]
