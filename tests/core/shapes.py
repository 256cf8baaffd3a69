"""Shapes with known forms, mm."""

import cv2
import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely import affinity

from perisect.core.lines import CutLines, LineRecipe, Outline, cut_lines
from perisect.core.lines.material import Tooling


def disc(radius: float, x: float = 0, y: float = 0) -> shapely.Polygon:
    return shapely.Point(x, y).buffer(radius, quad_segs=400)


def ellipse(a: float, b: float) -> shapely.Polygon:
    return affinity.scale(disc(1), a, b)


def star(outer: float, inner: float, points: int = 5) -> shapely.Polygon:
    turn = np.arange(2 * points) * np.pi / points - np.pi / 2
    radius = np.where(np.arange(2 * points) % 2 == 0, outer, inner)
    return shapely.Polygon(np.column_stack([radius * np.cos(turn), radius * np.sin(turn)]))


def gear(teeth: int, outer: float, inner: float) -> shapely.Polygon:
    turn = (np.arange(4 * teeth) + 0.5) * np.pi / (2 * teeth)
    radius = np.where(np.arange(4 * teeth) // 2 % 2 == 0, outer, inner)
    return shapely.Polygon(np.column_stack([radius * np.cos(turn), radius * np.sin(turn)]))


def koch(depth: int, side: float) -> shapely.Polygon:
    points = np.array([0, side * np.exp(-1j * np.pi / 3), side])[::-1]
    for _ in range(depth):
        step = (np.roll(points, -1) - points) / 3
        points = np.column_stack(
            [points, points + step, points + step * (1 + np.exp(1j * np.pi / 3)), points + 2 * step]
        ).ravel()
    return shapely.Polygon(np.column_stack([points.real, points.imag]))


SHAPES = {
    "disc": disc(20),
    "ellipse": ellipse(25, 12),
    "star": star(25, 10),
    "ring": disc(20).difference(disc(12)),
    "gear": gear(12, 22, 18),
    "koch": koch(4, 50),
}


def lines_of(
    art: shapely.Geometry, border_mm: float, peel_mm: float | None = None, **recipe: object
) -> tuple[CutLines, shapely.Geometry]:
    """Lines of art that comes as vectors at 100 px a mm, and the art where they lie."""
    left, top, right, bottom = art.bounds
    moved = shapely.transform(art, lambda xy: xy - (left, top))
    pixels = shapely.transform(moved, lambda xy: xy * 100)
    outline = Outline(
        shapely.multipolygons([pixels] if pixels.geom_type == "Polygon" else list(pixels.geoms)), 0
    )
    longest = max(right - left, bottom - top)
    tooling = Tooling(**{name: recipe.pop(name) for name in ("face", "knife_offset_mm") if name in recipe})  # type: ignore[arg-type]
    wanted = LineRecipe.model_validate(recipe)
    return cut_lines(outline, longest, border_mm, peel_mm, wanted, tooling), moved


def apart(a: shapely.Geometry, b: shapely.Geometry) -> float:
    """Hausdorff distance of two boundaries, both ways, between points a hundredth apart."""
    points = [shapely.get_coordinates(shapely.segmentize(shapely.boundary(shape), 0.01)) for shape in (a, b)]
    trees = [cKDTree(each) for each in points]
    return float(max(np.max(trees[1].query(points[0])[0]), np.max(trees[0].query(points[1])[0])))


def picture_of(art: shapely.Geometry, ppi: float) -> tuple[np.ndarray, np.ndarray]:
    """Coverage of art at a resolution, eight samples a pixel each way, and the art's top left in it, px."""
    left, top, right, bottom = art.bounds
    fine = 8
    scale = ppi / 25.4
    size = (int((right - left) * scale) + 9, int((bottom - top) * scale) + 9)
    big = np.zeros((size[1] * fine, size[0] * fine), np.uint8)
    for part in shapely.get_parts(art):
        rings = [np.asarray(ring.coords)[:-1] for ring in (part.exterior, *part.interiors)]
        places = [((ring - (left, top)) * scale + 4) * fine * 16 - 8 for ring in rings]
        cv2.fillPoly(big, [np.round(place).astype(np.int32) for place in places], 255, cv2.LINE_8, 4)
    return cv2.resize(big, size, interpolation=cv2.INTER_AREA), np.array([4.0, 4.0])
