"""Parts of a shape narrower than a limit: what an opening by half of it takes away."""

from dataclasses import dataclass

import numpy as np
import shapely

DETAIL = 0.06
"""Before it is opened a shape is reduced by this share of the limit: time goes with its nodes."""


@dataclass(frozen=True)
class ThinPart:
    """A part of a shape narrower than the limit: its area and a place on it, mm."""

    area_mm2: float
    where_mm: tuple[float, float]


def thin_parts(shape: shapely.Geometry, limit_mm: float) -> tuple[ThinPart, ...]:
    """Parts narrower than `limit_mm`, the largest first.

    An opening also clips sharp tips; only what is longer than the limit is a part of its own.
    """
    half = limit_mm / 2
    plain = shapely.simplify(shape, DETAIL * limit_mm)
    opened = shapely.buffer(shapely.buffer(plain, -half, quad_segs=4), half * 1.02, quad_segs=4)
    left = shapely.get_parts(shapely.difference(plain, opened))
    left = left[shapely.get_type_id(left) == shapely.GeometryType.POLYGON]
    if len(left) == 0:
        return ()
    # A strip's length is half of its rim.
    long = left[(shapely.length(left) / 2 > 2 * limit_mm) & (shapely.area(left) > limit_mm**2 / 4)]
    order = np.argsort(-shapely.area(long))
    places = shapely.get_coordinates(shapely.point_on_surface(long[order])) if len(long) else np.empty((0, 2))
    return tuple(
        ThinPart(float(area), (float(x), float(y)))
        for area, (x, y) in zip(shapely.area(long[order]), places, strict=True)
    )
