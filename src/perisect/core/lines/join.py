"""The least border that makes one piece of loose parts."""

import heapq

import numpy as np
import shapely

MOST_PARTS = 400


def least_joining_border(outline: shapely.MultiPolygon) -> float | None:
    """Half the longest edge of the minimum spanning tree of the gaps between parts, mm.

    Kruskal's algorithm with distances found only when they are needed: a pair waits under the distance
    of its boxes, which is never more than its own. None for one part, or for so many that they are
    specks rather than parts.
    """
    parts = shapely.get_parts(outline)
    count = len(parts)
    if not 1 < count <= MOST_PARTS:
        return None
    shapely.prepare(parts)
    box = shapely.bounds(parts)
    i, j = np.triu_indices(count, 1)
    apart = np.maximum(np.maximum(box[i, :2] - box[j, 2:], box[j, :2] - box[i, 2:]), 0)
    queue = [
        (float(away), False, a, b)
        for away, a, b in zip(np.hypot(*apart.T), i.tolist(), j.tolist(), strict=True)
    ]
    heapq.heapify(queue)
    leader = list(range(count))

    def find(n: int) -> int:
        while leader[n] != n:
            leader[n] = leader[leader[n]]
            n = leader[n]
        return n

    joined = 1
    while queue:
        away, exact, a, b = heapq.heappop(queue)
        first, second = find(a), find(b)
        if first == second:
            continue
        if not exact:
            heapq.heappush(queue, (float(shapely.distance(parts[a], parts[b])), True, a, b))
            continue
        leader[first] = second
        joined += 1
        if joined == count:
            return away / 2
    return None
