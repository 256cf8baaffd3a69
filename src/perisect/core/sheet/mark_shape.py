"""The mark as geometry, for cut files and screens, and as a picture, for the sensor to look for."""

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.sheet.marks import Mark, MarkSettings


def mark_shape(mark: Mark, settings: MarkSettings) -> shapely.MultiPolygon:
    """Inked area of a mark in sheet mm: upper left and lower right quarters, and the ring of a ringed one."""
    quarter = np.linspace(0, np.pi / 2, 25)
    arc = settings.radius_mm * np.column_stack([np.cos(quarter), np.sin(quarter)])
    parts = [shapely.Polygon([(0, 0), *(arc * sign)]) for sign in (1, -1)]
    if mark.kind == "ringed":
        outer = shapely.Point(0, 0).buffer(settings.ring_outer_mm, quad_segs=24)
        inner = shapely.Point(0, 0).buffer(settings.ring_inner_mm, quad_segs=24)
        parts.append(outer.difference(inner))
    return shapely.transform(shapely.multipolygons(parts), lambda xy: xy + (mark.x_mm, mark.y_mm))


def mark_picture(
    settings: MarkSettings, ringed: bool, px_per_mm: float, half_mm: float
) -> NDArray[np.float32]:
    """Reflectance 0 to 1 of a mark, centred in a square of 2 `half_mm`, one pixel of soft edge."""
    half = round(half_mm * px_per_mm)
    axis = (np.arange(-half, half + 1, dtype=np.float32)) / np.float32(px_per_mm)
    x, y = axis[None, :], axis[:, None]
    radius = np.hypot(x, y)

    def soft(distance_mm: NDArray[np.float32]) -> NDArray[np.float32]:
        return np.clip(distance_mm * np.float32(px_per_mm) + np.float32(0.5), 0, 1)

    # Positive in the inked quarters, by the distance to the nearer axis.
    quarters = np.sign(x * y) * np.minimum(np.abs(x), np.abs(y))
    ink = soft(quarters) * soft(settings.radius_mm - radius)
    if ringed:
        ink = np.maximum(ink, soft(radius - settings.ring_inner_mm) * soft(settings.ring_outer_mm - radius))
    return (1 - ink).astype(np.float32)
