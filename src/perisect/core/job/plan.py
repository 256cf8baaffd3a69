"""From a recipe and traced artwork to lines, sheets, files and findings."""

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from types import MappingProxyType
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.curve import Curve
from perisect.core.finding import Finding
from perisect.core.formats import CutSheet, Ring, rings_of
from perisect.core.job.artwork_check import artwork_findings
from perisect.core.job.bleed import bleed_findings
from perisect.core.job.block import BLOCK_OWNER, area_inside_block, block_lines, block_ring
from perisect.core.job.card import Cards, card_findings, card_ring, lay_out_cards
from perisect.core.job.groups import grouped, parted
from perisect.core.job.labels import counted, label_findings, label_sets
from perisect.core.job.layout import Layout, NestedOf, as_stands, lay_out
from perisect.core.job.layout_check import layout_findings
from perisect.core.job.panel import area_of
from perisect.core.job.recipe import DesignRecipe, JobRecipe, SheetRecipe
from perisect.core.job.rights import rights_findings
from perisect.core.job.shared import shared_findings, slits
from perisect.core.job.traced import TracedArtwork
from perisect.core.lines import CutLines, cut_lines
from perisect.core.lines.check import line_findings
from perisect.core.sheet import Footprint, SheetPlan, UsableArea
from perisect.core.sheet.check import sheet_findings
from perisect.core.sheet.fill import Placement
from perisect.core.sheet.labels import LabelArt, Table
from perisect.core.sheet.labels.sets import LabelSet
from perisect.core.sheet.mark_shape import frame_shape, mark_shape
from perisect.core.sheet.nest import nest
from perisect.core.sheet.place import matrix, placed

LinesOf = Callable[[TracedArtwork, DesignRecipe], CutLines]


def lines_of(artwork: TracedArtwork, design: DesignRecipe) -> CutLines:
    """Lines of one design, computed."""
    return cut_lines(artwork.outline, design.longest_mm, design.border_mm, design.peel_mm, design.lines)


