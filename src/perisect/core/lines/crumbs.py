"""Pieces of a line too small for the knife: what an inward border leaves of thin parts."""

import numpy as np
import shapely

from perisect.core.lines.polygons import across

Place = tuple[float, float]


def without_crumbs(
    shape: shapely.MultiPolygon, smallest_mm: float
) -> tuple[shapely.MultiPolygon, tuple[Place, ...]]:
    """The pieces at least `smallest_mm` across, the largest always; and a place in each that is left out, mm."""
    parts = shapely.get_parts(shape)
    if len(parts) < 2:
        return shape, ()
    small = across(parts) < smallest_mm
    small[int(np.argmax(shapely.area(parts)))] = False
    if not small.any():
        return shape, ()
    places = shapely.get_coordinates(shapely.point_on_surface(parts[small]))
    return shapely.multipolygons(parts[~small]), tuple((float(x), float(y)) for x, y in places)
