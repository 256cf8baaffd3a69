"""The art of one design at its size, and its lines for any border."""

from dataclasses import dataclass
from functools import cached_property

import shapely

from perisect.core.lines.border import INPUT_SIMPLIFY_MM, SIMPLIFY_MM, Growth
from perisect.core.lines.crumbs import without_crumbs
from perisect.core.lines.cut_lines import THIN_MM, CutLines
from perisect.core.lines.extra import drawn_line, extra_line
from perisect.core.lines.fitted import Fitted, fitted, fitted_all
from perisect.core.lines.holes import Hole, decide_holes
from perisect.core.lines.join import least_joining_border
from perisect.core.lines.material import USUAL, Tooling
from perisect.core.lines.narrow import ThinPart, thin_parts
from perisect.core.lines.nodes import edited
from perisect.core.lines.outline import Outline
from perisect.core.lines.patches import patched
from perisect.core.lines.polygons import node_count, polygons_of, reduced, without_holes
from perisect.core.lines.recipe import PLAIN, LineRecipe
from perisect.core.lines.simple import simple_shape
from perisect.core.lines.smooth import (
    OVER,
    bridged,
    shrunk_again,
    with_least_inner_radius,
    with_least_radius,
)
from perisect.core.lines.tab import hanging_hole, with_tab

MOST_NODES = 400_000
"""Lines of more nodes than this are noise, and working on them would take longer than anyone waits."""


class LineError(ValueError):
    """Lines that cannot be. `title` says what happened, `detail` what to do."""

    def __init__(self, title: str, detail: str) -> None:
        super().__init__(f"{title} {detail}")
        self.title = title
        self.detail = detail

    def __reduce__(self) -> tuple[type, tuple[str, str]]:
        # It crosses from a reader process, and its message alone would not make it again.
        return type(self), (self.title, self.detail)


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
        self._held = shapely.transform(outline.held, lambda xy: (xy - (left, top)) * scale)
        self._beside = [
            (process, shapely.transform(line, lambda xy: (xy - (left, top)) * scale))
            for process, line in outline.beside
        ]
        self._bare = shapely.simplify(shape, INPUT_SIMPLIFY_MM)
        self._growth = Growth(shapely.simplify(shape, INPUT_SIMPLIFY_MM, preserve_topology=False))

    def lines(
        self,
        border_mm: float,
        peel_mm: float | None = None,
        recipe: LineRecipe = PLAIN,
        tooling: Tooling = USUAL,
    ) -> CutLines:
        """All lines.

        Args:
            border_mm: border outside the art, 0 for a line on its own edge, negative for one inside it.
            peel_mm: distance from the piece's line to the one around it; None for none.
            tooling: what is cut, and with which knife.

        Raises:
            LineError: an inward border leaves nothing to cut.
        """
        longest = max(self.width_mm, self.height_mm)
        decided = self._own(border_mm, recipe, tooling)
        shape = decided.shape
        if recipe.tab is not None and peel_mm is None:
            shape = with_tab(shape, recipe.tab, longest)
        smooth = (recipe.fit_mm, recipe.keep_corners, recipe.radius_mm)
        missed_nodes: tuple[int, ...] = ()
        if recipe.nodes:
            own, missed_nodes = edited(fitted(shape, *smooth), recipe.nodes, longest)
            shape = own.shape
        wide = self._around(shape, border_mm, peel_mm, recipe, tooling)
        if recipe.tab is not None and peel_mm is not None:
            wide = with_tab(wide, recipe.tab, longest)
        if recipe.nodes:
            around = fitted(wide, *smooth)
        else:
            own, around = fitted_all([shape, wide], *smooth)
        outer = own.shape if around.shape.is_empty else around.shape
        extras = (
            extra_line(each, recipe, self._outline, own.shape, outer, tooling) for each in recipe.extras
        )
        beside = self._beside if recipe.shape == "held" else []
        drawn = (drawn_line(process, line, recipe, tooling) for process, line in beside)
        return CutLines(
            width_mm=self.width_mm,
            height_mm=self.height_mm,
            mm_per_px=self.mm_per_px,
            outline=self._outline,
            own_line=own,
            around_line=around,
            recipe=recipe,
            tooling=tooling,
            holes_found=decided.holes,
            crumbs=decided.crumbs,
            hang_line=self._hang(outer, recipe, longest),
            extras=tuple(each for each in (*extras, *drawn) if each is not None),
            thin=self._thin,
            joins_at_mm=self._joins_at,
            missed=decided.missed,
            missed_nodes=missed_nodes,
            nodes_before=node_count(shape) + node_count(wide),
        )

    @staticmethod
    def _hang(outer: shapely.MultiPolygon, recipe: LineRecipe, longest: float) -> Fitted | None:
        if recipe.hang is None:
            return None
        hole = shapely.multipolygons([hanging_hole(outer, recipe.hang, longest)])
        return fitted(hole, recipe.fit_mm, recipe.keep_corners)

    def _own(self, border_mm: float, recipe: LineRecipe, tooling: Tooling) -> "_Own":
        if recipe.shape == "held":
            return self._own_as_held(recipe)
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
            tooling.smallest_loop_mm,
        )
        shape, missed = patched(holed.shape, recipe.patches, max(self.width_mm, self.height_mm))
        if shape.is_empty:
            raise LineError("What was cut by hand leaves nothing of the piece.", "Undo the last cut.")
        if recipe.radius_mm > 0:
            rounded = self._rounded_growth(border_mm, border_mm, recipe)
            if rounded is None:
                rounded = polygons_of(with_least_radius(shape, recipe.radius_mm))
            shape = polygons_of(reduced(rounded, ROUND_SIMPLIFY_MM))
            if shape.is_empty:
                raise LineError(
                    f"Nothing of the piece is as wide as bends of {recipe.radius_mm:g} mm need.",
                    "Ask for a smaller radius, or make the border wider.",
                )
        # Art thinner than twice an inward border leaves dots that no knife can cut.
        whole, crumbs = without_crumbs(shape, tooling.smallest_loop_mm) if border_mm < 0 else (shape, ())
        return _Own(whole, holed.holes, crumbs, missed)

    def _own_as_held(self, recipe: LineRecipe) -> "_Own":
        if self._held.is_empty:
            raise LineError("The picture holds no cut line of its own.", "Let the line follow the contour.")
        shape, missed = patched(self._held, recipe.patches, max(self.width_mm, self.height_mm))
        if shape.is_empty:
            raise LineError("What was cut by hand leaves nothing of the piece.", "Undo the last cut.")
        return _Own(shape, (), (), missed)

    def _around(
        self,
        own: shapely.MultiPolygon,
        border_mm: float,
        peel_mm: float | None,
        recipe: LineRecipe,
        tooling: Tooling,
    ) -> shapely.MultiPolygon:
        if peel_mm is None:
            return shapely.MultiPolygon()
        # Growing the piece's line by the peel margin is growing the outline by both, and that has rungs.
        rounded = self._rounded_growth(border_mm, border_mm + peel_mm, recipe)
        if rounded is not None:
            grown = polygons_of(reduced(rounded, ROUND_SIMPLIFY_MM))
        elif recipe.radius_mm == 0 and _is_plain(recipe) and border_mm >= 0:
            grown = self._growth.by(border_mm + peel_mm)
        else:
            grown = Growth(own).by(peel_mm)
            if recipe.radius_mm > 0:
                round_inside = with_least_inner_radius(grown, recipe.radius_mm)
                grown = polygons_of(reduced(round_inside, ROUND_SIMPLIFY_MM))
        if recipe.outer == "perforate":
            # A perforated frame could not hold a hole's own loop.
            return without_holes(grown)
        return decide_holes(grown, recipe.fill_holes_mm, smallest_mm=tooling.smallest_loop_mm).shape

    def _rounded_growth(
        self, border_mm: float, distance_mm: float, recipe: LineRecipe
    ) -> shapely.MultiPolygon | None:
        """The outline grown by a distance, with no bend tighter than asked; None where that is not all there is to it.

        What is grown by more than the radius juts out as round, so that only what juts in is left: grown by the radius
        beside, and shrunk again. Holes are all filled, or all as they come.
        """
        every = recipe.fill_holes_mm >= max(self.width_mm, self.height_mm) and not recipe.holes_kept
        holes = every or not (recipe.fill_holes_mm or recipe.holes_filled or recipe.holes_kept)
        reach = OVER * recipe.radius_mm
        if recipe.radius_mm == 0 or border_mm <= reach or not holes or not _is_plain(recipe):
            return None
        grown = self._growth.by(distance_mm + reach)
        if every:
            grown = without_holes(grown)
        return polygons_of(shrunk_again(grown, recipe.radius_mm))

    @cached_property
    def _joins_at(self) -> float | None:
        return least_joining_border(self._outline)

    @cached_property
    def _thin(self) -> tuple[ThinPart, ...]:
        return thin_parts(self._bare, THIN_MM)


