"""Holes of a line: filled or kept, by size and one by one."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from perisect.core.lines.polygons import across, outermost

MOST_LISTED = 60


@dataclass(frozen=True)
class Hole:
    """A hole of the line as it would be: a place in it, how far across, whether it was filled and why."""

    x_mm: float
    y_mm: float
    across_mm: float
    filled: bool
    too_small: bool


@dataclass(frozen=True)
class Holed:
    """The shape with its holes decided, and the holes, largest first."""

    shape: shapely.MultiPolygon
    holes: tuple[Hole, ...]


def decide_holes(
    shape: shapely.MultiPolygon,
    fill_below_mm: float,
    filled: Sequence[tuple[float, float]] = (),
    kept: Sequence[tuple[float, float]] = (),
    smallest_mm: float = 0.75,
) -> Holed:
    """Fill the holes that are to be filled.

    Args:
        fill_below_mm: holes less than this across are filled.
        filled, kept: places in holes that are filled or kept whatever their size. A hole the knife
            cannot close is filled even if it is to be kept.
        smallest_mm: the least hole the knife closes.
    """
    parts = shapely.get_parts(shape)
    counts = shapely.get_num_interior_rings(parts)
    if counts.sum() == 0:
        return Holed(shape, ())
    owner = np.repeat(np.arange(len(parts)), counts)
    number = np.concatenate([np.arange(n) for n in counts])
    rings = shapely.get_interior_ring(parts[owner], number)
    inner = shapely.polygons(rings)
    width = across(rings)
    too_small = width < smallest_mm
    out = width < fill_below_mm
    out |= _named(inner, filled)
    out &= ~_named(inner, kept)
    out |= too_small
    shells = shapely.get_exterior_ring(parts)
    made = [
        shapely.polygons(shells[n], holes=rings[(owner == n) & ~out] if ((owner == n) & ~out).any() else None)
        if counts[n]
        else parts[n]
        for n in range(len(parts))
    ]
    # A piece that lay in a hole that is filled now lies in the piece around it.
    whole = outermost(np.array(made, dtype=object)) if out.any() else shape
    places = shapely.get_coordinates(shapely.point_on_surface(inner))
    order = np.argsort(-width)[:MOST_LISTED]
    holes = tuple(
        Hole(float(places[n, 0]), float(places[n, 1]), float(width[n]), bool(out[n]), bool(too_small[n]))
        for n in order
    )
    return Holed(whole, holes)


def _named(inner: np.ndarray, places: Sequence[tuple[float, float]]) -> np.ndarray:
    """Which holes hold one of some places."""
    named = np.zeros(len(inner), bool)
    if len(places):
        points = shapely.points(np.array(places, float))
        hole, _ = shapely.STRtree(points).query(inner, predicate="contains")
        named[hole] = True
    return named
