"""A die as it is drawn: pieces of lines put together to loops, loops within loops to shapes."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

Points = NDArray[np.float64]
MOST_LOOPS = 2000
"""More of them are a hatch or a drawing, and no die."""


class NoDie(ValueError):
    """More loops than a die has."""


@dataclass(frozen=True)
class DieShape:
    """What closed lines go round, and (n, 2) points of the lines that stay open."""

    shape: shapely.MultiPolygon
    open: tuple[Points, ...]


def die_shape(paths: Sequence[Points], snap: float) -> DieShape:
    """Lines that meet joined to loops; a loop within a loop is its hole, one within the hole a piece again, and loops
    that cross are one.

    Args:
        paths: (n, 2) points each.
        snap: ends so near each other are one place.

    Raises:
        NoDie.
    """
    loose = [path for path in paths if not _is_closed(path, snap)]
    joined = _joined(loose, snap)
    closed = [path for path in (*paths, *joined) if _is_closed(path, snap)]
    if len(closed) > MOST_LOOPS:
        raise NoDie("too many loops")
    rings = [shapely.make_valid(shapely.Polygon(path)) for path in closed if len(path) > 3]
    parts = shapely.get_parts(shapely.get_parts(np.array(rings, dtype=object)))
    areas = parts[shapely.get_type_id(parts) == shapely.GeometryType.POLYGON]
    return DieShape(_levelled(areas), tuple(path for path in joined if not _is_closed(path, snap)))


def _is_closed(path: Points, snap: float) -> bool:
    return len(path) > 2 and bool(np.hypot(*(path[0] - path[-1])) <= snap)


def _joined(paths: Sequence[Points], snap: float) -> list[Points]:
    """Lines end to end, their ends first put on the same point where they are as near as that."""
    if not paths:
        return []
    ends = np.array([path[end] for path in paths for end in (0, -1)])
    first = np.array([min(near) for near in cKDTree(ends).query_ball_point(ends, snap)])
    met = ends[first].reshape(-1, 2, 2)
    lines = [np.vstack([on[:1], path[1:-1], on[1:]]) for path, on in zip(paths, met, strict=True)]
    whole = [line for line in lines if len(line) > 2 or np.any(line[0] != line[-1])]
    merged = shapely.get_parts(shapely.line_merge(shapely.MultiLineString(whole)))
    return [shapely.get_coordinates(line) for line in merged]


def _levelled(areas: NDArray[np.object_]) -> shapely.MultiPolygon:
    """Areas by how many others hold them: even levels are there, odd ones are holes."""
    if not len(areas):
        return shapely.MultiPolygon()
    inner, outer = shapely.STRtree(areas).query(areas, predicate="within")
    apart = shapely.area(areas[outer]) > shapely.area(areas[inner])
    depth = np.bincount(inner[apart], minlength=len(areas))
    shape: shapely.Geometry = shapely.MultiPolygon()
    for level in range(int(depth.max()) + 1):
        at = shapely.union_all(areas[depth == level])
        shape = shapely.difference(shape, at) if level % 2 else shapely.union(shape, at)
    parts = shapely.get_parts(shape)
    return shapely.multipolygons(parts[shapely.get_type_id(parts) == shapely.GeometryType.POLYGON])
