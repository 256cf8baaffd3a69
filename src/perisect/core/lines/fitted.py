"""Polygons whose rings are curves."""

from dataclasses import dataclass

import numpy as np
import shapely

from perisect.core.curve import Curve, straight
from perisect.core.lines.curves import fit_curves
from perisect.core.lines.polygons import polygons_of

RADIUS_MARGIN = 0.985
"""A fitted bend may be tighter than a promised radius by this much; it was rounded a little wider."""


@dataclass(frozen=True)
class Fitted:
    """Polygons as curves: `curves` in the order of their rings, holes before the ring they lie in, and
    `shape` the same flattened."""

    shape: shapely.MultiPolygon
    curves: tuple[Curve, ...]

    @property
    def nodes(self) -> int:
        """Nodes of all curves."""
        return sum(len(curve.nodes) for curve in self.curves)


NOTHING = Fitted(shapely.MultiPolygon(), ())


def fitted(
    shape: shapely.MultiPolygon, tolerance_mm: float, keep_corners: bool = True, radius_mm: float = 0.0
) -> Fitted:
    """The polygons as curves that leave them by `tolerance_mm` at most; as they are where that is 0.

    Curves that would cross are fitted again to a quarter of the tolerance, and left straight where even
    that does not help.
    """
    if shape.is_empty:
        return NOTHING
    parts = shapely.get_parts(shape)
    rings = [
        shapely.get_coordinates(ring)[:-1] for part in parts for ring in (*part.interiors, part.exterior)
    ]
    holes = [len(part.interiors) for part in parts]
    for tolerance in (tolerance_mm, tolerance_mm / 4):
        if tolerance <= 0:
            break
        curves = fit_curves(rings, tolerance, keep_corners, radius_mm * RADIUS_MARGIN)
        made = rebuilt(curves, holes)
        if made is not None:
            return Fitted(made, tuple(curves))
    return Fitted(shape, tuple(straight(ring) for ring in rings))


def rebuilt(curves: list[Curve], holes: list[int]) -> shapely.MultiPolygon | None:
    """Polygons of curves, `holes` of each before its outer ring; None where they would not be valid."""
    rings = [curve.flat() for curve in curves]
    if any(len(ring) < 3 for ring in rings):
        return None
    flat = shapely.linearrings(
        np.concatenate(rings), indices=np.repeat(np.arange(len(rings)), [len(ring) for ring in rings])
    )
    polygons, first = [], 0
    for count in holes:
        polygons.append(
            shapely.polygons(flat[first + count], holes=list(flat[first : first + count]) or None)
        )
        first += count + 1
    made = shapely.multipolygons(polygons)
    return polygons_of(made) if shapely.is_valid(made) else None