@dataclass(frozen=True)
class _Own:
    """A piece's own line, the holes found in it, places of what was left out, and patches that missed it."""

    shape: shapely.MultiPolygon
    holes: tuple[Hole, ...]
    crumbs: tuple[tuple[float, float], ...]
    missed: tuple[int, ...]


ROUND_SIMPLIFY_MM = 0.001
"""A rounded line is reduced less: a chord too long for its bend would be a corner again."""

_NOT_SHAPE = {
    *("cut_mm", "tie_mm", "border_colour", "bleed_mm", "shape_radius_mm", "mitre_limit"),
    *("fit_mm", "keep_corners", "extras", "own", "outer", "tab", "hang"),
}
_ROUNDING = {"radius_mm", "fill_holes_mm", "holes_filled", "holes_kept"}


def _is_plain(recipe: LineRecipe) -> bool:
    """Whether the lines are the outline, grown; with the rounding and the holes that a recipe asks for."""
    aside = _NOT_SHAPE | (_ROUNDING if recipe.radius_mm > 0 else set())
    return recipe.model_dump(exclude=aside) == PLAIN.model_dump(exclude=aside)


def cut_lines(
    outline: Outline,
    longest_mm: float,
    border_mm: float,
    peel_mm: float | None = None,
    recipe: LineRecipe = PLAIN,
    tooling: Tooling = USUAL,
) -> CutLines:
    """Lines of a traced outline whose box is `longest_mm` on its longer side; see `SizedArt`.

    Raises:
        ValueError: the outline is empty.
        LineError: nothing is left to cut.
    """
    return SizedArt(outline, longest_mm).lines(border_mm, peel_mm, recipe, tooling)
