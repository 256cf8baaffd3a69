"""Small helps with polygons that every kind of line needs."""

from math import acos, ceil, pi

import numpy as np
import shapely

SAGITTA_MM = 0.003
"""How far a chord may leave the round corner it stands for."""


def polygons_of(shape: shapely.Geometry) -> shapely.MultiPolygon:
    """The polygons of any geometry, points and lines left out."""
    parts = shapely.get_parts(shape)
    return shapely.multipolygons(parts[shapely.get_type_id(parts) == shapely.GeometryType.POLYGON])


def without_holes(shape: shapely.MultiPolygon) -> shapely.MultiPolygon:
    """Polygons with every hole filled, and what lay in it."""
    parts = shapely.get_parts(shape)
    if not shapely.get_num_interior_rings(parts).any():
        return shape
    return outermost(shapely.polygons(shapely.get_exterior_ring(parts)))


def outermost(polygons: np.ndarray) -> shapely.MultiPolygon:
    """Polygons that cross nowhere, without those that lie within another: what uniting them gives, in a part of the
    time."""
    inner, outer = shapely.STRtree(polygons).query(polygons, predicate="covered_by")
    return shapely.multipolygons(np.delete(polygons, inner[inner != outer]))


def reduced(shape: shapely.Geometry, tolerance_mm: float) -> shapely.Geometry:
    """The shape with fewer nodes, none of it moved by more than a tolerance, and still valid.

    Reducing ring by ring takes a third of the time of minding all of them; rings that come to cross are
    rare enough to do it over.
    """
    quick = shapely.simplify(shape, tolerance_mm, preserve_topology=False)
    return quick if shapely.is_valid(quick) else shapely.simplify(shape, tolerance_mm)


def quarter_segments(radius_mm: float, sagitta_mm: float = SAGITTA_MM) -> int:
    """Chords in a quarter turn of `radius_mm` that leave it by `sagitta_mm` at most."""
    if radius_mm <= sagitta_mm:
        return 1
    return max(2, ceil((pi / 2) / (2 * acos(1 - sagitta_mm / radius_mm))))


def node_count(shape: shapely.MultiPolygon) -> int:
    """Nodes of all rings, the closing one of each not counted twice."""
    parts = shapely.get_parts(shape)
    rings = len(parts) + int(np.sum(shapely.get_num_interior_rings(parts)))
    return int(shapely.get_num_coordinates(shape)) - rings


def across(rings: np.ndarray) -> np.ndarray:
    """Diameter of the least circle round each ring."""
    return shapely.minimum_bounding_radius(rings) * 2
