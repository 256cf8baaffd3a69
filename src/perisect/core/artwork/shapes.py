"""A drawing's own shapes as its outline: the union of what it fills and strokes.

Only plain drawings are taken so: fills and strokes. What could make part of a shape invisible (clips,
masks, filters, text, pictures) leaves the outline to the trace, and so does any difference between the
shapes and what was rendered. Dashed or transparent parts are left out, and must lie on solid ones.
"""

import io
import re
import xml.etree.ElementTree as ET
from dataclasses import dataclass
from math import acos, ceil

import cv2
import numpy as np
import shapely
import svgelements as svg
from numpy.typing import NDArray

from perisect.core.artwork.drawing import DrawnPath, drawn_paths
from perisect.core.artwork.preview import shrunk_alpha

FLATNESS_PX = 0.012
"""How far a chord may leave its curve, px of the rendering: 0.003 mm on a piece of 400 mm."""

MOST_POINTS = 60_000
NUMBERS_OF_CURVE, NUMBERS_OF_LINE = 6, 2
"""Numbers that path data needs for a point: of a cubic curve at most, of a line."""
MAX_CROSSINGS = 2_000_000
"""Most crossings among the segments of a path whose faces are worked out. Chosen: GEOS takes some 2 s for as many, and
6 GB for a hundred times as many; no drawing that a knife follows has a thousandth of them."""
SAMPLED = 200
"""Segments whose crossings are counted to estimate all."""
MOST_FACES = 4000
CHECK_PX = 900
ODD = (ValueError, ArithmeticError, AttributeError, TypeError, LookupError, RecursionError)
"""What the parser raises when an odd attribute leads it astray; a trace of the rendering can tell still."""

_NOT_PLAIN = {
    "image", "text", "tspan", "mask", "clipPath", "filter", "pattern", "marker", "switch", "animate",
    "animateTransform", "set",
}  # fmt: skip
_CAPS = {"butt": "flat", "round": "round", "square": "square"}
_JOINS = {"miter": "mitre", "round": "round", "bevel": "bevel"}


@dataclass(frozen=True)
class Shapes:
    """A drawing's outline in px of its rendering, and its paths where all of them are plainly painted."""

    outline: shapely.MultiPolygon
    paths: tuple[DrawnPath, ...] | None


def shapes_of(root: ET.Element, text: str, rgba: NDArray[np.uint8]) -> Shapes | None:
    """Shapes of a rendered drawing, or None when only a trace of the rendering can tell its outline.

    Args:
        root, text: the drawing.
        rgba: (h, w, 4) as rendered.
    """
    if not _is_plain(root) or _has_too_many_points(root):
        return None
    try:
        drawing = svg.SVG.parse(io.StringIO(text), reify=True)
        scale = rgba.shape[1] / float(drawing.width)
        shapes = [element for element in drawing.elements() if isinstance(element, svg.Shape)]
        parts = [_shape(element, scale) for element in shapes]
        vague = np.array([_is_vague(element) for element in shapes], bool)
        opaque = all(_is_opaque(_told(element)) for element in shapes)
        paths = drawn_paths(shapes, scale) if opaque else None
    except ODD:
        return None
    if not parts or any(part is None for part in parts):
        return None
    canvas = shapely.box(0, 0, rgba.shape[1], rgba.shape[0])
    solid = np.array(parts, object)
    outline = shapely.intersection(shapely.union_all(solid[~vague]), canvas)
    if vague.any():
        beyond = shapely.difference(shapely.union_all(solid[vague]), shapely.buffer(outline, FLATNESS_PX))
        if not shapely.intersection(beyond, canvas).is_empty:
            return None
    found = shapely.get_parts(outline)
    polygons = shapely.multipolygons(found[shapely.get_type_id(found) == shapely.GeometryType.POLYGON])
    return Shapes(polygons, paths) if _agrees(polygons, rgba) else None


def paths_of(text: str, width_px: int) -> list[NDArray[np.float64]]:
    """(n, 2) points, px of a rendering so wide, of every path in a drawing, however it is painted; a closed one ends
    where it begins. What no plain path tells is left out.

    Args:
        text: the drawing, its size said in px.
    """
    try:
        if _has_too_many_points(ET.fromstring(text)):
            return []
        drawing = svg.SVG.parse(io.StringIO(text), reify=True)
        scale = width_px / float(drawing.width)
        shapes = [each for each in drawing.elements() if isinstance(each, svg.Shape)]
        every = [abs(svg.Path(each)) for each in shapes]
        return [ring * scale for path in every for ring in _rings(path, FLATNESS_PX / scale) if len(ring) > 1]
    except ODD:
        return []


