"""A piece with half its gap, as searches take it."""

import numpy as np
import shapely

SIMPLIFY_MM = 0.04


def with_half_gap(shape: shapely.Polygon, gap_mm: float) -> shapely.Polygon:
    """Half the gap round a shape with few nodes, never less: two of these that do not overlap keep the gap."""
    grown = shapely.buffer(shape, gap_mm / 2 + SIMPLIFY_MM, quad_segs=8)
    simple = shapely.simplify(grown, SIMPLIFY_MM)
    return shapely.Polygon(np.asarray(simple.exterior.coords))
