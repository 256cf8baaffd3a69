"""The lines of one design: its outline at size, its own line, and the line around that."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely

from perisect.core.curve import Chain
from perisect.core.lines.extra import ExtraLine, extras_reach
from perisect.core.lines.fitted import NOTHING, Fitted
from perisect.core.lines.holes import Hole
from perisect.core.lines.material import USUAL, Tooling
from perisect.core.lines.narrow import ThinPart
from perisect.core.lines.perforate import Perforation, cuts_of, perforate
from perisect.core.lines.polygons import node_count, polygons_of
from perisect.core.lines.recipe import PLAIN, LineRecipe

THIN_MM = 0.7
"""Art thinner than this tears in the hand, and a knife along both sides of it lifts it."""


@dataclass(frozen=True)
class CutLines:
    """Outline and lines of one design in mm, (0, 0) at the top left of the outline's box.

    `own` is the piece's line, `around` the one a peel margin outside it, empty without one, `hang` a hole
    to hang by; all three are MultiPolygons, the flattened curves of `own_line`, `around_line` and
    `hang_line`. `joins_at_mm` is the least border that makes one piece of loose parts, `thin` the parts of
    the art thinner than `THIN_MM`.
    """

    width_mm: float
    height_mm: float
    mm_per_px: float
    outline: shapely.MultiPolygon
    own_line: Fitted
    around_line: Fitted = NOTHING
    recipe: LineRecipe = PLAIN
    tooling: Tooling = USUAL
    holes_found: tuple[Hole, ...] = ()
    crumbs: tuple[tuple[float, float], ...] = ()
    """Places of what an inward border left too small to be cut, mm: no line runs round it."""
    hang_line: Fitted | None = None
    extras: tuple[ExtraLine, ...] = ()
    thin: tuple[ThinPart, ...] = ()
    joins_at_mm: float | None = None
    missed: tuple[int, ...] = ()
    """Numbers of the patches that no longer meet the line they were drawn on."""
    missed_nodes: tuple[int, ...] = ()
    """Numbers of the edits of nodes that no longer fit the line."""
    nodes_before: int = 0
    """Nodes of both lines before they were fitted with curves."""

    def border_mm(self, asked_mm: float) -> float:
        """White between the art and the piece's own line: what was asked for; of a line that the drawing held already
        the least there is, 0 where it runs through the art."""
        return self._held_border_mm if self.recipe.shape == "held" else asked_mm

    @cached_property
    def _held_border_mm(self) -> float:
        return float(shapely.distance(self.own.boundary, self.outline))

    @property
    def own(self) -> shapely.MultiPolygon:
        """The piece's own line."""
        return self.own_line.shape

    @property
    def around(self) -> shapely.MultiPolygon:
        """The line a peel margin outside the piece's own."""
        return self.around_line.shape

    @property
    def hang(self) -> shapely.MultiPolygon | None:
        """The hole to hang by."""
        return None if self.hang_line is None else self.hang_line.shape

    @property
    def kiss(self) -> shapely.MultiPolygon:
        """What is cut through face and adhesive alone."""
        return self.own if self.recipe.own == "kiss" else shapely.MultiPolygon()

    @property
    def through(self) -> shapely.MultiPolygon:
        """What is cut through everything, holes to hang by among it."""
        polygons = [polygon for line in self._through for polygon in shapely.get_parts(line.shape)]
        return shapely.multipolygons(polygons) if polygons else shapely.MultiPolygon()

    @property
    def _through(self) -> list[Fitted]:
        parts = [self.own_line] if self.recipe.own == "through" else []
        parts += [self.around_line] if self.recipe.outer == "through" else []
        return parts + ([self.hang_line] if self.hang_line is not None else [])

    @cached_property
    def perforations(self) -> tuple[Perforation, ...]:
        """Every perforated loop with its ties."""
        if self.recipe.outer != "perforate" or self.around.is_empty:
            return ()
        return tuple(
            perforate(ring, self.recipe.cut_mm, self.recipe.tie_mm, self.tooling.tie_gf_per_mm, curve)
            for ring, curve in self.around_line.outer
        )

    @property
    def outer(self) -> shapely.MultiPolygon:
        """The outer of the piece's two lines."""
        return self.own if self.around.is_empty else self.around

    @cached_property
    def taken(self) -> shapely.MultiPolygon:
        """What a sheet must have room for: everything within any closed line."""
        further = extras_reach(self.extras)
        if len(further) == 0:
            return self.outer
        return polygons_of(shapely.union_all([*shapely.get_parts(self.outer), *further]))

    @property
    def pieces(self) -> int:
        """How many separate stickers the piece's line makes."""
        return len(self.own.geoms)

    @property
    def holes(self) -> int:
        """Holes that the piece's line cuts out."""
        return int(np.sum(shapely.get_num_interior_rings(shapely.get_parts(self.own))))

    @property
    def nodes(self) -> int:
        """Nodes of both lines as they are fitted."""
        return self.own_line.nodes + self.around_line.nodes

    @property
    def outline_nodes(self) -> int:
        """Nodes of the outline before any border or smoothing."""
        return node_count(self.outline)

    def by_process(self) -> dict[str, shapely.Geometry]:
        """Lines by process, those that exist; perforation as the segments that are cut."""
        if self.recipe.own == "none":
            return {}
        named: dict[str, list[shapely.Geometry]] = {"kiss": [self.kiss], "through": [self.through]}
        if self.perforations:
            named["perforate"] = [cuts_of(self.perforations)]
        for extra in self.extras:
            named.setdefault(extra.process, []).append(extra.cut)
        found = {}
        for process, shapes in named.items():
            parts = [part for shape in shapes for part in shapely.get_parts(shape)]
            if parts:
                found[process] = shapes[0] if len(shapes) == 1 else shapely.geometrycollections(parts)
        return found

    def curves_by_process(self) -> dict[str, list[Chain]]:
        """The curves of the processes all of whose lines are curves or parts of them, in the order of the lines."""
        if self.recipe.own == "none":
            return {}
        found: dict[str, list[Chain]] = {
            "kiss": list(self.own_line.curves) if self.recipe.own == "kiss" else [],
            "through": [curve for line in self._through for curve in line.curves],
            "perforate": [part for each in self.perforations for part in each.parts],
        }
        for extra in self.extras:
            if extra.process in found:
                found[extra.process] += extra.chains
        cut = sum(len(each.cuts) for each in self.perforations)
        cut += sum(
            shapely.get_num_geometries(extra.cut) for extra in self.extras if extra.process == "perforate"
        )
        if len(found["perforate"]) != cut:
            found["perforate"] = []
        return {process: curves for process, curves in found.items() if curves}
