"""The mark as geometry, for cut files and screens, and as a picture, for the sensor to look for."""

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.sheet.marks import Mark, MarkSettings

ROUND = 24


def mark_shape(mark: Mark, settings: MarkSettings) -> shapely.MultiPolygon:
    """Inked area of a mark in sheet mm, and the ring of a ringed one."""
    parts = _parts(settings, mark.corner)
    if mark.kind == "ringed":
        parts.append(_ring(settings.ring_inner_mm, settings.ring_outer_mm))
    whole = shapely.union_all(parts) if settings.drawn == "angle" else shapely.multipolygons(parts)
    return shapely.transform(
        shapely.multipolygons(shapely.get_parts(whole)), lambda xy: xy + (mark.x_mm, mark.y_mm)
    )


def frame_shape(marks: Sequence[Mark], settings: MarkSettings) -> shapely.Polygon | None:
    """The line between the corners of a frame; None for the other schools."""
    if settings.school != "frame" or len(marks) != 4:
        return None
    ring = [(marks[n].x_mm, marks[n].y_mm) for n in (0, 1, 3, 2)]
    return shapely.buffer(shapely.LinearRing(ring), settings.line_mm / 2, join_style="mitre")


def _parts(settings: MarkSettings, corner: tuple[int, int]) -> list[shapely.Polygon]:
    r, half = settings.radius_mm, settings.line_mm / 2
    match settings.drawn:
        case "disc":
            return [shapely.Point(0, 0).buffer(r, quad_segs=ROUND)]
        case "ring":
            return [_ring(r - settings.line_mm, r)]
        case "cross":
            return [shapely.union(shapely.box(-r, -half, r, half), shapely.box(-half, -r, half, r))]
        case "angle":
            along, down = (sorted((-half * way, r * way)) for way in corner)
            arms = shapely.box(along[0], -half, along[1], half), shapely.box(-half, down[0], half, down[1])
            return [shapely.union(*arms)]
        case _:
            quarter = np.linspace(0, np.pi / 2, ROUND + 1)
            arc = r * np.column_stack([np.cos(quarter), np.sin(quarter)])
            return [shapely.Polygon([(0, 0), *(arc * sign)]) for sign in (1, -1)]


def _ring(inner_mm: float, outer_mm: float) -> shapely.Polygon:
    centre = shapely.Point(0, 0)
    return centre.buffer(outer_mm, quad_segs=ROUND).difference(centre.buffer(inner_mm, quad_segs=ROUND))


def mark_picture(
    settings: MarkSettings,
    ringed: bool,
    px_per_mm: float,
    half_mm: float,
    corner: tuple[int, int] = (1, 1),
) -> NDArray[np.float32]:
    """Reflectance 0 to 1 of a mark, centred in a square of 2 `half_mm`, one pixel of soft edge."""
    half = round(half_mm * px_per_mm)
    axis = (np.arange(-half, half + 1, dtype=np.float32)) / np.float32(px_per_mm)
    x, y = axis[None, :], axis[:, None]
    radius = np.hypot(x, y)
    line = np.float32(settings.line_mm / 2)

    def soft(distance_mm: NDArray[np.float32]) -> NDArray[np.float32]:
        return np.clip(distance_mm * np.float32(px_per_mm) + np.float32(0.5), 0, 1)

    within = settings.radius_mm - radius
    match settings.drawn:
        case "disc":
            ink = soft(within)
        case "ring":
            ink = soft(within) * soft(radius - settings.radius_mm + settings.line_mm)
        case "cross":
            inside = settings.radius_mm - np.maximum(np.abs(x), np.abs(y))
            ink = soft(line - np.minimum(np.abs(x), np.abs(y))) * soft(inside)
        case "angle":
            u, v = x * corner[0], y * corner[1]
            across = soft(line - np.abs(v)) * soft(u + line)
            ink = np.maximum(across, soft(line - np.abs(u)) * soft(v + line))
            if settings.school != "frame":  # a frame's line goes on
                ink = ink * soft(settings.radius_mm - np.maximum(np.abs(x), np.abs(y)))
        case _:
            # Positive in the inked quarters, by the distance to the nearer axis.
            ink = soft(np.sign(x * y) * np.minimum(np.abs(x), np.abs(y))) * soft(within)
    if ringed:
        ink = np.maximum(ink, soft(radius - settings.ring_inner_mm) * soft(settings.ring_outer_mm - radius))
    return (1 - ink).astype(np.float32)