@dataclass(frozen=True)
class JobPlan:
    """Everything that follows from a recipe. All lengths mm, all places in sheet coordinates."""

    recipe: JobRecipe
    artworks: Mapping[str, TracedArtwork]
    lines: Mapping[str, CutLines]
    area: UsableArea
    footprints: tuple[Footprint, ...]
    layout: Layout
    labels: Mapping[str, LabelSet] = field(default_factory=dict)
    """By design, of those that have a list."""
    cards: Cards | None = None

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
        places = self.sheets.sheets if self.cards is None else [self.cards.on_card]
        written: dict[str, object] = {"method": "hand", "stands": as_stands(places)}
        if sheet.on.kind == "roll":
            written["panel_mm"] = self.area.stock.height_mm
        return self.recipe.model_copy(update={"sheet": sheet.model_copy(update=written)})

    @property
    def spaced(self) -> tuple[Footprint, ...]:
        """What a copy of each design keeps free of others: more than it takes where it is cut through."""
        return tuple(apart(f, apart_mm(self.lines[f.key], self.recipe.sheet)) for f in self.footprints)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What every station has to say, in the order of work."""
        found: list[Finding] = []
        for design in self.recipe.designs:
            artwork = self.artworks[design.id]
            found.extend(artwork_findings(design, artwork, self.lines.get(design.id)))
        for design in self.recipe.designs:
            if design.id in self.lines:
                found.extend(line_findings(design.id, design.name, self.lines[design.id], design.border_mm))
                found.extend(bleed_findings(design, self.artworks[design.id]))
        names = {design.id: design.name for design in self.recipe.designs}
        found.extend(sheet_findings(self.area, self.sheets, list(self.footprints), names))
        if self.cards is not None and self.recipe.sheet.card is not None:
            found.extend(card_findings(self.recipe.sheet.card, self.cards, names, self.area.stock))
        if self.recipe.sheet.shared:
            found.extend(shared_findings(dict(self.lines), names))
        more = {key: apart_mm(lines, self.recipe.sheet) for key, lines in self.lines.items()}
        found.extend(layout_findings(self.area, self.layout, self.footprints, self.recipe.sheet, names, more))
        for design in self.recipe.designs:
            if design.id in self.labels:
                size = self.lines[design.id].width_mm, self.lines[design.id].height_mm
                found.extend(label_findings(design, self.labels[design.id], *size))
        found.extend(rights_findings(self.recipe))
        return tuple(found)

    def placed_lines(self, placement: Placement) -> dict[str, shapely.Geometry]:
        """One sticker's lines by process, on the sheet."""
        by_process = self.lines[placement.key].by_process()
        return {process: placed(shape, placement) for process, shape in by_process.items()}

    def placed_curves(self, placement: Placement) -> dict[str, list[Curve]]:
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

    def block(self, number: int) -> Ring | None:
        """The line round everything on sheet `number` (from 0), where one is asked for."""
        if self.recipe.sheet.block == "none":
            return None
        taken = [placed(self.lines[p.key].taken, p).bounds for p in self.sheets.sheets[number]]
        return block_ring(taken, self.recipe.sheet)

    def outer_rings(self, number: int) -> list[tuple[Ring, Literal["through", "perforate"]]]:
        """Lines round more than one sticker on sheet `number`, and how they are cut: cards, then the block."""
        found: list[tuple[Ring, Literal["through", "perforate"]]] = []
        sheet = self.recipe.sheet
        if self.cards is not None and sheet.card is not None:
            found += [(card_ring(sheet.card, place), sheet.card.cut) for place in self.cards.by_sheet[number]]
        ring = self.block(number)
        if ring is not None and sheet.block != "none":
            found.append((ring, sheet.block))
        return found

    def cut_sheet(self, number: int) -> CutSheet:
        """Lines of sheet `number` (from 0) by process, sticker after sticker, and the marks."""
        lines: dict[str, list[Ring]] = {}
        owners: dict[str, list[int]] = {}
        curves: dict[str, list[Curve]] = {}
        for sticker, placement in enumerate(self.sheets.sheets[number]):
            for process, shape in self.placed_lines(placement).items():
                rings = rings_of(shape)
                lines.setdefault(process, []).extend(rings)
                owners.setdefault(process, []).extend([sticker] * len(rings))
            for process, found in self.placed_curves(placement).items():
                curves.setdefault(process, []).extend(found)
        if self.recipe.sheet.shared and "through" in lines:
            _share(lines, owners, curves)
        for ring, how in self.outer_rings(number):
            process, cuts, whole = block_lines(ring, how)
            lines.setdefault(process, []).extend(cuts)
            owners.setdefault(process, []).extend([BLOCK_OWNER] * len(cuts))
            curves.setdefault(process, []).extend(whole)
        settings = self.area.machine.marks
        marks = [ring for mark in self.area.marks for ring in rings_of(mark_shape(mark, settings))]
        frame = frame_shape(self.area.marks, settings)
        marks += [] if frame is None else rings_of(shapely.multipolygons([frame]))
        return CutSheet(self.area.stock.width_mm, self.area.stock.height_mm, lines, owners, marks, curves)


def _share(
    lines: dict[str, list[Ring]], owners: dict[str, list[int]], curves: dict[str, list[Curve]]
) -> None:
    """Part boxes that stand edge to edge by straight cuts."""
    cuts, others = slits(lines["through"])
    if not cuts:
        return
    fitted = len(curves.get("through", ())) == len(lines["through"])
    lines["slit"], owners["slit"] = cuts, [BLOCK_OWNER] * len(cuts)
    lines["through"] = [lines["through"][n] for n in others]
    owners["through"] = [owners["through"][n] for n in others]
    curves["through"] = [curves["through"][n] for n in others] if fitted else []
    if not others:
        del lines["through"], owners["through"], curves["through"]