def _has_too_many_points(root: ET.Element) -> bool:
    """Return whether path data is longer than what is followed: it is counted before it is parsed, which takes Python
    some 50 microseconds a point."""
    points = 0
    for element in root.iter():
        data = element.get("d") or element.get("points") or ""
        each = NUMBERS_OF_CURVE if re.search(r"[CcSsQqTtAa]", data) else NUMBERS_OF_LINE
        points += len(re.findall(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?", data)) // each
    return points > MOST_POINTS


def _is_plain(root: ET.Element) -> bool:
    inner = 0
    for element in root.iter():
        name = str(element.tag).rsplit("}", 1)[-1]
        inner += name == "svg"
        if name in _NOT_PLAIN or inner > 1:
            return False
        told = " ".join(f"{key.rsplit('}', 1)[-1]}:{value};" for key, value in element.attrib.items())
        told += element.text or "" if name == "style" else ""
        if re.search(r"(clip-path|mask|filter|marker(-\w+)?)\s*:\s*url", told):
            return False
        if re.search(r"vector-effect|paint-order|mix-blend-mode|visibility\s*:\s*(hidden|collapse)", told):
            return False
        if name in ("stop", "style", "g", "svg", "use") and not _is_opaque(told):
            return False
    return True


def _is_opaque(told: str) -> bool:
    shares = re.findall(r"opacity['\"]?\s*:\s*['\"]?([\d.]+%?)", told)
    return not re.search(r"(rgba|hsla)\s*\(|:\s*transparent", told) and all(
        float(share.rstrip("%")) >= (100 if share.endswith("%") else 1) for share in shares
    )


def _told(element: svg.Shape) -> str:
    return " ".join(f"{key}:{value};" for key, value in element.values.items() if isinstance(value, str))


def _is_vague(element: svg.Shape) -> bool:
    """Whether part of what an element covers may be clear."""
    dashes = str(element.values.get("stroke-dasharray") or "none").strip()
    colours = [
        paint for paint in (element.fill, element.stroke) if paint is not None and paint.value is not None
    ]
    return dashes != "none" or not _is_opaque(_told(element)) or any(paint.alpha < 255 for paint in colours)


def _shape(element: svg.Shape, scale: float) -> shapely.Geometry | None:
    """What one element covers; None when that cannot be told."""
    path = abs(svg.Path(element))
    values = element.values
    rings = [r * scale for r in _rings(path, FLATNESS_PX / scale)]
    covered: list[shapely.Geometry] = []
    if (element.fill is not None and element.fill.value is not None) or str(
        values.get("fill", "")
    ).startswith("url("):
        filled = _filled(rings, values.get("fill-rule", "nonzero"))
        if filled is None:
            return None
        covered.append(filled)
    has_stroke = element.stroke is not None and element.stroke.value is not None
    if has_stroke or str(values.get("stroke", "")).startswith("url("):
        m = element.transform
        if abs(np.hypot(m.a, m.b) - np.hypot(m.c, m.d)) > 1e-6 or abs(m.a * m.c + m.b * m.d) > 1e-6:
            return None  # a pen squeezed by the transform
        width = float(element.implicit_stroke_width or 0) * scale
        join = _JOINS.get(str(values.get("stroke-linejoin", "miter")))
        cap = _CAPS.get(str(values.get("stroke-linecap", "butt")))
        if join is None or cap is None:
            return None
        lines = [shapely.linestrings(ring) for ring in rings if len(ring) > 1]
        limit = float(values.get("stroke-miterlimit", 4))
        quarter = max(
            4, ceil((np.pi / 2) / (2 * acos(max(0.0, 1 - FLATNESS_PX / max(width / 2, FLATNESS_PX))) or 1))
        )
        if width > 0 and lines:
            covered.extend(
                shapely.buffer(
                    np.array(lines, object),
                    width / 2,
                    quad_segs=quarter,
                    cap_style=cap,
                    join_style=join,
                    mitre_limit=limit,
                )
            )
    return shapely.union_all(covered)


def _rings(path: svg.Path, flatness: float) -> list[NDArray[np.float64]]:
    """(n, 2) points of every subpath; a closed one ends where it begins."""
    rings = []
    for sub in path.as_subpaths():
        points: list[NDArray[np.float64]] = []
        for segment in svg.Path(sub):
            if isinstance(segment, svg.Move):
                points.append(np.array([[segment.end.x, segment.end.y]]))
            elif isinstance(segment, (svg.Line, svg.Close)):
                if segment.end is not None:
                    points.append(np.array([[segment.end.x, segment.end.y]]))
            else:
                count = _chords(segment, flatness)
                points.append(np.asarray(segment.npoint(np.linspace(0, 1, count + 1)[1:])).reshape(-1, 2))
        if points:
            ring = np.concatenate(points)
            rings.append(ring[np.r_[True, np.any(np.diff(ring, axis=0) != 0, axis=1)]])
    if sum(len(ring) for ring in rings) > MOST_POINTS:
        raise ValueError("too many points")
    return rings


def _chords(segment: svg.Curve, flatness: float) -> int:
    """Chords that keep within `flatness`: from the sagitta of an arc, or the second differences of a
    Bézier curve's handles (the usual bound on a curve's distance from its chord)."""
    if isinstance(segment, svg.Arc):
        radius = max(float(segment.rx), float(segment.ry), flatness)
        step = 2 * acos(max(-1.0, 1 - flatness / radius))
        return min(4000, max(2, ceil(abs(float(segment.sweep)) / step)))
    points = [
        segment.start,
        *(getattr(segment, n) for n in ("control", "control1", "control2") if hasattr(segment, n)),
        segment.end,
    ]
    handles = np.array([[p.x, p.y] for p in points], float)
    bend = float(np.hypot(*np.diff(handles, 2, axis=0).T).max())
    degree = len(handles) - 1
    return min(4000, max(1, ceil((degree * (degree - 1) * bend / (8 * flatness)) ** 0.5)))


def _filled(rings: list[NDArray[np.float64]], rule: str) -> shapely.Geometry | None:
    """The area a path fills: faces of its noded lines, each by its winding number."""
    rings = [np.vstack([ring, ring[:1]]) for ring in rings if len(ring) > 2]
    if not rings:
        return shapely.MultiPolygon()
    if len(rings) == 1 and shapely.is_simple(single := shapely.linearrings(rings[0])):
        return shapely.polygons(single)
    if _crossings(rings) > MAX_CROSSINGS:
        return None
    lines = shapely.union_all([shapely.linestrings(ring) for ring in rings])
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(lines)))
    if len(faces) > MOST_FACES or len(faces) * sum(map(len, rings)) > 40_000_000:
        return None
    inside = shapely.get_coordinates(shapely.point_on_surface(faces))
    winding = sum(_winding(inside, ring) for ring in rings)
    wanted = winding % 2 != 0 if rule == "evenodd" else winding != 0
    return shapely.union_all(faces[np.asarray(wanted, bool)])


