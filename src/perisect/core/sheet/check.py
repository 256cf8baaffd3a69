"""Findings of the Sheet station: what fits, what is left out, what would leave the usable area."""

import numpy as np
import shapely

from perisect.core.finding import Finding, Remedy
from perisect.core.sheet.fill import MAX_SHEETS, Footprint, SheetPlan
from perisect.core.sheet.usable import UsableArea


def sheet_findings(
    area: UsableArea, plan: SheetPlan, footprints: list[Footprint], names: dict[str, str]
) -> list[Finding]:
    """What stands in the way of cutting this plan, or the reassurance that nothing does."""
    findings = [
        _left_out(area, footprint, plan.missing[footprint.key], names[footprint.key])
        for footprint in footprints
        if plan.missing.get(footprint.key)
    ]
    if plan.sheets:
        findings.append(_marks_clear(area))
    return findings


def _left_out(area: UsableArea, footprint: Footprint, missing: int, name: str) -> Finding:
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
            text=f"{name} with its lines is {width:.1f} × {height:.1f} mm and fits nowhere on "
            f"{area.stock.name} clear of the marks.",
            design=footprint.key,
            measured=round(max(width, height), 1),
            limit=round(room[1], 1),
            unit="mm",
            remedy=Remedy(label=f"Make it {size:g} mm", field="longest_mm", value=float(size)),
        )
    return Finding(
        code="too_many",
        station="sheet",
        severity="stop",
        text=f"{missing} of {name} are left out: one job holds at most {MAX_SHEETS} sheets.",
        design=footprint.key,
        measured=missing,
        limit=0,
        unit="copies",
        remedy=Remedy(
            label=f"Make {max(footprint.copies - missing, 1)}",
            field="copies",
            value=max(footprint.copies - missing, 1),
        ),
    )


def _between_marks(area: UsableArea) -> list[tuple[float, float]]:
    """Boxes that no mark touches, either way round."""
    top = max(notch[3] for notch in area.notches if notch[1] == 0)
    bottom = min(notch[1] for notch in area.notches if notch[1] > 0)
    left, right = area.span_at(area.top_mm, area.bottom_mm)
    boxes = [
        (area.right_mm - area.left_mm, bottom - top),
        (right - left, area.bottom_mm - area.top_mm),
    ]
    return boxes + [(height, width) for width, height in boxes]


def _marks_clear(area: UsableArea) -> Finding:
    """Least distance of a mark's ink from what the printer leaves bare and the plotter holds."""
    machine = area.machine
    reach = machine.marks.ring_outer_mm
    held = shapely.box(area.left_mm, area.top_mm, area.right_mm, area.bottom_mm)
    centres = shapely.points([(mark.x_mm, mark.y_mm) for mark in area.marks])
    inside = shapely.distance(centres, held.exterior) * np.where(shapely.within(centres, held), 1, -1)
    least = float(np.min(inside)) - reach
    return Finding(
        code="marks_clear",
        station="sheet",
        severity="good" if least >= 0 else "stop",
        text=f"All four marks clear the printer margin and the grip by {least:.1f} mm or more."
        if least >= 0
        else f"A mark reaches {-least:.1f} mm into the printer margin or the grip.",
        measured=round(least, 2),
        limit=0,
        unit="mm",
    )


def leaves_usable(area: UsableArea, lines: shapely.Geometry) -> float:
    """Area in mm² that `lines` enclose outside the usable area; 0 when all of it is inside."""
    return float(shapely.difference(lines, area.polygon.buffer(1e-3)).area)
