"""The last word on a layout, measured exactly: who stands free and inside."""

from collections.abc import Mapping, Sequence

import numpy as np
import shapely

from perisect.core.sheet.placement import Placement, placed
from perisect.core.sheet.usable import UsableArea

TOLERANCE_MM = 1e-6


def keep_clear(
    area: UsableArea, shapes: Mapping[str, shapely.Polygon], laid: Sequence[Placement], gap_mm: float
) -> list[Placement]:
    """The pieces that lie in the area and keep their gap; of two too close, the one met more often goes."""
    standing = np.array([placed(shapes[piece.key], piece) for piece in laid])
    inside = np.flatnonzero(area.hold(standing)).tolist() if len(standing) else []
    kept = set(inside)
    for a, b in too_close(standing[inside], gap_mm):
        first, second = inside[a], inside[b]
        if first in kept and second in kept:
            kept.discard(second)
    return [piece for n, piece in enumerate(laid) if n in kept]


def too_close(shapes: np.ndarray, gap_mm: float) -> list[tuple[int, int]]:
    """Pairs of shapes (n,) nearer to each other than the gap, first index below second."""
    if len(shapes) < 2:
        return []
    tree = shapely.STRtree(shapes)
    a, b = tree.query(shapes, predicate="dwithin", distance=max(gap_mm, TOLERANCE_MM))
    first, second = a[a < b], b[a < b]
    if not len(first):
        return []
    distance = shapely.distance(shapes[first], shapes[second])
    overlap = shapely.area(shapely.intersection(shapes[first], shapes[second])) if gap_mm == 0 else 0.0
    near = (distance < gap_mm - TOLERANCE_MM) | (np.asarray(overlap) > TOLERANCE_MM)
    return list(zip(first[near].tolist(), second[near].tolist(), strict=True))
