"""From a recipe and traced artwork to lines and filled sheets, stage by stage."""

from collections import Counter
from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass, field, replace
from functools import cached_property
from types import MappingProxyType

import shapely

from perisect.core.artwork import MendRecipe
from perisect.core.curve import Chain
from perisect.core.formats import Ring
from perisect.core.job.label_rows import counted, label_sets
from perisect.core.job.recipe import DesignRecipe, JobRecipe
from perisect.core.job.traced import TracedArtwork
from perisect.core.lines import CutLines, LineError, LineRecipe, cut_lines
from perisect.core.lines.material import Tooling
from perisect.core.refusal import Refusal
from perisect.core.sheet import Footprint, Placement, SheetPlan, UsableArea
from perisect.core.sheet.cards import Cards, lay_out_cards
from perisect.core.sheet.fill import sheet_plan
from perisect.core.sheet.footprints import clearance_mm, footprint_of, with_clearance
from perisect.core.sheet.groups import grouped, parted
from perisect.core.sheet.labels import LabelArt, Table
from perisect.core.sheet.labels.sets import LabelSet
from perisect.core.sheet.layout import Layout, NestedOf, as_recipes, lay_out
from perisect.core.sheet.nest import nest
from perisect.core.sheet.panel import area_of, ended
from perisect.core.sheet.perimeter import area_inside_perimeter, perimeter_ring
from perisect.core.sheet.placement import matrix, placed

LinesOf = Callable[[TracedArtwork, DesignRecipe, Tooling], CutLines]
"""How a design's lines are had: computed, or from a memory of them."""


def lines_of(artwork: TracedArtwork, design: DesignRecipe, tooling: Tooling) -> CutLines:
    """Lines of one design, computed."""
    return cut_lines(
        artwork.outline, design.longest_mm, design.border_mm, design.peel_mm, design.lines, tooling
    )


@dataclass(frozen=True)
class JobPlan:
    """Everything that is laid out from a recipe. All lengths mm, all places in sheet coordinates."""

    recipe: JobRecipe
    artworks: Mapping[str, TracedArtwork]
    lines: Mapping[str, CutLines]
    area: UsableArea
    footprints: tuple[Footprint, ...]
    layout: Layout
    labels: Mapping[str, LabelSet] = field(default_factory=dict)
    """By design, of those that have a list."""
    cards: Cards | None = None
    undrawn: Mapping[str, Refusal] = field(default_factory=dict)
    """Refusals of designs whose lines or mend are impossible: shown with a plain line, and laid out nowhere."""

    @property
    def sheets(self) -> SheetPlan:
        """The filled sheets."""
        return self.layout.plan

    def frozen(self) -> JobRecipe:
        """The recipe with every place written down where it would have to be searched for again: what is
        printed from it stands as it was printed."""
        sheet = self.recipe.sheet
        if sheet.method != "nest":
            return self.recipe
        places = self._all_placements if self.cards is None else self.cards.on_card
        written: dict[str, object] = {"method": "hand", "placements": as_recipes(places)}
        if sheet.on.kind == "roll":
            written["panel_mm"] = self.area.stock.height_mm
        return self.recipe.model_copy(update={"sheet": sheet.model_copy(update=written)})

    @property
    def _all_placements(self) -> list[Placement]:
        return [placement for sheet in self.sheets.sheets for placement in sheet]

    @property
    def spaced(self) -> tuple[Footprint, ...]:
        """What a copy of each design keeps free of others: more than it takes where it is cut through."""
        sheet = self.recipe.sheet
        return tuple(with_clearance(f, clearance_mm(self.lines[f.key], sheet)) for f in self.footprints)

    def placed_lines(self, placement: Placement) -> dict[str, shapely.Geometry]:
        """One sticker's lines by process, on the sheet."""
        by_process = self.lines[placement.key].by_process()
        return {process: placed(shape, placement) for process, shape in by_process.items()}

    def placed_curves(self, placement: Placement) -> dict[str, list[Chain]]:
        """One sticker's curves by process, on the sheet."""
        m = matrix(placement)
        by_process = self.lines[placement.key].curves_by_process()
        return {
            process: [curve.moved(lambda xy: xy @ m[:, :2].T + m[:, 2]) for curve in curves]
            for process, curves in by_process.items()
        }

    @cached_property
    def _first_rows(self) -> list[Counter[str]]:
        """How many of each design stand on the sheets before each sheet."""
        before, found = Counter[str](), []
        for sheet in self.sheets.sheets:
            found.append(Counter(before))
            before.update(placement.key for placement in sheet)
        return found

    def label_art(self, number: int) -> list[LabelArt | None]:
        """What each sticker of sheet `number` (from 0) says, from its list, row after row over the sheets."""
        row = Counter(self._first_rows[number]) if self.labels else Counter[str]()
        found: list[LabelArt | None] = []
        for placement in self.sheets.sheets[number]:
            labels, at = self.labels.get(placement.key), row[placement.key]
            row[placement.key] += 1
            found.append(labels.art(at) if labels is not None and at < len(labels) else None)
        return found

    def perimeter(self, number: int) -> Ring | None:
        """The line round everything on sheet `number` (from 0), where one is asked for."""
        if self.recipe.sheet.perimeter_cut == "none":
            return None
        taken = [placed(self.lines[p.key].taken, p).bounds for p in self.sheets.sheets[number]]
        return perimeter_ring(taken, self.recipe.sheet)


