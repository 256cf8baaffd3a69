"""Placements in hand: centred, made into sheets, measured."""

from collections import Counter
from collections.abc import Mapping, Sequence

import numpy as np

from perisect.core.sheet.clear import too_close
from perisect.core.sheet.fill import Footprint, SheetPlan, sheet_plan
from perisect.core.sheet.placement import Placement, boxed, placed
from perisect.core.sheet.recipe import SheetRecipe
from perisect.core.sheet.usable import UsableArea


def centred(
    footprint: Footprint, x_mm: float, y_mm: float, rotation_deg: float, locked: bool = False, sheet: int = 0
) -> Placement:
    """A copy whose outline's box is centred at a place of the sheet."""
    width, height = footprint.width_mm, footprint.height_mm
    x, y = x_mm - width / 2, y_mm - height / 2
    return Placement(footprint.key, x, y, width, height, rotation_deg % 360, locked, sheet)


def set_by_hand(footprints: Sequence[Footprint], sheet: SheetRecipe) -> list[Placement]:
    """What was set by hand and counts."""
    by_key = {f.key: f for f in footprints}
    return [
        centred(by_key[s.design], s.x_mm, s.y_mm, s.rotation_deg, s.locked, s.sheet)
        for s in sheet.placements
        if s.design in by_key and (sheet.method == "hand" or s.locked)
    ]


def locked_on(footprints: Sequence[Footprint], sheet: SheetRecipe) -> list[Placement]:
    """What keeps its place when the rest is filled again."""
    return [each for each in set_by_hand(footprints, sheet) if each.locked]


def plan_of(
    area: UsableArea, footprints: Sequence[Footprint], standing: Sequence[Placement], fill: bool
) -> SheetPlan:
    """Sheets with just what stands on them, told by the boxes of their outlines; by number, the copies that stand
    nowhere are missing."""
    boxes = {f.key: (f.width_mm, f.height_mm) for f in footprints}
    standing = [p if (p.width_mm, p.height_mm) == boxes[p.key] else boxed(p, *boxes[p.key]) for p in standing]
    count = Counter(placement.key for placement in standing)
    missing = {} if fill else {f.key: f.copies - count[f.key] for f in footprints if f.copies > count[f.key]}
    return sheet_plan(area, footprints, standing, missing)


def shapes_on(footprints: Mapping[str, Footprint], placements: Sequence[Placement]) -> np.ndarray:
    """(n,) what each placement takes, sheet mm."""
    return np.array([placed(footprints[p.key].outline, p) for p in placements], dtype=object)


def round_locked(
    plan: SheetPlan, footprints: Sequence[Footprint], locked: Sequence[Placement], gap_mm: float
) -> list[Placement]:
    """A filled plan's placements round pieces that keep their place: those too close to one give way."""
    by_key = {f.key: f for f in footprints}
    kept = list(locked)
    for number, sheet in enumerate(plan.sheets):
        fixed = [placement for placement in locked if placement.sheet == number]
        shapes = shapes_on(by_key, [*fixed, *sheet])
        given = {b for a, b in too_close(shapes, gap_mm) if a < len(fixed) <= b}
        kept += [p for n, p in enumerate(sheet, start=len(fixed)) if n not in given]
    return kept


def boxes_on(
    footprints: Mapping[str, Footprint], placements: Sequence[Placement]
) -> list[tuple[float, float, float, float]]:
    """Left, top, right, bottom of what each placement takes, sheet mm; a shape is turned once for each turn."""
    seen: dict[tuple[str, float], tuple[float, ...]] = {}
    boxes = []
    for p in placements:
        if (p.key, p.rotation_deg) not in seen:
            there = placed(footprints[p.key].outline, p).bounds
            seen[p.key, p.rotation_deg] = tuple(
                side - at for side, at in zip(there, (p.x_mm, p.y_mm) * 2, strict=True)
            )
        left, top, right, bottom = seen[p.key, p.rotation_deg]
        boxes.append((left + p.x_mm, top + p.y_mm, right + p.x_mm, bottom + p.y_mm))
    return boxes


def rank(area: UsableArea, footprints: Sequence[Footprint], plan: SheetPlan) -> tuple[float, ...]:
    """Less is better: missing pieces, sheets, then what is left of them, in one piece at the end of the last."""
    return *plan.cost, -_rest_mm2(area, footprints, plan)


def _rest_mm2(area: UsableArea, footprints: Sequence[Footprint], plan: SheetPlan) -> float:
    """The larger of the two bands that are free below and beside everything on the last sheet."""
    if not plan.sheets or not plan.sheets[-1]:
        return 0.0
    _, _, right, bottom = np.max(boxes_on({f.key: f for f in footprints}, plan.sheets[-1]), axis=0)
    below = (area.bottom_mm - bottom) * (area.right_mm - area.left_mm)
    beside = (area.right_mm - right) * (area.bottom_mm - area.top_mm)
    return max(below, beside, 0.0)
