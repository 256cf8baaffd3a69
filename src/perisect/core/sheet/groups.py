"""Pieces that are kept together: one of each of a group stands side by side, wherever the group goes."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import sqrt

import numpy as np
import shapely

from perisect.core.sheet.cards import on_carrier
from perisect.core.sheet.fill import Footprint, SheetPlan
from perisect.core.sheet.layout import Layout
from perisect.core.sheet.placement import Placement
from perisect.core.sheet.placing import plan_of
from perisect.core.sheet.usable import UsableArea

GROUP = "\x00group "
BAND_MM = 0.4
"""What ties the pieces of a group to one outline."""


@dataclass(frozen=True)
class Groups:
    """What is filled in place of the pieces: each group as one piece and the copies that are over, and where the
    pieces of a group stand in it."""

    footprints: tuple[Footprint, ...]
    members: Mapping[str, tuple[Placement, ...]]


def grouped(groups: Mapping[str, str], footprints: Sequence[Footprint], gap_mm: float) -> Groups:
    """Groups of two pieces or more as one footprint each; as many of it as the rarest of its pieces has copies.

    Args:
        groups: the group of each piece, by the pieces' keys; "" for those of none.
    """
    by_key = {f.key: f for f in footprints}
    names: dict[str, list[str]] = {}
    for key, name in groups.items():
        if name and key in by_key:
            names.setdefault(name, []).append(key)
    filled = dict(by_key)
    members: dict[str, tuple[Placement, ...]] = {}
    for name, keys in names.items():
        if len(keys) < 2:
            continue
        copies = min(by_key[key].copies for key in keys)
        together, places = _side_by_side([by_key[key] for key in keys], gap_mm)
        filled[GROUP + name] = replace(together, key=GROUP + name, copies=copies)
        members[GROUP + name] = places
        for key in keys:
            over = by_key[key].copies - copies
            if over:
                filled[key] = replace(by_key[key], copies=over)
            else:
                del filled[key]
    return Groups(tuple(filled.values()), members)


def parted(
    layout: Layout, groups: Groups, area: UsableArea, footprints: Sequence[Footprint], fill: bool
) -> Layout:
    """A layout of groups as one of their pieces."""
    if not groups.members:
        return layout
    standing = [piece for sheet in layout.plan.sheets for place in sheet for piece in _pieces(place, groups)]
    plan: SheetPlan = plan_of(area, footprints, standing, fill)
    return replace(layout, plan=plan)


def _pieces(place: Placement, groups: Groups) -> list[Placement]:
    if place.key not in groups.members:
        return [place]
    return [on_carrier(piece, place) for piece in groups.members[place.key]]


def _side_by_side(footprints: Sequence[Footprint], gap: float) -> tuple[Footprint, tuple[Placement, ...]]:
    """Pieces in rows about as wide as they are high together, and what they take."""
    boxes = np.array([(f.right_mm - f.left_mm, f.bottom_mm - f.top_mm) for f in footprints])
    wide = max(
        float(boxes[:, 0].max()), sqrt(float(((boxes[:, 0] + gap) * (boxes[:, 1] + gap)).sum())) * 1.15
    )
    x = y = row = 0.0
    places, shapes = [], []
    for footprint, (width, height) in zip(footprints, boxes.tolist(), strict=True):
        if x > 0 and x + width > wide:
            x, y, row = 0.0, y + row + gap, 0.0
        at = (x - footprint.left_mm, y - footprint.top_mm)
        places.append(Placement(footprint.key, *at, footprint.width_mm, footprint.height_mm, 0.0))
        shapes.append(shapely.transform(footprint.outline, lambda xy, by=at: xy + by))
        x, row = x + width + gap, max(row, height)
    outline = _held_together(shapes)
    _, _, right, bottom = outline.bounds
    area = sum(f.area_mm2 for f in footprints)
    return Footprint("", right, bottom, 0.0, 0.0, right, bottom, area, 1, outline), tuple(places)


def _held_together(shapes: Sequence[shapely.Polygon]) -> shapely.Polygon:
    """The outlines of a group as one: each is tied to those before it by a thin band where it comes nearest them, so
    that other pieces may stand in its bays and none stands between its pieces."""
    whole: shapely.Geometry = shapes[0]
    for shape in shapes[1:]:
        band = shapely.buffer(shapely.shortest_line(whole, shape), BAND_MM / 2, cap_style="square")
        whole = shapely.union_all([whole, shape, band])
    one = whole if whole.geom_type == "Polygon" else shapely.convex_hull(whole)
    return shapely.Polygon(one.exterior)
