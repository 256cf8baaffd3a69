"""Marks as content of a PDF."""

from collections.abc import Sequence

import shapely

from perisect.core.sheet import Mark, MarkSettings, Stock
from perisect.core.sheet.mark_pattern import pattern_of
from perisect.core.sheet.mark_shape import mark_shape
from perisect.core.units import POINTS_PER_MM


def draw_marks(marks: Sequence[Mark], settings: MarkSettings, stock: Stock) -> str:
    """Operators that clear the zone of every mark and draw it: quartered discs as true curves, other shapes as the
    polygons they are."""
    quartered = [mark for mark in marks if mark.shape == "quartered"]
    others = [mark for mark in marks if mark.shape != "quartered"]
    shapes = [shape for mark in others for shape in shapely.get_parts(mark_shape(mark, settings))]
    line = pattern_of(settings).joining_line(marks, settings)
    shapes += [] if line is None else [line]
    parts = [_cleared(marks, settings, stock)]
    parts += [_draw_quartered(quartered, settings, stock)] if quartered else []
    parts += [_draw_shapes(shapes, stock)] if shapes else []
    return "\n".join(parts)


def _cleared(marks: Sequence[Mark], settings: MarkSettings, stock: Stock) -> str:
    """Paper round every mark: bleed or ground that reaches in there would blind the sensor."""
    k = POINTS_PER_MM
    circle = _circle(settings.clear_mm * k)
    parts = [
        f"q 1 0 0 1 {mark.x_mm * k:.4f} {(stock.height_mm - mark.y_mm) * k:.4f} cm {circle} f Q"
        for mark in marks
    ]
    return "\n".join(["q 1 g", *parts, "Q"])


_ARC = 0.5522847498
"""Length of the handles of a quarter circle drawn as one Bézier curve, in radii."""


def _draw_shapes(shapes: Sequence[shapely.Polygon], stock: Stock) -> str:
    k, parts = POINTS_PER_MM, ["q 0 g"]
    for shape in shapes:
        for ring in (shape.exterior, *shape.interiors):
            steps = [f"{x * k:.4f} {(stock.height_mm - y) * k:.4f} l" for x, y in ring.coords[:-1]]
            steps[0] = steps[0][:-1] + "m"
            parts.append(" ".join(steps) + " h")
        parts.append("f*")
    return "\n".join([*parts, "Q"])


def _draw_quartered(marks: Sequence[Mark], settings: MarkSettings, stock: Stock) -> str:
    k = POINTS_PER_MM
    parts = ["q 0 g 0 G"]
    r, h = settings.radius_mm * k, settings.radius_mm * k * _ARC
    ring = (settings.ring_inner_mm + settings.ring_outer_mm) / 2 * k
    for mark in marks:
        parts.append(f"q 1 0 0 1 {mark.x_mm * k:.4f} {(stock.height_mm - mark.y_mm) * k:.4f} cm")
        # Upper left and lower right quarters.
        parts.append(f"0 0 m {-r:.4f} 0 l {-r:.4f} {h:.4f} {-h:.4f} {r:.4f} 0 {r:.4f} c h f")
        parts.append(f"0 0 m {r:.4f} 0 l {r:.4f} {-h:.4f} {h:.4f} {-r:.4f} 0 {-r:.4f} c h f")
        if mark.kind == "ringed":
            parts.append(f"{(settings.ring_outer_mm - settings.ring_inner_mm) * k:.4f} w {_circle(ring)} S")
        parts.append("Q")
    return "\n".join([*parts, "Q"])


def _circle(r: float) -> str:
    h = r * _ARC
    return (
        f"{r:.4f} 0 m {r:.4f} {h:.4f} {h:.4f} {r:.4f} 0 {r:.4f} c "
        f"{-h:.4f} {r:.4f} {-r:.4f} {h:.4f} {-r:.4f} 0 c "
        f"{-r:.4f} {-h:.4f} {-h:.4f} {-r:.4f} 0 {-r:.4f} c "
        f"{h:.4f} {-r:.4f} {r:.4f} {-h:.4f} {r:.4f} 0 c h"
    )
