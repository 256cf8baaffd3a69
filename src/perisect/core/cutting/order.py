"""In which order lines are cut: kiss before through, inner before outer, short travel between."""

from dataclasses import dataclass

import numpy as np
import shapely

from perisect.core.formats import CutSheet, Ring
from perisect.core.process import processes


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
    nearest goes next.
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
        depth = _depths(rings)
        left = np.ones(len(rings), bool)
        corners = np.array([ring[0] for ring in rings])
        for level in sorted(set(depth.tolist()), reverse=True):
            while (candidates := np.flatnonzero(left & (depth == level))).size:
                away = np.hypot(*(corners[candidates] - at).T)
                index = int(candidates[away.argmin()])
                left[index] = False
                # Begin where the knife arrives.
                ring = rings[index]
                first = int(np.hypot(*(ring - at).T).argmin())
                ring = np.roll(ring, -first, axis=0)
                ordered.append(CutLine(process.name, index, ring))
                at = ring[0]
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


def _depths(rings: list[Ring]) -> np.ndarray:
    """How many other rings each ring lies in."""
    polygons = shapely.polygons([shapely.linearrings(ring) for ring in rings])
    tree = shapely.STRtree(polygons)
    inner, outer = tree.query(shapely.points([ring[0] for ring in rings]), predicate="within")
    inner = inner[inner != outer]
    return np.bincount(inner, minlength=len(rings))
