"""Necks and slots: where a line comes near itself, inside the piece or outside of it."""

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from perisect.core.lines.smooth import resampled

STEP_SHARE = 0.1
"""Points along the line lie this share of the limit apart."""

FAR_SHARE = 2.0
"""Along the line the two sides are at least this many limits apart; nearer, they are one corner."""

NARROWING = 0.05
"""A corner narrows all the way to its tip; a neck is as narrow further back, to within this many limits."""

SAMPLES = np.array([0.12, 0.3, 0.5, 0.7, 0.88])
"""Where on the way across it is looked whether that lies inside or outside."""

MOST_POINTS = 60_000
MOST_PAIRS = 100_000


@dataclass(frozen=True)
class Narrow:
    """A place where two sides of a line come near: how near, and the middle between them, mm."""

    width_mm: float
    where_mm: tuple[float, float]


@dataclass(frozen=True)
class NarrowPlaces:
    """Necks lie inside the piece, slots outside of it; the narrowest first. `given_up`: too long to search."""

    necks: tuple[Narrow, ...] = ()
    slots: tuple[Narrow, ...] = ()
    given_up: bool = False


def narrow_places(shape: shapely.MultiPolygon, limit_mm: float) -> NarrowPlaces:
    """Places narrower than `limit_mm`.

    Points an even step apart along every ring are paired across up to the limit. Pairs whose straight
    middle lies inside are necks, outside slots; pairs that hang together are one place. A corner is none:
    its sides are near along the line as well, or come nearer all the way to where they meet.
    """
    rings = shapely.get_rings(shapely.get_parts(shape))
    step = STEP_SHARE * limit_mm
    if shapely.length(rings).sum() / step > MOST_POINTS:
        return NarrowPlaces(given_up=True)
    laid = [resampled(shapely.get_coordinates(ring)[:-1], step) for ring in rings]
    count = np.array([len(points) for points in laid])
    ring = np.repeat(np.arange(len(laid)), count)
    start = np.concatenate([[0], np.cumsum(count)[:-1]])
    points = np.concatenate(laid)
    pairs = cKDTree(points).query_pairs(limit_mm, output_type="ndarray")
    if len(pairs) == 0:
        return NarrowPlaces()
    i, j = pairs[:, 0], pairs[:, 1]
    same = ring[i] == ring[j]
    ahead = np.abs((i - start[ring[i]]) - (j - start[ring[j]]))
    apart = np.where(same, np.minimum(ahead, count[ring[i]] - ahead) * step, np.inf)
    far = apart > FAR_SHARE * limit_mm
    i, j, apart = i[far], j[far], apart[far]
    if len(i) == 0:
        return NarrowPlaces()
    if len(i) > MOST_PAIRS:
        return NarrowPlaces(given_up=True)
    width = np.hypot(*(points[i] - points[j]).T)
    middle = (points[i] + points[j]) / 2
    shapely.prepare(shape)
    # The way across lies inside all along, or outside all along; one that crosses the line is neither.
    way = points[i] + SAMPLES[:, None, None] * (points[j] - points[i])
    covered = shapely.contains_xy(shape, way.reshape(-1, 2)).reshape(len(SAMPLES), -1)
    necks, slots = (
        _places(i[side], j[side], width[side], apart[side], middle[side], limit_mm, start, count)
        for side in (covered.all(axis=0), ~covered.any(axis=0))
    )
    return NarrowPlaces(necks, slots)


def _places(
    i: NDArray[np.int64],
    j: NDArray[np.int64],
    width: NDArray[np.float64],
    apart: NDArray[np.float64],
    middle: NDArray[np.float64],
    limit_mm: float,
    start: NDArray[np.int64],
    count: NDArray[np.int64],
) -> tuple[Narrow, ...]:
    """One place for each group of pairs whose points are neighbours along the line."""
    if len(i) == 0:
        return ()
    group = _groups(i, j, start, count)
    found = []
    for n in np.unique(group):
        members = np.flatnonzero(group == n)
        narrowest = members[width[members].argmin()]
        back = members[apart[members] > 2 * FAR_SHARE * limit_mm]
        if len(back) == 0 or width[back].min() > width[narrowest] + NARROWING * limit_mm:
            continue
        found.append(
            Narrow(float(width[narrowest]), (float(middle[narrowest, 0]), float(middle[narrowest, 1])))
        )
    return tuple(sorted(found, key=lambda place: place.width_mm))


def _groups(
    i: NDArray[np.int64],
    j: NDArray[np.int64],
    start: NDArray[np.int64],
    count: NDArray[np.int64],
) -> NDArray[np.int32]:
    """Pairs that share a point or have neighbouring points belong together."""
    total = int(count.sum())
    points = np.arange(total)
    following = points + 1
    last = start + count - 1
    following[last] = start
    used = np.zeros(total, bool)
    used[i] = used[j] = True
    near = used & used[following]
    # Points are joined along the line, and across by each pair; the groups are those of the graph.
    rows = np.concatenate([points[near], i])
    columns = np.concatenate([following[near], j])
    graph = coo_matrix((np.ones(len(rows), np.int8), (rows, columns)), shape=(total, total))
    return connected_components(graph, directed=False)[1][i]
