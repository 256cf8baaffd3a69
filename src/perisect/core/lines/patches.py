"""Edits of a line by hand: boxes and ellipses united with it or cut from it."""

from collections.abc import Sequence

import numpy as np
import shapely

from perisect.core.lines.polygons import polygons_of, quarter_segments
from perisect.core.lines.recipe import PatchRecipe


def patch_shape(patch: PatchRecipe, longest_mm: float) -> shapely.Polygon:
    """The shape of a patch on a piece of this size, mm."""
    corner = np.array([patch.x, patch.y]) * longest_mm
    size = np.array([patch.width, patch.height]) * longest_mm
    if patch.shape == "box":
        return shapely.box(*corner, *(corner + size))
    if patch.shape == "bridge":
        start, end = corner + size * (0, patch.rising), corner + size * (1, not patch.rising)
        band = shapely.linestrings(np.array([start, end]))
        return shapely.buffer(band, patch.thick_mm / 2, cap_style="square")
    count = 4 * max(8, quarter_segments(float(size.max()) / 2))
    turn = np.arange(count) * 2 * np.pi / count
    return shapely.polygons(corner + size / 2 * (1 + np.column_stack([np.cos(turn), np.sin(turn)])))


def patched(
    shape: shapely.MultiPolygon, patches: Sequence[PatchRecipe], longest_mm: float
) -> tuple[shapely.MultiPolygon, tuple[int, ...]]:
    """The shape after all patches, and the numbers of those that no longer meet its line."""
    missed = []
    for number, patch in enumerate(patches):
        made = patch_shape(patch, longest_mm)
        if not shapely.intersects(made, shapely.boundary(shape)):
            missed.append(number)
        act = shapely.union if patch.does == "unite" else shapely.difference
        shape = polygons_of(act(shape, made))
    return shape, tuple(missed)
