"""Print and cut files of a planned job."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.artwork.colour import levels
from perisect.core.artwork.tone import ToneRecipe, toned
from perisect.core.cutting.order import CutLine, cut_order, in_cutting_order
from perisect.core.cutting.strips import Part, by_section, by_sticker, sections_of, turns_of
from perisect.core.formats import CutSheet, rings_of
from perisect.core.formats.dxf import write_dxf, write_dxf_splines
from perisect.core.formats.hpgl import write_hpgl
from perisect.core.formats.pdf import write_pdf
from perisect.core.formats.svg import write_svg
from perisect.core.job.bleed_check import bleed_reach_mm
from perisect.core.job.cut_sheet import cut_sheet
from perisect.core.job.plan import JobPlan
from perisect.core.job.recipe import DesignRecipe
from perisect.core.prepress.bleed_growth import bleed_under
from perisect.core.prepress.margin_note import Note
from perisect.core.prepress.print_file import (
    EncodedPicture,
    PrintDesign,
    PrintedCard,
    PrintedShape,
    encode_picture,
    write_print_pdf,
)
from perisect.core.prepress.writing import Writing
from perisect.core.process import TABLE
from perisect.core.sheet import Placement
from perisect.core.sheet.cards import card_outline, heading

CutKind = Literal["svg", "dxf", "splines.dxf", "hpgl", "pdf"]
CUT_WRITERS: dict[CutKind, Callable[[CutSheet], str | bytes]] = {
    "svg": write_svg,
    "dxf": write_dxf,
    "splines.dxf": write_dxf_splines,
    "hpgl": write_hpgl,
    "pdf": write_pdf,
}
NOTHING_UNDER: Mapping[str, EncodedPicture] = MappingProxyType({})
CARD_BLEED_MM = 1.5
AS_IT_IS = ToneRecipe()
CUT_MEDIA_TYPES: dict[CutKind, str] = {
    "svg": "image/svg+xml",
    "dxf": "image/vnd.dxf",
    "splines.dxf": "image/vnd.dxf",
    "hpgl": "application/vnd.hp-HPGL",
    "pdf": "application/pdf",
}


def white_border(plan: JobPlan, design: DesignRecipe) -> shapely.Geometry:
    """What stays white round a piece on a card, design mm: its own line runs in the middle of it."""
    return shapely.buffer(plan.lines[design.id].own, design.border_mm, quad_segs=24)


def _cards(plan: JobPlan, number: int, tone: ToneRecipe) -> list[PrintedCard]:
    card = plan.recipe.sheet.card
    if plan.cards is None or card is None:
        return []
    # Colour reaches past the cut, half the gap to the next card at most.
    past = min(CARD_BLEED_MM, plan.recipe.sheet.between_mm / 2)
    outline = shapely.buffer(card_outline(card), past, quad_segs=24)
    ground = PrintedShape(tuple(rings_of(shapely.multipolygons([outline]))), _toned(card.colour, tone))
    text = heading(card)
    writing = None if text is None else Writing(text, _toned(text.colour, tone))
    return [PrintedCard(place, ground, writing) for place in plan.cards.by_sheet[number]]


class CutFiles:
    """Cut sheets and files of a plan; sheets on which all stands alike share them."""

    def __init__(self, plan: JobPlan) -> None:
        self._plan = plan
        self._sheets: dict[tuple[Placement, ...], CutSheet] = {}
        self._parts: dict[tuple[Placement, ...], list[Part]] = {}
        self._in_order: dict[tuple[Placement, ...], CutSheet] = {}
        self._files: dict[tuple[str, tuple[Placement, ...]], bytes] = {}

    def sheet(self, number: int) -> CutSheet:
        """Lines of sheet `number` (from 0)."""
        key = self._key(number)
        if key not in self._sheets:
            self._sheets[key] = cut_sheet(self._plan, number)
        return self._sheets[key]

    def in_order(self, number: int) -> CutSheet:
        """The same, its lines in the order of the cut: many programs cut a file as it is written."""
        key = self._key(number)
        if key not in self._in_order:
            self._in_order[key] = in_cutting_order(self.sheet(number), self.order(number))
        return self._in_order[key]

    def parts(self, number: int) -> list[Part]:
        """The lines of sheet `number` (from 0) as they are cut, part after part where the sheet asks for it."""
        key, area = self._key(number), self._plan.area
        if key not in self._parts:
            sheet = self.sheet(number)
            match self._plan.recipe.sheet.parts:
                case "stickers":
                    self._parts[key] = by_sticker(sheet)
                case "sections":
                    self._parts[key] = by_section(sheet, sections_of(area.marks, area.stock.height_mm))
                case _:
                    self._parts[key] = [Part(tuple(cut_order(sheet)))]
        return self._parts[key]

    def order(self, number: int) -> list[CutLine]:
        """All lines of sheet `number` (from 0) in the order of the cut."""
        return [line for part in self.parts(number) for line in part.lines]

    def turns(self, number: int) -> NDArray[np.int64]:
        """Of each sticker of sheet `number` (from 0) the line that it is cut as, from when marks were sensed."""
        return turns_of(self.sheet(number), self.parts(number), len(self._plan.sheets.sheets[number]))

    def file(self, kind: CutKind, number: int) -> bytes:
        """The cut file of sheet `number` (from 0) in one of the kinds of `CUT_WRITERS`."""
        key = kind, self._key(number)
        if key not in self._files:
            written = CUT_WRITERS[kind](self.in_order(number))
            self._files[key] = written if isinstance(written, bytes) else written.encode()
        return self._files[key]

    def _key(self, number: int) -> tuple[Placement, ...]:
        return tuple(replace(placement, sheet=0) for placement in self._plan.sheets.sheets[number])


def print_pdf(
    plan: JobPlan,
    number: int,
    pictures: Mapping[str, EncodedPicture],
    under: Mapping[str, EncodedPicture] = NOTHING_UNDER,
    tone: ToneRecipe = AS_IT_IS,
    scale: tuple[float, float] = (1.0, 1.0),
) -> bytes:
    """The print file of sheet `number` (from 0).

    Args:
        pictures: encoded pictures by the designs' `picture`.
        under: bleed by the designs' ids, in px of their pictures.
        tone: for the colours of borders; pictures and bleed come through theirs already.
        scale: by how much larger everything is along width and length, for a printer that prints it smaller.
    """
    designs = {}
    for design in plan.recipe.designs:
        if design.picture in pictures:
            left, top, _, _ = plan.artworks[design.id].outline.box_px
            designs[design.id] = PrintDesign(
                pictures[design.picture],
                plan.lines[design.id].mm_per_px,
                (left, top),
                under.get(design.id),
                _border(plan, design, tone),
            )
    machine = plan.area.machine
    written = _written(plan, number, tone) if plan.labels else {}
    return write_print_pdf(
        plan.area.stock,
        plan.area.marks,
        machine.marks,
        plan.sheets.sheets[number],
        designs,
        written,
        _cards(plan, number, tone),
        scale,
    )


def note_of(
    plan: JobPlan, number: int, title: str = "", name: str = "", copy: int = 1, copies: int = 1
) -> Note:
    """What the margin of sheet `number` (from 0) says: whose it is, which sheet of the job, and which copy."""
    parts = [name, f"sheet {number + 1} of {len(plan.sheets.sheets)}", title]
    if copies > 1:
        parts.insert(2, f"copy {copy} of {copies}")
    return Note((*(part for part in parts if part.strip()), "print side up"))


def _written(plan: JobPlan, number: int, tone: ToneRecipe) -> dict[int, list[Writing]]:
    """Texts and codes by the sticker they stand on."""
    return {
        sticker: [Writing(painted, _toned(painted.colour, tone)) for painted in art.painted]
        for sticker, art in enumerate(plan.label_art(number))
        if art is not None
    }


def _toned(colour: str, tone: ToneRecipe) -> tuple[int, int, int]:
    red, green, blue = toned(np.array([[[*levels(colour), 255]]], np.uint8), tone)[0, 0, :3].tolist()
    return red, green, blue


def _border(plan: JobPlan, design: DesignRecipe, tone: ToneRecipe) -> PrintedShape | None:
    """The coloured border of a design: its own line, filled, and past it by the bleed that has room."""
    colour = design.lines.border_colour
    if plan.cards is not None and design.border_mm > 0:
        return PrintedShape(tuple(rings_of(white_border(plan, design))), (255, 255, 255))
    if colour is None or design.lines.own == "none":
        return None
    past = min(design.lines.bleed_mm, (design.peel_mm or 0.0) + plan.recipe.sheet.between_mm / 2)
    own = plan.lines[design.id].own
    shape = shapely.buffer(own, past, quad_segs=24) if past > 0 else own
    return PrintedShape(tuple(rings_of(shape)), _toned(colour, tone))


def bleed_px(plan: JobPlan, design: DesignRecipe) -> float:
    """How far a design's bleed reaches past its art, px of its picture; 0 where none is printed."""
    if design.lines.bleed_mm == 0 or design.lines.border_colour is not None:
        return 0.0
    return round(bleed_reach_mm(design, plan.recipe.sheet.between_mm) / plan.lines[design.id].mm_per_px, 2)