def plan_job(
    recipe: JobRecipe,
    artworks: Mapping[str, TracedArtwork],
    lines: LinesOf = lines_of,
    nested: NestedOf = nest,
    tables: Mapping[str, Table] = MappingProxyType({}),
    unmended: Mapping[str, Refusal] = MappingProxyType({}),
) -> JobPlan:
    """Work a recipe out; a design whose lines cannot be had does not stop the others.

    Args:
        artworks: by the designs' `picture`.
        lines: how to get a design's lines; a caller with a cache passes its own.
        nested: how to get a nest; it takes its seconds unless the caller has one kept.
        tables: lists by their hashes, for designs with labels.
        unmended: why a design's picture is not mended as it says, by design; `artworks` has it as it came.
    """
    by_design = {design.id: artworks[design.picture] for design in recipe.designs}
    drawn, undrawn = _lines_of_all(recipe, by_design, lines, unmended)
    labels = label_sets(recipe, tables)
    filled = counted(recipe, labels)
    sheet = filled.sheet.model_copy(update={"gap_mm": filled.sheet.between_mm})
    footprints = tuple(
        footprint_of(design.id, design.copies, drawn[design.id])
        for design in filled.designs
        if design.id in drawn and design.id not in undrawn
    )
    spaced = [with_clearance(f, clearance_mm(drawn[f.key], sheet)) for f in footprints]
    area = area_of(sheet, spaced)
    inside = area_inside_perimeter(area, sheet)
    if sheet.card is not None:
        white = max((max(0.0, design.border_mm) for design in recipe.designs), default=0.0)
        layout, cards = lay_out_cards(inside, spaced, sheet, sheet.card, white, nested)
        return JobPlan(recipe, by_design, drawn, area, footprints, layout, labels, cards, undrawn)
    groups = grouped({design.id: design.group for design in filled.designs}, spaced, sheet.gap_mm)
    set_by_hand = sheet.method == "hand" or any(placement.locked for placement in sheet.placements)
    if set_by_hand or not groups.members:
        layout = lay_out(inside, spaced, sheet, nested)
    else:
        layout = parted(
            lay_out(inside, groups.footprints, sheet, nested), groups, area, footprints, sheet.fill
        )
    if (layout.rows_won or layout.waiting) and sheet.ends_free and not groups.members:
        # Where a nest was given whole panels, rows need shorter ones.
        in_rows = sheet.model_copy(update={"method": "rows"})
        area = area_of(in_rows, spaced)
        rows = lay_out(area_inside_perimeter(area, in_rows), spaced, in_rows, nested)
        layout = replace(layout, plan=rows.plan)
    elif layout.question is not None:
        shorter = ended(sheet, area, spaced, layout.plan)
        if shorter is not area:
            standing = [piece for on_it in layout.plan.sheets for piece in on_it]
            of_it = sheet_plan(shorter, footprints, standing, layout.plan.missing)
            area, layout = shorter, replace(layout, plan=of_it)
    return JobPlan(recipe, by_design, drawn, area, footprints, layout, labels, None, undrawn)


def _lines_of_all(
    recipe: JobRecipe,
    artworks: Mapping[str, TracedArtwork],
    lines: LinesOf,
    unmended: Mapping[str, Refusal],
) -> tuple[dict[str, CutLines], dict[str, Refusal]]:
    """Lines of every design that has an outline, and why those of some are only plain ones."""
    drawn, undrawn = dict[str, CutLines](), dict(unmended)
    for design in recipe.designs:
        if artworks[design.id].outline.shape.is_empty:
            continue
        plain = design.model_copy(update={"border_mm": 0.0, "peel_mm": None, "lines": LineRecipe()})
        if design.id in unmended:
            plain = plain.model_copy(update={"mend": MendRecipe()})
        wanted = plain if design.id in undrawn else design
        try:
            drawn[design.id] = lines(artworks[design.id], wanted, recipe.sheet.tooling)
        except LineError as error:
            undrawn.setdefault(design.id, error)
            with suppress(LineError):
                drawn[design.id] = lines(artworks[design.id], plain, recipe.sheet.tooling)
    return drawn, undrawn
