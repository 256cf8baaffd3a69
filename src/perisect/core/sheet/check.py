"""Findings of the Sheet station: what fits, what is left out, what would leave the usable area."""

import numpy as np

from perisect.core.finding import Finding, SetField
from perisect.core.message import extent, mm, says
from perisect.core.sheet.fill import MAX_SHEETS, Footprint, SheetPlan
from perisect.core.sheet.grid import clear_band
from perisect.core.sheet.mark_check import mark_findings
from perisect.core.sheet.usable import UsableArea


def sheet_findings(
    area: UsableArea, plan: SheetPlan, footprints: list[Footprint], names: dict[str, str], fill: bool
) -> list[Finding]:
    """What stands in the way of cutting this plan, or the reassurance that nothing does.

    Args:
        fill: whether sheets are filled, so that every design wants a place and no number of them.
    """
    findings = [
        _left_out(area, footprint, plan.missing[footprint.key], names[footprint.key], fill)
        for footprint in footprints
        if plan.missing.get(footprint.key)
    ]
    if plan.sheets:
        findings += mark_findings(area, plan)
    return findings


def _left_out(area: UsableArea, footprint: Footprint, missing: int, name: str, fill: bool) -> Finding:
    width, height = footprint.right_mm - footprint.left_mm, footprint.bottom_mm - footprint.top_mm
    room = sorted((area.right_mm - area.left_mm, area.bottom_mm - area.top_mm))
    lines = (width - footprint.width_mm, height - footprint.height_mm)
    # The lines round the art keep their width when the art is made smaller.
    scale = max(
        min((a - lines[0]) / footprint.width_mm, (b - lines[1]) / footprint.height_mm)
        for a, b in (room, reversed(room))
    )
    if scale >= 0.99 and missing > 0 and min(width, height) <= room[0] and max(width, height) <= room[1]:
        between_marks = _between_marks(area)
        scale = max(
            min((a - lines[0]) / footprint.width_mm, (b - lines[1]) / footprint.height_mm)
            for a, b in between_marks
        )
    if scale < 1:
        size = max(5.0, np.floor(max(footprint.width_mm, footprint.height_mm) * scale * 0.98 * 2) / 2)
        return Finding(
            code="too_large",
            station="sheet",
            severity="stop",
            message=says("too_large", name=name, size=extent(width, height, 1), stock=area.stock.name),
            design=footprint.key,
            measured=round(max(width, height), 1),
            limit=round(room[1], 1),
            unit="mm",
            remedy=SetField.saying(
                says("remedy.make_size", size=mm(size)), field="longest_mm", value=float(size)
            ),
        )
    stand = 0 if fill else footprint.copies - missing
    return Finding(
        code="too_many",
        station="sheet",
        severity="stop",
        message=says("too_many", missing=missing, name=name, sheets=MAX_SHEETS)
        if stand
        else says("too_many.none", name=name, sheets=MAX_SHEETS),
        design=footprint.key,
        measured=missing,
        limit=0,
        unit="copies",
        remedy=SetField.saying(says("remedy.make_copies", count=stand), field="copies", value=stand)
        if stand
        else None,
    )


def _between_marks(area: UsableArea) -> list[tuple[float, float]]:
    """Boxes that no mark touches, either way round."""
    top, bottom = clear_band(area)
    left, right = area.span_at(area.top_mm, area.bottom_mm)
    boxes = [
        (area.right_mm - area.left_mm, bottom - top),
        (right - left, area.bottom_mm - area.top_mm),
    ]
    return boxes + [(height, width) for width, height in boxes]