def plan_job(
    recipe: JobRecipe,
    artworks: Mapping[str, TracedArtwork],
    lines: LinesOf = lines_of,
    nested: NestedOf = nest,
    tables: Mapping[str, Table] = MappingProxyType({}),
) -> JobPlan:
    """Work a recipe out.

    Args:
        artworks: by the designs' `picture`.
        lines: how to get a design's lines; a caller with a cache passes its own.
        nested: how to get a nest; it takes its seconds unless the caller has one kept.
        tables: lists by their hashes, for designs with labels.
    """
    by_design = {design.id: artworks[design.picture] for design in recipe.designs}
    drawn = {
        design.id: lines(by_design[design.id], design)
        for design in recipe.designs
        if not by_design[design.id].outline.shape.is_empty
    }
    labels = label_sets(recipe, tables)
    filled = counted(recipe, labels)
    filled = filled.model_copy(
        update={"sheet": filled.sheet.model_copy(update={"gap_mm": filled.sheet.between_mm})}
    )
    footprints = tuple(footprint(design, drawn[design.id]) for design in filled.designs if design.id in drawn)
    spaced = tuple(apart(f, apart_mm(drawn[f.key], filled.sheet)) for f in footprints)
    area = area_of(filled.sheet, list(spaced))
    inside = area_inside_block(area, filled.sheet)
    card = filled.sheet.card
    if card is None:
        groups = grouped(filled.designs, spaced, filled.sheet.gap_mm)
        free = filled.sheet.method == "hand" or any(stand.locked for stand in filled.sheet.stands)
        if free or not groups.members:
            layout = lay_out(inside, spaced, filled.sheet, nested)
        else:
            layout = lay_out(inside, groups.footprints, filled.sheet, nested)
            layout = parted(layout, groups, area, footprints, filled.sheet.fill)
        return JobPlan(recipe, by_design, drawn, area, footprints, layout, labels)
    white = max((max(0.0, design.border_mm) for design in recipe.designs), default=0.0)
    layout, cards = lay_out_cards(inside, spaced, filled.sheet, card, white, nested)
    return JobPlan(recipe, by_design, drawn, area, footprints, layout, labels, cards)


def footprint(design: DesignRecipe, lines: CutLines) -> Footprint:
    """What one copy takes of a sheet."""
    left, top, right, bottom = lines.taken.bounds
    filled = shapely.polygons(shapely.get_exterior_ring(shapely.get_parts(lines.taken)))
    return Footprint(
        key=design.id,
        width_mm=lines.width_mm,
        height_mm=lines.height_mm,
        left_mm=left,
        top_mm=top,
        right_mm=right,
        bottom_mm=bottom,
        area_mm2=float(shapely.area(filled).sum()),
        copies=design.copies,
        shape=taken_shape(filled),
    )


def apart_mm(lines: CutLines, sheet: SheetRecipe) -> float:
    """What a piece adds to half the gap round it since it is cut through."""
    if sheet.shared or not {"through", "perforate"} & set(lines.by_process()):
        return 0.0
    return max(0.0, ((sheet.through_gap_mm or 0.0) - sheet.gap_mm) / 2)


def apart(footprint: Footprint, more_mm: float) -> Footprint:
    """A footprint that stands further from its neighbours."""
    if more_mm == 0:
        return footprint
    return replace(
        footprint,
        left_mm=footprint.left_mm - more_mm,
        top_mm=footprint.top_mm - more_mm,
        right_mm=footprint.right_mm + more_mm,
        bottom_mm=footprint.bottom_mm + more_mm,
        shape=shapely.buffer(footprint.outline, more_mm, quad_segs=16),
    )


def taken_shape(filled: NDArray[np.object_]) -> shapely.Polygon:
    """One shape for what a piece takes: of several parts, their hull."""
    if len(filled) == 1:
        return filled[0]
    return shapely.convex_hull(shapely.multipolygons(filled))
