"""Layouts that are not rows: pieces that keep their place, and pieces that were nested."""

from collections import Counter
from collections.abc import Mapping, Sequence
from math import cos, radians, sin

import numpy as np

from perisect.core.sheet.clear import too_close
from perisect.core.sheet.fill import Footprint, Placement, SheetPlan, sheet_plan
from perisect.core.sheet.nest import Nested
from perisect.core.sheet.place import placed
from perisect.core.sheet.usable import UsableArea

Standing = tuple[int, Placement]
"""A sheet's number from 0 and what stands on it."""


def placement_of(footprint: Footprint, piece: Nested, locked: bool = False) -> Placement:
    """The placement of a nested piece: turned about the design's origin there, about its centre here."""
    a = radians(piece.turn_deg)
    u, v = footprint.width_mm / 2, footprint.height_mm / 2
    x, y = piece.x_mm + u * cos(a) - v * sin(a), piece.y_mm + u * sin(a) + v * cos(a)
    return centred(footprint, x, y, piece.turn_deg, locked)


def centred(footprint: Footprint, x_mm: float, y_mm: float, turn_deg: float, locked: bool) -> Placement:
    """A copy whose outline's box is centred at a place of the sheet."""
    width, height = footprint.width_mm, footprint.height_mm
    return Placement(
        footprint.key, x_mm - width / 2, y_mm - height / 2, width, height, turn_deg % 360, locked
    )


def nested_of(sheet: int, placement: Placement) -> Nested:
    """The other way round."""
    a = radians(placement.rotation_deg)
    u, v = placement.width_mm / 2, placement.height_mm / 2
    x, y = placement.x_mm + u - u * cos(a) + v * sin(a), placement.y_mm + v - u * sin(a) - v * cos(a)
    return Nested(placement.key, sheet, placement.rotation_deg, x, y)


def stands_plan(
    area: UsableArea, footprints: Sequence[Footprint], standing: Sequence[Standing], fill: bool
) -> SheetPlan:
    """Sheets with just what stands on them; by number, the copies that stand nowhere are missing."""
    count = Counter(placement.key for _, placement in standing)
    missing = {} if fill else {f.key: f.copies - count[f.key] for f in footprints if f.copies > count[f.key]}
    return sheet_plan(area, footprints, standing, missing)


def shapes_on(footprints: Mapping[str, Footprint], placements: Sequence[Placement]) -> np.ndarray:
    """(n,) what each placement takes, sheet mm."""
    return np.array([placed(footprints[p.key].outline, p) for p in placements], dtype=object)


def round_locked(
    plan: SheetPlan, footprints: Sequence[Footprint], locked: Sequence[Standing], gap_mm: float
) -> list[Standing]:
    """A filled plan's placements round pieces that keep their place: those too close to one give way."""
    by_key = {f.key: f for f in footprints}
    kept = list(locked)
    for number, sheet in enumerate(plan.sheets):
        fixed = [placement for at, placement in locked if at == number]
        shapes = shapes_on(by_key, [*fixed, *sheet])
        given = {b for a, b in too_close(shapes, gap_mm) if a < len(fixed) <= b}
        kept += [(number, p) for n, p in enumerate(sheet, start=len(fixed)) if n not in given]
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
