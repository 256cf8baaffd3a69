"""Kiss and through lines: the outline grown by a border and by a peel margin."""

from dataclasses import dataclass
from math import acos, ceil, pi

import numpy as np
import shapely

from perisect.core.lines.outline import Outline

SAGITTA_MM = 0.005
"""How far a chord may leave the round corner it stands for."""

SIMPLIFY_MM = 0.005
"""Reduction of the finished line; with trace and sagitta it stays well within 0.05 mm."""

INPUT_SIMPLIFY_MM = 0.015
"""Reduction of the outline before it is grown: growing costs time for every node of it."""

GROWTH_STAGES = (0.1, 0.3, 0.6)
"""Shares of the way grown at once. Growing twice by discs is growing once by their sum, and a small
step first melts the fine wiggles whose large offsets would all cross each other: three to eight
times faster on a busy outline."""


@dataclass(frozen=True)
class CutLines:
    """Outline and lines of one design in mm, (0, 0) at the top left of the outline's box.

    `kiss` and `through` are MultiPolygons; `through` is empty without a peel margin.
    """

    width_mm: float
    height_mm: float
    mm_per_px: float
    outline: shapely.MultiPolygon
    kiss: shapely.MultiPolygon
    through: shapely.MultiPolygon

    @property
    def outer(self) -> shapely.MultiPolygon:
        """The outermost line: what a sheet must have room for."""
        return self.kiss if self.through.is_empty else self.through

    @property
    def pieces(self) -> int:
        """How many separate stickers the kiss line makes."""
        return len(self.kiss.geoms)

    @property
    def holes(self) -> int:
        """Holes that the kiss line cuts out."""
        return int(np.sum(shapely.get_num_interior_rings(shapely.get_parts(self.kiss))))

    @property
    def nodes(self) -> int:
        """Nodes of the kiss and through lines, the closing one of each ring not counted twice."""
        return _nodes(self.kiss) + _nodes(self.through)

    def by_process(self) -> dict[str, shapely.MultiPolygon]:
        """Lines by process, those that exist."""
        named = {"kiss": self.kiss, "through": self.through}
        return {name: shape for name, shape in named.items() if not shape.is_empty}


def _nodes(shape: shapely.MultiPolygon) -> int:
    parts = shapely.get_parts(shape)
    rings = len(parts) + int(np.sum(shapely.get_num_interior_rings(parts)))
    return int(shapely.get_num_coordinates(shape)) - rings


def quarter_segments(radius_mm: float) -> int:
    """Chords in a quarter turn of `radius_mm` whose sagitta is at most `SAGITTA_MM`."""
    if radius_mm <= SAGITTA_MM:
        return 1
    return max(2, ceil((pi / 2) / (2 * acos(1 - SAGITTA_MM / radius_mm))))


def grow(shape: shapely.Geometry, by_mm: float) -> shapely.MultiPolygon:
    """`shape` grown outward by `by_mm` with round corners; holes shrink and may close."""
    grown = shape
    for share in GROWTH_STAGES if by_mm > 0 else ():
        step = by_mm * share
        grown = shapely.simplify(
            shapely.buffer(grown, step, quad_segs=quarter_segments(step)), SIMPLIFY_MM / 2
        )
    return _polygons(shapely.simplify(grown, SIMPLIFY_MM))


def cut_lines(
    outline: Outline, longest_mm: float, border_mm: float, peel_mm: float | None = None
) -> CutLines:
    """Lines of a traced outline whose box is `longest_mm` on its longer side.

    Args:
        outline: traced art, not empty.
        longest_mm: longer side of the outline's box in mm.
        border_mm: white border, 0 for a kiss line on the art's own edge.
        peel_mm: distance from kiss line to through line; None for no through line.

    Raises:
        ValueError: the outline is empty.
    """
    if outline.shape.is_empty:
        raise ValueError("an empty outline has no lines")
    left, top, right, bottom = outline.box_px
    scale = longest_mm / outline.longest_px
    shape = shapely.transform(outline.shape, lambda xy: (xy - (left, top)) * scale)
    kiss = grow(shapely.simplify(shape, INPUT_SIMPLIFY_MM, preserve_topology=border_mm == 0), border_mm)
    through = grow(kiss, peel_mm) if peel_mm else shapely.MultiPolygon()
    return CutLines(
        width_mm=(right - left) * scale,
        height_mm=(bottom - top) * scale,
        mm_per_px=scale,
        outline=_polygons(shape),
        kiss=kiss,
        through=through,
    )


def _polygons(shape: shapely.Geometry) -> shapely.MultiPolygon:
    parts = shapely.get_parts(shape)
    return shapely.multipolygons(parts[shapely.get_type_id(parts) == shapely.GeometryType.POLYGON])
