"""The lines of one design: its outline at size, its own line, and the line around that."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely

from perisect.core.curve import Curve
from perisect.core.lines.border import INPUT_SIMPLIFY_MM, SIMPLIFY_MM, Growth
from perisect.core.lines.extra import ExtraLine, extra_line, extras_reach
from perisect.core.lines.fitted import NOTHING, Fitted, fitted, fitted_all
from perisect.core.lines.holes import Hole, decide_holes
from perisect.core.lines.join import least_joining_border
from perisect.core.lines.material import FACES, smallest_loop_mm
from perisect.core.lines.narrow import ThinPart, thin_parts
from perisect.core.lines.nodes import edited
from perisect.core.lines.outline import Outline
from perisect.core.lines.patches import patched
from perisect.core.lines.perforate import Perforation, cuts_of, perforate
from perisect.core.lines.polygons import node_count, polygons_of, reduced
from perisect.core.lines.recipe import PLAIN, LineRecipe
from perisect.core.lines.simple import simple_shape
from perisect.core.lines.smooth import bridged, with_least_inner_radius, with_least_radius
from perisect.core.lines.tab import hanging_hole, with_tab

THIN_MM = 0.7
"""Art thinner than this tears in the hand, and a knife along both sides of it lifts it."""

MOST_NODES = 400_000
"""Lines of more nodes than this are noise, and working on them would take longer than anyone waits."""


class LineError(ValueError):
    """Lines that cannot be. `title` says what happened, `detail` what to do."""

    def __init__(self, title: str, detail: str) -> None:
        super().__init__(f"{title} {detail}")
        self.title = title
        self.detail = detail


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
    holes_found: tuple[Hole, ...] = ()
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
        rings = shapely.get_exterior_ring(shapely.get_parts(self.around))
        return tuple(
            perforate(
                shapely.get_coordinates(ring)[:-1],
                self.recipe.cut_mm,
                self.recipe.tie_mm,
                FACES[self.recipe.face].tie_gf_per_mm,
            )
            for ring in rings
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

    def curves_by_process(self) -> dict[str, list[Curve]]:
        """The curves of the processes whose lines are closed and whole, in the order of their rings."""
        found = {
            "kiss": list(self.own_line.curves) if self.recipe.own == "kiss" else [],
            "through": [curve for line in self._through for curve in line.curves],
        }
        for extra in self.extras:
            if extra.process in found:
                found[extra.process] += extra.curves
        return {process: curves for process, curves in found.items() if curves}


class SizedArt:
    """A traced outline at a size in mm, (0, 0) at the top left of its box, ready for any border.

    Raises:
        ValueError: the outline is empty.
    """

    def __init__(self, outline: Outline, longest_mm: float) -> None:
        if outline.shape.is_empty:
            raise ValueError("an empty outline has no lines")
        if shapely.get_num_coordinates(outline.shape) > MOST_NODES:
            raise LineError("The outline has more corners than a knife could follow.", "Remove specks first.")
        left, top, right, bottom = outline.box_px
        scale = longest_mm / outline.longest_px
        shape = shapely.transform(outline.shape, lambda xy: (xy - (left, top)) * scale)
        self.mm_per_px = scale
        self.width_mm, self.height_mm = (right - left) * scale, (bottom - top) * scale
        self._outline = polygons_of(shape)
        self._bare = shapely.simplify(shape, INPUT_SIMPLIFY_MM)
        self._growth = Growth(shapely.simplify(shape, INPUT_SIMPLIFY_MM, preserve_topology=False))

    def lines(self, border_mm: float, peel_mm: float | None = None, recipe: LineRecipe = PLAIN) -> CutLines:
        """All lines.

        Args:
            border_mm: border outside the art, 0 for a line on its own edge, negative for one inside it.
            peel_mm: distance from the piece's line to the one around it; None for none.

        Raises:
            LineError: an inward border leaves nothing to cut.
        """
        longest = max(self.width_mm, self.height_mm)
        shape, holes, missed = self._own(border_mm, recipe)
        if recipe.tab is not None and peel_mm is None:
            shape = with_tab(shape, recipe.tab, longest)
        smooth = (recipe.fit_mm, recipe.keep_corners, recipe.radius_mm)
        missed_nodes: tuple[int, ...] = ()
        if recipe.nodes:
            own, missed_nodes = edited(fitted(shape, *smooth), recipe.nodes, longest)
            shape = own.shape
        wide = self._around(shape, border_mm, peel_mm, recipe)
        if recipe.tab is not None and peel_mm is not None:
            wide = with_tab(wide, recipe.tab, longest)
        if recipe.nodes:
            around = fitted(wide, *smooth)
        else:
            own, around = fitted_all([shape, wide], *smooth)
        outer = own.shape if around.shape.is_empty else around.shape
        extras = (extra_line(each, recipe, self._outline, own.shape, outer) for each in recipe.extras)
        return CutLines(
            width_mm=self.width_mm,
            height_mm=self.height_mm,
            mm_per_px=self.mm_per_px,
            outline=self._outline,
            own_line=own,
            around_line=around,
            recipe=recipe,
            holes_found=holes,
            hang_line=self._hang(outer, recipe, longest),
            extras=tuple(each for each in extras if each is not None),
            thin=self._thin,
            joins_at_mm=self._joins_at,
            missed=missed,
            missed_nodes=missed_nodes,
            nodes_before=node_count(shape) + node_count(wide),
        )

    @staticmethod
    def _hang(outer: shapely.MultiPolygon, recipe: LineRecipe, longest: float) -> Fitted | None:
        if recipe.hang is None:
            return None
        hole = shapely.multipolygons([hanging_hole(outer, recipe.hang, longest)])
        return fitted(hole, recipe.fit_mm, recipe.keep_corners)

    def _own(
        self, border_mm: float, recipe: LineRecipe
    ) -> tuple[shapely.MultiPolygon, tuple[Hole, ...], tuple[int, ...]]:
        if recipe.shape != "contour":
            shape = simple_shape(self._outline, recipe.shape, border_mm, recipe.shape_radius_mm)
        elif border_mm == 0:
            shape = polygons_of(self._bare)
        else:
            shape = self._growth.by(border_mm, recipe.corner, recipe.mitre_limit)
        if shape.is_empty:
            raise LineError(
                f"A border of {border_mm:g} mm leaves nothing of the piece.",
                "Make it narrower, or the piece larger.",
            )
        if recipe.bridge_mm > 0:
            shape = polygons_of(reduced(bridged(shape, recipe.bridge_mm), SIMPLIFY_MM))
        holed = decide_holes(
            shape,
            recipe.fill_holes_mm,
            recipe.holes_filled,
            recipe.holes_kept,
            smallest_loop_mm(recipe.knife_offset_mm),
        )
        shape, missed = patched(holed.shape, recipe.patches, max(self.width_mm, self.height_mm))
        if shape.is_empty:
            raise LineError("What was cut by hand leaves nothing of the piece.", "Undo the last cut.")
        if recipe.radius_mm > 0:
            shape = polygons_of(reduced(with_least_radius(shape, recipe.radius_mm), ROUND_SIMPLIFY_MM))
            if shape.is_empty:
                raise LineError(
                    f"Nothing of the piece is as wide as bends of {recipe.radius_mm:g} mm need.",
                    "Ask for a smaller radius, or make the border wider.",
                )
        return shape, holed.holes, missed

    def _around(
        self, own: shapely.MultiPolygon, border_mm: float, peel_mm: float | None, recipe: LineRecipe
    ) -> shapely.MultiPolygon:
        if peel_mm is None:
            return shapely.MultiPolygon()
        untouched = recipe.model_copy(
            update={"own": PLAIN.own, "outer": PLAIN.outer, "tab": None, "hang": None}
        )
        plain = untouched.model_dump(exclude=_NOT_SHAPE) == PLAIN.model_dump(exclude=_NOT_SHAPE)
        # Growing the piece's line by the peel margin is growing the outline by both, and that has rungs.
        grown = self._growth.by(border_mm + peel_mm) if plain and border_mm >= 0 else Growth(own).by(peel_mm)
        if recipe.radius_mm > 0:
            grown = polygons_of(reduced(with_least_inner_radius(grown, recipe.radius_mm), ROUND_SIMPLIFY_MM))
        if recipe.outer == "perforate":
            # A perforated frame could not hold a hole's own loop.
            shells = shapely.get_exterior_ring(shapely.get_parts(grown))
            return polygons_of(shapely.union_all(shapely.polygons(shells)))
        return decide_holes(
            grown, recipe.fill_holes_mm, smallest_mm=smallest_loop_mm(recipe.knife_offset_mm)
        ).shape

    @cached_property
    def _joins_at(self) -> float | None:
        return least_joining_border(self._outline)

    @cached_property
    def _thin(self) -> tuple[ThinPart, ...]:
        return thin_parts(self._bare, THIN_MM)


ROUND_SIMPLIFY_MM = 0.001
"""A rounded line is reduced less: a chord too long for its bend would be a corner again."""

_NOT_SHAPE = {
    *("cut_mm", "tie_mm", "border_colour", "bleed_mm", "shape_radius_mm", "mitre_limit"),
    *("fit_mm", "keep_corners", "extras", "face", "knife_offset_mm"),
}


def cut_lines(
    outline: Outline,
    longest_mm: float,
    border_mm: float,
    peel_mm: float | None = None,
    recipe: LineRecipe = PLAIN,
) -> CutLines:
    """Lines of a traced outline whose box is `longest_mm` on its longer side; see `SizedArt`.

    Raises:
        ValueError: the outline is empty.
        LineError: nothing is left to cut.
    """
    return SizedArt(outline, longest_mm).lines(border_mm, peel_mm, recipe)
