"""Glyphs as areas, so that ink is measured and not the room a font gives it."""

from functools import lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.curve import bernstein
from perisect.core.fonts.font import Font
from perisect.core.fonts.path import TAKES, Path

CHORDS = 12
"""Of each curve of a glyph: within 0.003 of its capitals' height."""

Floats = NDArray[np.float64]


def rings_of_path(path: Path) -> list[Floats]:
    """Closed rings of a path, its curves as chords."""
    rings: list[Floats] = []
    now: list[Floats] = []
    at = 0
    t = np.arange(1, CHORDS + 1) / CHORDS
    weights = bernstein(t)
    for letter in path.letters:
        points = path.points[at : at + TAKES[letter]]
        at += TAKES[letter]
        if letter == "M":
            rings += [np.vstack(now)] if len(now) > 1 else []
            now = [points]
        elif letter == "L":
            now.append(points)
        elif letter == "C":
            now.append(weights.T @ np.vstack([now[-1][-1:], points]))
    rings += [np.vstack(now)] if len(now) > 1 else []
    return [ring for ring in rings if len(ring) > 2]


def area_of(rings: list[Floats]) -> shapely.MultiPolygon:
    """What rings fill: rings that turn one way are filled, those that turn the other way are holes in them, as in every
    font (non-zero winding for rings that do not cross themselves)."""
    if not rings:
        return shapely.MultiPolygon()
    made = shapely.make_valid(shapely.polygons([shapely.linearrings(ring) for ring in rings]))
    turns = np.array([_doubled_area(ring) for ring in rings])
    outer = np.sign(turns[np.abs(turns).argmax()])
    filled = shapely.union_all(made[np.sign(turns) == outer])
    holes = shapely.union_all(made[np.sign(turns) != outer])
    parts = shapely.get_parts(shapely.difference(filled, holes))
    return shapely.multipolygons(parts[shapely.get_type_id(parts) == shapely.GeometryType.POLYGON])


def _doubled_area(ring: Floats) -> float:
    x, y = ring.T
    return float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1)))


@lru_cache(maxsize=4096)
def ink_of(font: Font, glyph: int) -> shapely.MultiPolygon:
    """The ink of a glyph in capital heights, y down, from its origin on the base line."""
    return area_of(rings_of_path(font.outline(glyph)))


def gap_between(left: shapely.MultiPolygon, right: shapely.MultiPolygon) -> float | None:
    """How far the right one can go to the left until the two touch; less than nothing where they overlap already; None
    where they pass over and under each other.

    Both have straight sides, so the gap of a row is least at the height of a corner of one of them.
    """
    a, b = shapely.bounds(left), shapely.bounds(right)
    low, high = max(a[1], b[1]), min(a[3], b[3])
    if not low <= high:
        return None
    rows = np.unique(
        np.concatenate([shapely.get_coordinates(left)[:, 1], shapely.get_coordinates(right)[:, 1]])
    )
    rows = np.concatenate([rows[(rows >= low) & (rows <= high)], [low, high]])
    edge_a, edge_b = _reach(left, rows, 1), _reach(right, rows, -1)
    gaps = edge_b - edge_a
    known = np.isfinite(gaps)
    return float(gaps[known].min()) if known.any() else None


def _reach(shape: shapely.MultiPolygon, rows: Floats, way: int) -> Floats:
    """The outermost x of a shape at each row, to the right (1) or to the left (-1); not finite where it has none."""
    starts, ends = _sides(shape)
    y0, y1 = starts[:, 1][:, None], ends[:, 1][:, None]
    low, high = np.minimum(y0, y1), np.maximum(y0, y1)
    crossed = (rows >= low) & (rows <= high)
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(y1 == y0, 0.0, (rows - y0) / (y1 - y0))
    x0, x1 = starts[:, 0][:, None], ends[:, 0][:, None]
    x = x0 + np.clip(share, 0, 1) * (x1 - x0)
    level = (y1 == y0) & crossed
    if way > 0:
        x = np.where(level, np.maximum(x0, x1), x)
        return np.asarray(np.where(crossed, x, -np.inf).max(axis=0))
    x = np.where(level, np.minimum(x0, x1), x)
    return np.asarray(np.where(crossed, x, np.inf).min(axis=0))


def _sides(shape: shapely.MultiPolygon) -> tuple[Floats, Floats]:
    rings = [ring for part in shapely.get_parts(shape) for ring in (part.exterior, *part.interiors)]
    points = [shapely.get_coordinates(ring) for ring in rings]
    return np.vstack([each[:-1] for each in points]), np.vstack([each[1:] for each in points])
