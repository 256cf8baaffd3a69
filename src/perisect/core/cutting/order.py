"""In which order lines are cut: kiss before through, inner before outer, short travel between."""

from dataclasses import dataclass

import numpy as np
import shapely

from perisect.core.formats import CutSheet, Ring

PROCESSES = ("kiss", "through")


@dataclass(frozen=True)
class CutLine:
    """One closed line: its process, its place among the sheet's lines of that process, and its ring."""

    process: str
    index: int
    ring: Ring


def cut_order(sheet: CutSheet, start_mm: tuple[float, float] | None = None) -> list[CutLine]:
    """Every line of the sheet once.

    All kiss lines come before any through line: the sheet must stay held. Within a process a line
    waits until the lines inside it are cut; among those that may go, the nearest goes next.
    """
    at = np.array(start_mm if start_mm else (0.0, sheet.height_mm))
    ordered: list[CutLine] = []
    for process in PROCESSES:
        rings = sheet.lines.get(process, [])
        if not rings:
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
                ordered.append(CutLine(process, index, ring))
                at = ring[0]
    return ordered


def _depths(rings: list[Ring]) -> np.ndarray:
    """How many other rings each ring lies in."""
    polygons = shapely.polygons([shapely.linearrings(ring) for ring in rings])
    tree = shapely.STRtree(polygons)
    inner, outer = tree.query(shapely.points([ring[0] for ring in rings]), predicate="within")
    inner = inner[inner != outer]
    return np.bincount(inner, minlength=len(rings))
