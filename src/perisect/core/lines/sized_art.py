"""The art of one design at its size, and its lines for any border."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from copy import copy
from dataclasses import dataclass
from functools import cached_property, partial

import shapely

from perisect.core.lines.border import DRAWN_RUNGS_MM, KEPT, RUNGS_MM, Fineness, Growth
from perisect.core.lines.crumbs import without_crumbs
from perisect.core.lines.cut_lines import THIN_MM, CutLines
from perisect.core.lines.extra import drawn_line, extra_line
from perisect.core.lines.fitted import Fitted, fitted, fitted_all
from perisect.core.lines.holes import Hole, decide_holes
from perisect.core.lines.join import least_joining_border
from perisect.core.lines.line_error import LineError
from perisect.core.lines.material import USUAL, Tooling
from perisect.core.lines.narrow import ThinPart, thin_parts
from perisect.core.lines.nodes import edited
from perisect.core.lines.outline import Outline
from perisect.core.lines.patches import patched
from perisect.core.lines.polygons import node_count, polygons_of, reduced, without_holes
from perisect.core.lines.recipe import PLAIN, LineRecipe
from perisect.core.lines.simple import simple_shape
from perisect.core.lines.smooth import MOST_ROUNDS, OVER, bridged, shrunk_again, with_least_radius
from perisect.core.lines.tab import hanging_hole, with_tab

MANY_NODES = 2_000
"""An outline of more is grown for both of its lines at a time: Shapely lets other threads run meanwhile."""
_threads = ThreadPoolExecutor(2, thread_name_prefix="lines")
MOST_NODES = 400_000
"""Lines of more nodes than this are noise, and working on them would take longer than anyone waits."""


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
        self._bare = shapely.simplify(shape, KEPT.outline_mm)
        self._worked_out_to(KEPT)

    def _worked_out_to(self, fineness: Fineness, only_drawn: bool = False) -> None:
        self._fineness, self._only_drawn = fineness, only_drawn
        self._growth = self._filled = self._growing(self._outline)
        if only_drawn:
            self._filled = self._growing(without_holes(self._outline))

    def _growing(self, outline: shapely.MultiPolygon) -> Growth:
        simple = shapely.simplify(outline, self._fineness.outline_mm, preserve_topology=False)
        return Growth(simple, self._fineness)

    def _fills_every_hole(self, recipe: LineRecipe) -> bool:
        return recipe.fill_holes_mm >= max(self.width_mm, self.height_mm) and not recipe.holes_kept

    def _growth_of(self, border_mm: float, recipe: LineRecipe) -> Growth:
        """Where every hole is filled anyway and none of them is told, the art without them."""
        return self._filled if border_mm > 0 and self._fills_every_hole(recipe) else self._growth

    @cached_property
    def moving(self) -> "SizedArt":
        """The same art for lines that are only drawn, while something moves: coarser, and quicker by half. Which holes
        were filled is not always found."""
        # What is told of the art itself is worked out once, and the copy takes it along.
        _ = self._joins_at, self._thin
        quick = copy(self)
        quick._worked_out_to(Fineness.on_screen(max(self.width_mm, self.height_mm)), only_drawn=True)
        return quick

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
        alone = self._begun(border_mm, peel_mm, recipe)
        decided = self._own(border_mm, recipe, tooling)
        shape = decided.shape
        if recipe.tab is not None and peel_mm is None:
            shape = with_tab(shape, recipe.tab, longest)
        smooth = (recipe.fit_mm, recipe.keep_corners, recipe.radius_mm)
        missed_nodes: tuple[int, ...] = ()
        if recipe.nodes:
            own, missed_nodes = edited(fitted(shape, *smooth), recipe.nodes, longest)
            shape = own.shape
        wide = self._around(shape, alone(), peel_mm, recipe, tooling)
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
        # Lines that a drawing holds without one round it go with any line of ours.
        beside = self._beside if recipe.shape == "held" or self._held.is_empty else []
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
        drawn = self._rounded_growth(border_mm, border_mm, recipe) if self._only_drawn else None
        if drawn is not None:
            return _Own(drawn, (), (), ())
        if recipe.shape != "contour":
            shape = simple_shape(self._outline, recipe.shape, border_mm, recipe.shape_radius_mm)
        elif border_mm == 0:
            shape = polygons_of(self._bare)
        else:
            shape = self._growth_of(border_mm, recipe).by(border_mm, recipe.corner, recipe.mitre_limit)
        if shape.is_empty:
            raise LineError(
                f"A border of {border_mm:g} mm leaves nothing of the piece.",
                "Make it narrower, or the piece larger.",
            )
        if recipe.bridge_mm > 0:
            shape = polygons_of(reduced(bridged(shape, recipe.bridge_mm), self._fineness.line_mm))
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
            rounds = 1 if self._only_drawn else MOST_ROUNDS
            rounded = self._rounded_growth(border_mm, border_mm, recipe)
            if rounded is None:
                rounded = with_least_radius(shape, recipe.radius_mm, self._fineness.bend_mm, rounds)
            shape = rounded
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

    def _begun(
        self, border_mm: float, peel_mm: float | None, recipe: LineRecipe
    ) -> Callable[[], shapely.MultiPolygon | None]:
        """`_around_alone`, begun beside where the outline is so large that this gains time."""
        if peel_mm is None:
            return lambda: None
        if shapely.get_num_coordinates(self._outline) < MANY_NODES:
            return partial(self._around_alone, border_mm, peel_mm, recipe)
        return _threads.submit(self._around_alone, border_mm, peel_mm, recipe).result

    def _around_alone(
        self, border_mm: float, peel_mm: float, recipe: LineRecipe
    ) -> shapely.MultiPolygon | None:
        """The line around as the outline grown by border and peel margin together, for which there are rungs; None
        where it hangs on the piece's own line."""
        rounded = self._rounded_growth(border_mm, border_mm + peel_mm, recipe)
        if rounded is not None:
            return rounded
        if recipe.radius_mm == 0 and recipe.is_grown_outline and border_mm >= 0:
            return self._growth.by(border_mm + peel_mm)
        return None

    def _around(
        self,
        own: shapely.MultiPolygon,
        alone: shapely.MultiPolygon | None,
        peel_mm: float | None,
        recipe: LineRecipe,
        tooling: Tooling,
    ) -> shapely.MultiPolygon:
        if peel_mm is None:
            return shapely.MultiPolygon()
        grown = alone
        if grown is None:
            growth = Growth(own, self._fineness, DRAWN_RUNGS_MM if self._only_drawn else RUNGS_MM)
            grown = self._rounded_inside(growth, peel_mm, recipe.radius_mm)
        if recipe.outer == "perforate":
            # A perforated frame could not hold a hole's own loop.
            return without_holes(grown)
        return decide_holes(grown, recipe.fill_holes_mm, smallest_mm=tooling.smallest_loop_mm).shape

    def _rounded_growth(
        self, border_mm: float, distance_mm: float, recipe: LineRecipe
    ) -> shapely.MultiPolygon | None:
        """The outline grown by a distance, with no bend tighter than asked; None where that is not all there is to it:
        what is grown by more than the radius juts out as round. Holes are all filled, or all as they come."""
        every = self._fills_every_hole(recipe)
        holes = every or not (recipe.fill_holes_mm or recipe.holes_filled or recipe.holes_kept)
        reach = OVER * recipe.radius_mm
        if recipe.radius_mm == 0 or border_mm <= reach or not holes or not recipe.is_grown_outline:
            return None
        return self._rounded_inside(self._growth_of(border_mm, recipe), distance_mm, recipe.radius_mm, every)

    def _rounded_inside(
        self, growth: Growth, distance_mm: float, radius_mm: float, fill: bool = False
    ) -> shapely.MultiPolygon:
        """A shape that juts out as round, grown by a distance so that it juts in as round too: grown by the radius
        beside, and shrunk again; its holes are all filled, or as they come."""
        grown = growth.by(distance_mm + OVER * radius_mm)
        if fill:
            grown = without_holes(grown)
        if radius_mm == 0:
            return grown
        return polygons_of(shrunk_again(grown, radius_mm, self._fineness.bend_mm))

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
