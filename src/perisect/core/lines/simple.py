"""Simple shapes as the cut line in place of the contour."""

import cv2
import numpy as np
import shapely

from perisect.core.lines.polygons import quarter_segments


def simple_shape(
    outline: shapely.MultiPolygon, kind: str, border_mm: float, radius_mm: float
) -> shapely.MultiPolygon:
    """The least circle, oval or box round an outline, grown by a border.

    The oval has the sides of the outline's box and is grown about its middle until it holds the outline;
    a rounded box has corners of `radius_mm`, never so round that they cut into the outline's box.
    """
    left, top, right, bottom = outline.bounds
    hull = shapely.get_coordinates(shapely.convex_hull(outline))
    if kind == "circle":
        (x, y), radius = cv2.minEnclosingCircle(hull.astype(np.float32))
        return _polygon(
            shapely.buffer(shapely.Point(x, y), radius + border_mm, quad_segs=_fine(radius + border_mm))
        )
    middle, half = np.array([left + right, top + bottom]) / 2, np.array([right - left, bottom - top]) / 2
    if kind == "ellipse":
        half = half * float(np.hypot(*((hull - middle) / half).T).max()) + border_mm
        if half.min() <= 0:
            return shapely.MultiPolygon()
        count = 4 * _fine(float(half.max()))
        turn = np.arange(count) * 2 * np.pi / count
        return _polygon(shapely.polygons(middle + half * np.column_stack([np.cos(turn), np.sin(turn)])))
    half = half + border_mm
    if half.min() <= 0:
        return shapely.MultiPolygon()
    box = shapely.box(*(middle - half), *(middle + half))
    if kind == "rectangle":
        return _polygon(box)
    most = border_mm * (2 + 2**0.5) if border_mm > 0 else 0.0
    radius = min(radius_mm, most, float(half.min()) * 0.999)
    if radius <= 0:
        return _polygon(box)
    inner = shapely.box(*(middle - half + radius), *(middle + half - radius))
    return _polygon(shapely.buffer(inner, radius, quad_segs=quarter_segments(radius)))


def _fine(radius_mm: float) -> int:
    return quarter_segments(max(radius_mm, 0.01))


def _polygon(shape: shapely.Geometry) -> shapely.MultiPolygon:
    return shapely.multipolygons([shape]) if not shape.is_empty else shapely.MultiPolygon()
