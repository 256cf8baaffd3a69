"""Kiss and through lines: the outline grown by a border and by a peel margin."""

from dataclasses import dataclass
from math import acos, ceil, pi

import numpy as np
import shapely

from perisect.core.lines.outline import Outline

SAGITTA_MM = 0.003
"""How far a chord may leave the round corner it stands for."""

SIMPLIFY_MM = 0.005
"""Reduction of the finished line; with trace and sagitta it stays well within 0.05 mm."""

INPUT_SIMPLIFY_MM = 0.015
"""Reduction of the outline before it is grown: growing costs time for every node of it."""

RUNGS_MM = (0.25, 0.5, 1.0, 2.0, 4.0, 8.0, 16.0)
"""A border is grown from the rung below it. Growing twice by discs is growing once by their sum; the
first small rungs melt the fine wiggles whose large offsets would all cross each other, and while a
slider moves only the last short way is new."""

RUNG_SIMPLIFY_MM = 0.0015
"""Reduction at a rung: seven of them together stay under a hundredth."""


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


class Growth:
    """A shape in mm that is asked for at many distances; the rungs on the way are kept."""

    def __init__(self, shape: shapely.Geometry) -> None:
        self._shape = shape
        self._rungs: dict[float, shapely.Geometry] = {}

    def by(self, distance_mm: float) -> shapely.MultiPolygon:
        """The shape grown outward with round corners; holes shrink and may close."""
        grown = self._grown(distance_mm) if distance_mm > 0 else self._shape
        return _polygons(shapely.simplify(grown, SIMPLIFY_MM))

    def _grown(self, distance_mm: float) -> shapely.Geometry:
        below = max((rung for rung in RUNGS_MM if rung < distance_mm), default=0.0)
        start = self._rung(below) if below else self._shape
        step = distance_mm - below
        return shapely.buffer(start, step, quad_segs=quarter_segments(step))

    def _rung(self, rung_mm: float) -> shapely.Geometry:
        if rung_mm not in self._rungs:
            self._rungs[rung_mm] = shapely.simplify(self._grown(rung_mm), RUNG_SIMPLIFY_MM)
        return self._rungs[rung_mm]


class SizedArt:
    """A traced outline at a size in mm, (0, 0) at the top left of its box, ready for any border.

    Raises:
        ValueError: the outline is empty.
    """

    def __init__(self, outline: Outline, longest_mm: float) -> None:
        if outline.shape.is_empty:
            raise ValueError("an empty outline has no lines")
        left, top, right, bottom = outline.box_px
        scale = longest_mm / outline.longest_px
        shape = shapely.transform(outline.shape, lambda xy: (xy - (left, top)) * scale)
        self.mm_per_px = scale
        self.width_mm, self.height_mm = (right - left) * scale, (bottom - top) * scale
        self._outline = _polygons(shape)
        self._bare = shapely.simplify(shape, INPUT_SIMPLIFY_MM)
        self._growth = Growth(shapely.simplify(shape, INPUT_SIMPLIFY_MM, preserve_topology=False))

    def lines(self, border_mm: float, peel_mm: float | None = None) -> CutLines:
        """Kiss and through lines.

        Args:
            border_mm: white border, 0 for a kiss line on the art's own edge.
            peel_mm: distance from kiss line to through line; None for no through line.
        """
        kiss = self._growth.by(border_mm) if border_mm > 0 else _polygons(self._bare)
        # Growing the kiss line by the peel margin is growing the outline by both, and that has rungs.
        through = self._growth.by(border_mm + peel_mm) if peel_mm else shapely.MultiPolygon()
        return CutLines(
            width_mm=self.width_mm,
            height_mm=self.height_mm,
            mm_per_px=self.mm_per_px,
            outline=self._outline,
            kiss=kiss,
            through=through,
        )


def cut_lines(
    outline: Outline, longest_mm: float, border_mm: float, peel_mm: float | None = None
) -> CutLines:
    """Lines of a traced outline whose box is `longest_mm` on its longer side; see `SizedArt`.

    Raises:
        ValueError: the outline is empty.
    """
    return SizedArt(outline, longest_mm).lines(border_mm, peel_mm)


def _polygons(shape: shapely.Geometry) -> shapely.MultiPolygon:
    parts = shapely.get_parts(shape)
    return shapely.multipolygons(parts[shapely.get_type_id(parts) == shapely.GeometryType.POLYGON])
