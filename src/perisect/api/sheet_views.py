"""Filled sheets as the screen is told of them. Lengths in mm, places in sheet coordinates."""

from pydantic import BaseModel

from perisect.api.lines_view import shape_path
from perisect.core.cutting.error_map import History
from perisect.core.finding import Finding
from perisect.core.formats.svg import path_data
from perisect.core.job import JobPlan
from perisect.core.job.cut_errors import SheetErrors
from perisect.core.job.files import line_totals, white_border
from perisect.core.sheet import Placement
from perisect.core.sheet.cards import card_ring, heading
from perisect.core.sheet.mark_pattern import pattern_of
from perisect.core.sheet.mark_shape import ink_shapes
from perisect.core.sheet.placing import boxes_on
from perisect.services.plans import Planned


class PlacementView(BaseModel):
    """One copy on a sheet; x, y of the top left of the outline's box before turning."""

    design: str
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float
    rotation_deg: float
    locked: bool
    box: tuple[float, float, float, float]
    """Left, top, right, bottom of what it takes."""
    error_mm: float | None
    """The predicted cut error at its farthest corner (rms), mm."""
    outside: bool
    """Whether it reaches outside the marks' hull, where the error grows."""


class CardView(BaseModel):
    """A card on a sheet: its outline, path data, and its centre and turn, to put the heading there."""

    outline: str
    x_mm: float
    y_mm: float
    rotation_deg: float


class SheetView(BaseModel):
    """One filled sheet; `perimeter` is the line round everything, path data, empty where none is asked for."""

    placements: list[PlacementView]
    perimeter: str
    cards: list[CardView]


class MarkView(BaseModel):
    """A mark by its name and centre."""

    name: str
    x_mm: float
    y_mm: float


class LineTotalView(BaseModel):
    """Count and length of one process's lines on one sheet."""

    process: str
    count: int
    length_mm: float


class SheetsView(BaseModel):
    """Filled sheets, all of one stock."""

    stock: str
    width_mm: float
    height_mm: float
    limits: tuple[float, float, float, float]
    """Left, top, right, bottom of the usable area."""
    usable: str
    """Outline of the usable area, path data."""
    marks: list[MarkView]
    marks_told: str
    """How many they are, in words."""
    marks_ink: str
    """The marks' ink, path data."""
    roll_mm: float | None
    """Length that the panels take of a roll."""
    card_heading: str
    """The heading of a card, path data in card mm; empty where there is none."""
    whites: dict[str, str]
    """What stays white round each piece on a card, path data in design mm."""
    sheets: list[SheetView]
    count: int
    used_share: float
    nest_waiting: bool
    """A nest is asked for and not searched yet: rows stand in its place."""
    nest_cut_short: bool
    """True if the nest's search was stopped early: a full search may find more."""
    findings: list[Finding]
    worst_error_mm: float | None
    worst_lost: float | None
    """The chance that the sticker which is worst off slips beyond its border."""
    error_sheets: int
    """Sheets of the plotter's log that say so; 0 where it is what a plotter of this kind does."""


def sheets_view(planned: Planned, history: History, in_order: bool = False) -> SheetsView:
    """Filled sheets for the screen, with what is to be expected of the plotter."""
    plan, errors = planned.plan, planned.errors(history, in_order)
    empty = plan.area.polygon.is_empty
    inked = ink_shapes(plan.area.marks, plan.area.machine.marks)
    card = plan.recipe.sheet.card
    written = None if card is None or plan.cards is None else heading(card)
    return SheetsView(
        stock=plan.area.stock.name,
        width_mm=plan.area.stock.width_mm,
        height_mm=plan.area.stock.height_mm,
        limits=(0.0, 0.0, 0.0, 0.0) if empty else plan.area.polygon.bounds,
        usable=shape_path(plan.area.polygon),
        marks_told=pattern_of(plan.area.machine.marks).counted(len(plan.area.marks)),
        marks=[MarkView(name=mark.name, x_mm=mark.x_mm, y_mm=mark.y_mm) for mark in plan.area.marks],
        marks_ink="".join(shape_path(shape) for shape in inked),
        roll_mm=_roll_mm(plan),
        card_heading="" if written is None else written.path.svg(),
        whites=_whites(plan),
        sheets=[_sheet(planned, errors, number) for number in range(len(plan.sheets.sheets))],
        count=plan.sheets.count,
        used_share=plan.sheets.used_share,
        nest_waiting=plan.layout.waiting,
        nest_cut_short=plan.layout.is_cut_short,
        findings=[finding for finding in planned.findings if finding.station == "sheet"],
        worst_error_mm=errors.worst_mm,
        worst_lost=errors.worst_lost,
        error_sheets=history.sheets,
    )


def _sheet(planned: Planned, errors: SheetErrors, number: int) -> SheetView:
    plan = planned.plan
    placements = plan.sheets.sheets[number]
    boxes = boxes_on({f.key: f for f in plan.footprints}, placements)
    unknown = [None] * len(placements), [False] * len(placements)
    known = (errors.by_sheet[number], errors.outside_by_sheet[number]) if errors.by_sheet else unknown
    facts = zip(placements, boxes, *known, strict=True)
    ring = plan.perimeter(number)
    cards = () if plan.cards is None else plan.cards.by_sheet[number]
    return SheetView(
        placements=[_placement(*each) for each in facts],
        perimeter="" if ring is None else path_data(ring),
        cards=[_card(plan, place) for place in cards],
    )


def _placement(
    p: Placement, box: tuple[float, float, float, float], error_mm: float | None, outside: bool
) -> PlacementView:
    return PlacementView(
        design=p.key,
        x_mm=p.x_mm,
        y_mm=p.y_mm,
        width_mm=p.width_mm,
        height_mm=p.height_mm,
        rotation_deg=p.rotation_deg,
        locked=p.locked,
        box=box,
        error_mm=error_mm,
        outside=outside,
    )


def _card(plan: JobPlan, place: Placement) -> CardView:
    card = plan.recipe.sheet.card
    return CardView(
        outline="" if card is None else path_data(card_ring(card, place)),
        x_mm=place.x_mm + place.width_mm / 2,
        y_mm=place.y_mm + place.height_mm / 2,
        rotation_deg=place.rotation_deg,
    )


def _whites(plan: JobPlan) -> dict[str, str]:
    if plan.cards is None:
        return {}
    return {
        design.id: shape_path(white_border(plan, design))
        for design in plan.recipe.designs
        if design.id in plan.lines and design.border_mm > 0
    }


def _roll_mm(plan: JobPlan) -> float | None:
    is_roll = plan.recipe.sheet.on.kind == "roll"
    return plan.area.stock.height_mm * len(plan.sheets.sheets) if is_roll else None


def line_totals_view(planned: Planned, number: int) -> list[LineTotalView]:
    """Lines of sheet `number` (from 0) by process, in the order they are cut."""
    totals = line_totals(planned.cut_files.sheet(number))
    return [LineTotalView(process=name, count=t.count, length_mm=t.length_mm) for name, t in totals.items()]
