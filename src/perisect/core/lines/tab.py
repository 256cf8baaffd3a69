"""A tab to pull at and a hole to hang by."""

import numpy as np
import shapely

from perisect.core.lines.polygons import polygons_of, quarter_segments
from perisect.core.lines.recipe import HangRecipe, TabRecipe
from perisect.core.lines.smooth import resampled

STEP_MM = 0.5
BEND_DEG = 2.0
"""A turn of more than this from one step to the next is a bend that a tab keeps away from."""


def with_tab(shape: shapely.MultiPolygon, tab: TabRecipe, longest_mm: float) -> shapely.MultiPolygon:
    """The shape united with a rounded tab; every piece of it gets one."""
    parts = [shapely.union(part, _tab_on(part, tab, longest_mm)) for part in shapely.get_parts(shape)]
    return polygons_of(shapely.union_all(parts))


def _tab_on(part: shapely.Polygon, tab: TabRecipe, longest_mm: float) -> shapely.Polygon:
    ring = shapely.get_coordinates(part.exterior)[:-1]
    points = resampled(ring, STEP_MM)
    at = calmest(points, tab.width_mm) if tab.near is None else _nearest(points, tab.near, longest_mm)
    reach = max(1, round(tab.width_mm / 2 / STEP_MM))
    along = points[(at + reach) % len(points)] - points[(at - reach) % len(points)]
    along = along / max(float(np.hypot(*along)), 1e-9)
    out = np.array([along[1], -along[0]])
    middle = points[at]
    if part.contains(shapely.Point(*(middle + out * 0.05))):
        out = -out
    # The tab begins well inside, so that it grows out of a curved edge without a gap.
    inner, outer = middle - out * tab.width_mm, middle + out * tab.length_mm
    half = along * tab.width_mm / 2
    corners = np.array([inner - half, outer - half, outer + half, inner + half])
    radius = min(tab.width_mm / 2, tab.length_mm) * 0.98
    body = shapely.polygons(corners)
    rounded = shapely.buffer(shapely.buffer(body, -radius), radius, quad_segs=quarter_segments(radius))
    return shapely.union(rounded, shapely.intersection(body, part))


def _nearest(points: np.ndarray, near: tuple[float, float], longest_mm: float) -> int:
    return int(np.hypot(*(points - np.array(near) * longest_mm).T).argmin())


def calmest(points: np.ndarray, width_mm: float) -> int:
    """Where a ring of even steps is straightest over a width: least turning."""
    ahead = np.roll(points, -1, axis=0) - points
    direction = np.arctan2(ahead[:, 1], ahead[:, 0])
    turn = np.abs((np.diff(direction, append=direction[:1]) + np.pi) % (2 * np.pi) - np.pi)
    reach = max(1, round(width_mm / STEP_MM))
    around = np.concatenate([turn[-reach:], turn, turn[:reach]])
    total = np.convolve(around, np.ones(2 * reach + 1), mode="valid")
    # Of equally calm places the middle of the longest calm stretch, and of those the lowest.
    bends = np.flatnonzero(turn > np.radians(BEND_DEG))
    count = len(points)
    away = np.abs((np.arange(count)[:, None] - bends + count / 2) % count - count / 2).min(
        axis=1, initial=count
    )
    return int(np.lexsort((-points[:, 1], -np.round(away / 4), np.round(total, 2)))[0])


def hanging_hole(shape: shapely.MultiPolygon, hang: HangRecipe, longest_mm: float) -> shapely.Polygon:
    """The hole: its edge `from_edge_mm` inside the outer line, straight below the top or from a place of it."""
    part = max(shapely.get_parts(shape), key=shapely.area)
    points = resampled(shapely.get_coordinates(part.exterior)[:-1], STEP_MM)
    deep = hang.from_edge_mm + hang.diameter_mm / 2
    if hang.near is None:
        middle_x = (part.bounds[0] + part.bounds[2]) / 2
        column = shapely.intersection(shapely.LineString([(middle_x, -9999), (middle_x, 9999)]), part)
        top = column.bounds[1] if not column.is_empty else part.bounds[1]
        centre = np.array([middle_x, top + deep])
    else:
        at = _nearest(points, hang.near, longest_mm)
        along = points[(at + 2) % len(points)] - points[at - 2]
        inward = np.array([-along[1], along[0]]) / max(float(np.hypot(*along)), 1e-9)
        if not part.contains(shapely.Point(*(points[at] + inward * 0.05))):
            inward = -inward
        centre = points[at] + inward * deep
    radius = hang.diameter_mm / 2
    return shapely.buffer(shapely.Point(*centre), radius, quad_segs=max(8, quarter_segments(radius)))
