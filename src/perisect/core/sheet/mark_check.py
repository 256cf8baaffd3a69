"""Whether the marks can be printed, seen and trusted."""

from math import degrees, sqrt

import numpy as np
import shapely

from perisect.core.finding import Finding, SetField
from perisect.core.message import mm, percent, quantity, says
from perisect.core.sheet.fill import SheetPlan
from perisect.core.sheet.mark_pattern import pattern_of
from perisect.core.sheet.usable import UsableArea

SENSED_MM = 0.02
"""What a sensor finds a mark's place to, as in the map of cut errors."""
FAR_MM = 0.1
"""More than this at the far corner, from the turn alone, and the marks stand too close."""
NEAR_USED_MM = 0.5
SMALL_SHARE = 0.12
SMALL_FROM_MM = 2.5


def mark_findings(area: UsableArea, plan: SheetPlan) -> list[Finding]:
    """Marks outside what prints or what the sensor reaches, lost on a short sheet, or too close to fix a turn."""
    if not area.marks:
        mat = _mat(area)
        return [] if mat is None else [mat]
    lost = _lost(area)
    if lost is not None:
        return [lost]
    found = [
        _on_used(area),
        _printed(area),
        _reached(area),
        _too_close(area),
        _mat(area),
        _small_job(area, plan),
    ]
    return [each for each in found if each is not None]


def marks_hold(area: UsableArea) -> bool:
    """Whether the marks stand on the sheet, clear of each other, and far enough apart to fix a turn."""
    return not area.marks or (_lost(area) is None and _too_close(area) is None)


def _ink_mm(area: UsableArea) -> float:
    marks = area.machine.marks
    return max(marks.ring_outer_mm, marks.line_mm / 2)


def _lost(area: UsableArea) -> Finding | None:
    """Rows of marks that meet or leave the sheet: the sheet is too short or too narrow for them."""
    marks, clear = area.marks, area.machine.marks.clear_mm
    xs, ys = np.array([(mark.x_mm, mark.y_mm) for mark in marks]).T
    apart = float(np.ptp(ys)), float(np.ptp(xs))
    off = ys.max() > area.stock.height_mm or ys.min() < 0 or xs.min() < 0 or xs.max() > area.stock.width_mm
    if min(apart) > 2 * clear and not off:
        return None
    return Finding(
        code="marks_lost",
        station="sheet",
        severity="stop",
        message=says("marks_lost", stock=area.stock.name),
        measured=round(min(apart), 1),
        limit=round(2 * clear, 1),
        unit="mm",
    )


def _on_used(area: UsableArea) -> Finding | None:
    """A mark where the sheet was cut before."""
    centres = shapely.points([(mark.x_mm, mark.y_mm) for mark in area.marks])
    room = shapely.buffer(shapely.union_all(list(area.used)), area.machine.marks.clear_mm - NEAR_USED_MM)
    met = np.flatnonzero(shapely.intersects(room, centres))
    if not len(met):
        return None
    mark = area.marks[int(met[0])]
    return Finding(
        code="mark_on_used",
        station="sheet",
        severity="stop",
        message=says("mark_on_used", mark=mark.name),
        where_mm=(mark.x_mm, mark.y_mm),
    )


def _printed(area: UsableArea) -> Finding:
    """Least distance of a mark's ink from what the printer leaves bare and the plotter holds."""
    held = shapely.box(*area.machine.held(area.stock))
    centres = shapely.points([(mark.x_mm, mark.y_mm) for mark in area.marks])
    inside = shapely.distance(centres, held.exterior) * np.where(shapely.within(centres, held), 1, -1)
    worst = int(np.argmin(inside))
    least = float(inside[worst]) - _ink_mm(area)
    many = pattern_of(area.machine.marks).counted(len(area.marks))
    return Finding(
        code="marks_clear",
        station="sheet",
        severity="good" if least >= 0 else "stop",
        message=says("marks_clear", marks=many, least=mm(least, 1))
        if least >= 0
        else says("marks_clear.not", mark=area.marks[worst].name, into=mm(-least, 1)),
        where_mm=None if least >= 0 else (area.marks[worst].x_mm, area.marks[worst].y_mm),
        measured=round(least, 2),
        limit=0,
        unit="mm",
    )


def _reached(area: UsableArea) -> Finding | None:
    machine, stock = area.machine, area.stock
    for mark in area.marks:
        short = max(
            machine.reach_side_mm - min(mark.x_mm, stock.width_mm - mark.x_mm),
            machine.reach_top_mm - mark.y_mm,
            machine.reach_bottom_mm - (stock.height_mm - mark.y_mm),
        )
        if short > 0:
            return Finding(
                code="marks_reach",
                station="sheet",
                severity="stop",
                message=says("marks_reach", mark=mark.name, short=mm(short, 1)),
                where_mm=(mark.x_mm, mark.y_mm),
                measured=round(short, 2),
                limit=0,
                unit="mm",
            )
    return None


def _too_close(area: UsableArea) -> Finding | None:
    """Two marks d apart, each sensed to s, fix a turn to s sqrt(2) / d; at the far corner that is a distance."""
    places = np.array([(mark.x_mm, mark.y_mm) for mark in area.marks])
    spread = float(np.ptp(places, axis=0).min())
    angle = SENSED_MM * sqrt(2) / max(spread, 1e-6)
    corners = np.array([(area.left_mm, area.top_mm), (area.right_mm, area.bottom_mm)])
    reach = float(np.hypot(*(corners - places.mean(axis=0)).T).max())
    if angle * reach <= FAR_MM:
        return None
    return Finding(
        code="marks_close",
        station="sheet",
        severity="look",
        message=says(
            "marks_close",
            spread=mm(spread, 0),
            turn=quantity(degrees(angle), "deg", 2),
            off=mm(angle * reach, 2),
        ),
        measured=round(angle * reach, 3),
        limit=FAR_MM,
        unit="mm",
    )


def _mat(area: UsableArea) -> Finding | None:
    if area.machine.mat_mm is None:
        return None
    over = max(
        area.stock.width_mm - area.machine.mat_mm[0], area.stock.height_mm - area.machine.mat_mm[1], 0.0
    )
    if over == 0:
        return None
    return Finding(
        code="mat",
        station="sheet",
        severity="stop",
        message=says("mat", stock=area.stock.name, over=mm(over, 0)),
        measured=round(over, 1),
        limit=0,
        unit="mm",
    )


def _small_job(area: UsableArea, plan: SheetPlan) -> Finding | None:
    """One sheet hardly used: smaller marks leave more of it."""
    marks = area.machine.marks
    if len(plan.sheets) != 1 or plan.used_share > SMALL_SHARE or marks.radius_mm < SMALL_FROM_MM:
        return None
    return Finding(
        code="small_job",
        station="sheet",
        severity="good",
        message=says("small_job", share=percent(plan.used_share), radius=mm(marks.radius_mm * 2 / 3)),
        measured=round(plan.used_share, 3),
        limit=SMALL_SHARE,
        unit="share",
        remedy=SetField.saying(says("remedy.smaller_marks"), field="sheet.small_marks", value=True),
    )