def under_picture(plan: JobPlan, design: DesignRecipe, rgba: NDArray[np.uint8]) -> EncodedPicture | None:
    """The bleed of a design, ready for the file; None where none is printed.

    Args:
        rgba: (h, w, 4), its picture as mended.
    """
    distance = bleed_px(plan, design)
    return encode_bleed(rgba, distance) if distance > 0 else None


def encode_bleed(rgba: NDArray[np.uint8], distance_px: float) -> EncodedPicture:
    """Bleed round an (h, w, 4) picture, placed in px of that picture."""
    under, pad = bleed_under(rgba, distance_px)
    encoded = encode_picture(under)
    return replace(encoded, left_px=encoded.left_px - pad, top_px=encoded.top_px - pad)


@dataclass(frozen=True)
class LineTotals:
    """Count and length of the lines of one process on one sheet."""

    count: int
    length_mm: float


def line_totals(sheet: CutSheet) -> dict[str, LineTotals]:
    """Totals by process, in the order they are cut."""
    totals = {}
    for process, rings in sorted(sheet.lines.items(), key=lambda each: TABLE[each[0]].order):
        closed = TABLE[process].closed
        paths = [np.vstack([ring, ring[:1]]) if closed else ring for ring in rings]
        length = sum(float(np.hypot(*np.diff(path, axis=0).T).sum()) for path in paths)
        totals[process] = LineTotals(len(rings), length)
    return totals