def _crossings(rings: list[NDArray[np.float64]]) -> float:
    """Estimate how often the segments of closed (n, 2) rings cross each other, by evenly chosen ones of them."""
    ends = np.concatenate([np.stack([ring[:-1], ring[1:]], axis=1) for ring in rings])
    segments = shapely.linestrings(ends)
    chosen = segments[:: max(1, len(segments) // SAMPLED)]
    found = shapely.STRtree(segments).query(chosen, "crosses").shape[1]
    return found / len(chosen) * len(segments) / 2


def _winding(points: NDArray[np.float64], ring: NDArray[np.float64]) -> NDArray[np.int64]:
    """How often a closed ring runs round each of (n, 2) points (Sunday 2001: signed crossings)."""
    a, b = ring[:-1], ring[1:]
    x, y = points[:, :1], points[:, 1:]
    left = (b[:, 0] - a[:, 0]) * (y - a[:, 1]) - (x - a[:, 0]) * (b[:, 1] - a[:, 1])
    up = (a[:, 1] <= y) & (b[:, 1] > y) & (left > 0)
    down = (a[:, 1] > y) & (b[:, 1] <= y) & (left < 0)
    return up.sum(axis=1) - down.sum(axis=1)


def _agrees(outline: shapely.MultiPolygon, rgba: NDArray[np.uint8]) -> bool:
    """Whether the shapes cover what was rendered and nothing else, but for a rim of two pixels."""
    if outline.is_empty:
        return False
    alpha = shrunk_alpha(rgba, CHECK_PX)
    scale = alpha.shape[1] / rgba.shape[1], alpha.shape[0] / rgba.shape[0]
    drawn = np.zeros(alpha.shape, np.uint8)
    for part in shapely.get_parts(outline):
        rings = [part.exterior, *part.interiors]
        points = [np.round((np.asarray(r.coords) * scale - 0.5) * 16).astype(np.int32) for r in rings]
        cv2.fillPoly(drawn, points, 1, shift=4)
    shown = np.asarray(cv2.inRange(alpha, 128, 255), np.uint8) // 255
    rim = np.ones((5, 5), np.uint8)
    missed = shown & (1 - np.asarray(cv2.dilate(drawn, rim), np.uint8))
    # A gap between two shapes of less than a pixel is seen in coverages and not in filled polygons.
    added = cv2.erode(np.asarray(cv2.erode(drawn, rim), np.uint8) & (1 - shown), np.ones((2, 2), np.uint8))
    return not missed.any() and not np.any(added)
