"""Filled sheets as the screen is told of them. Lengths in mm, places in sheet coordinates."""

from typing import Any

import shapely
from pydantic import BaseModel

from perisect.api.lines_view import shape_path
from perisect.core.finding import Finding
from perisect.core.formats.svg import path_data
from perisect.core.job import JobPlan
from perisect.core.job.card import card_ring, heading
from perisect.core.job.errors import sheet_errors
from perisect.core.job.files import line_totals, white_border
from perisect.core.sheet.layout import boxes_on
from perisect.core.sheet.mark_shape import frame_shape, mark_shape


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


class LineTotalView(BaseModel):
    """Count and length of one process's lines on one sheet."""

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
    marks: str
    """The marks' ink, path data."""
    marks_at: list[tuple[float, float]]
    roll_mm: float | None
    """Length that the panels take of a roll."""
    blocks: list[str]
    """The line round everything on each sheet, path data; empty where none is asked for."""
    cards: list[list[str]]
    """Outlines of the cards on each sheet, path data."""
    card_heading: str
    """The heading of a card, path data in card mm; empty where there is none."""
    card_at: list[list[tuple[float, float, float]]]
    """Centre and turn of each card, to put the heading there."""
    whites: dict[str, str]
    """What stays white round each piece on a card, path data in design mm."""
    sheets: list[list[PlacementView]]
    count: int
    used_share: float
    nest_waiting: bool
    """A nest is asked for and not searched yet: rows stand in its place."""
    findings: list[Finding]
    error_mm: list[list[float]]
    """For each placement of each sheet the predicted cut error at its farthest corner (rms), mm."""
    worst_error_mm: float | None
    outside: list[list[bool]]
    """Which placements of each sheet reach outside the marks' hull, where the error grows."""


def _block_path(plan: JobPlan, number: int) -> str:
    ring = plan.block(number)
    return "" if ring is None else path_data(ring)


def _cards(plan: JobPlan) -> dict[str, Any]:
    card = plan.recipe.sheet.card
    if plan.cards is None or card is None:
        return {"cards": [[] for _ in plan.sheets.sheets], "card_heading": "", "card_at": [], "whites": {}}
    said = heading(card)
    by_sheet = plan.cards.by_sheet
    return {
        "cards": [[path_data(card_ring(card, place)) for place in places] for places in by_sheet],
        "card_heading": "" if said is None else said.path.svg(),
        "card_at": [
            [(p.x_mm + p.width_mm / 2, p.y_mm + p.height_mm / 2, p.rotation_deg) for p in places]
            for places in by_sheet
        ],
        "whites": {
            design.id: shape_path(white_border(plan, design))
            for design in plan.recipe.designs
            if design.id in plan.lines and design.border_mm > 0
        },
    }


def sheets_view(plan: JobPlan) -> SheetsView:
    """Filled sheets for the screen."""
    settings = plan.area.machine.marks
    errors = sheet_errors(plan)
    marks = [mark_shape(mark, settings) for mark in plan.area.marks]
    frame = frame_shape(plan.area.marks, settings)
    marks += [] if frame is None else [shapely.multipolygons([frame])]
    empty = plan.area.polygon.is_empty
    by_key = {footprint.key: footprint for footprint in plan.footprints}
    sheets = [
        [
            PlacementView(
                design=p.key,
                x_mm=p.x_mm,
                y_mm=p.y_mm,
                width_mm=p.width_mm,
                height_mm=p.height_mm,
                rotation_deg=p.rotation_deg,
                locked=p.locked,
                box=box,
            )
            for p, box in zip(sheet, boxes_on(by_key, sheet), strict=True)
        ]
        for sheet in plan.sheets.sheets
    ]
    return SheetsView(
        stock=plan.area.stock.name,
        width_mm=plan.area.stock.width_mm,
        height_mm=plan.area.stock.height_mm,
        limits=(0.0, 0.0, 0.0, 0.0) if empty else plan.area.polygon.bounds,
        usable=shape_path(plan.area.polygon),
        blocks=[_block_path(plan, number) for number in range(len(plan.sheets.sheets))],
        **_cards(plan),
        marks="".join(shape_path(shape) for shape in marks),
        marks_at=[(mark.x_mm, mark.y_mm) for mark in plan.area.marks],
        roll_mm=plan.area.stock.height_mm * len(sheets) if plan.recipe.sheet.on.kind == "roll" else None,
        sheets=sheets,
        count=plan.sheets.count,
        used_share=plan.sheets.used_share,
        nest_waiting=plan.layout.waiting,
        findings=[finding for finding in plan.findings if finding.station == "sheet"],
        error_mm=[list(sheet) for sheet in errors.by_sheet],
        worst_error_mm=errors.worst_mm,
        outside=[list(sheet) for sheet in errors.outside_by_sheet],
    )


def line_totals_view(plan: JobPlan, number: int) -> dict[str, LineTotalView]:
    """Lines of sheet `number` by process."""
    totals = line_totals(plan.cut_sheet(number))
    return {name: LineTotalView(count=t.count, length_mm=t.length_mm) for name, t in totals.items()}
