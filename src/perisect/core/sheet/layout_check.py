"""What is to be said of places that were nested or set by hand."""

from collections.abc import Mapping, Sequence

import numpy as np
import shapely

from perisect.core.finding import Finding, SetField
from perisect.core.sheet.clear import TOLERANCE_MM, too_close
from perisect.core.sheet.fill import Footprint
from perisect.core.sheet.layout import Layout
from perisect.core.sheet.placing import shapes_on
from perisect.core.sheet.recipe import SheetRecipe
from perisect.core.sheet.usable import UsableArea

MOST_TOLD = 12


def layout_findings(
    area: UsableArea,
    layout: Layout,
    footprints: Sequence[Footprint],
    sheet: SheetRecipe,
    names: Mapping[str, str],
    more_mm: Mapping[str, float],
) -> list[Finding]:
    """Pieces set by hand that leave the area, overlap or stand too close; how a nest stands.

    Args:
        more_mm: what each design adds to half the gap.
    """
    if layout.waiting:
        text = "The nest is not searched yet; rows and columns stand in its place until it is."
        return [Finding(code="nest_waiting", station="sheet", severity="look", text=text)]
    if layout.rows_won:
        text = (
            "Rows and columns need no more sheets than the nest that was found and leave at least as much of the "
            "last one, so they stand here."
        )
        rows = SetField(label="Take rows", field="sheet.method", value="rows")
        return [
            *_cut_short(layout),
            Finding(code="rows_won", station="sheet", severity="good", text=text, remedy=rows),
        ]
    if not sheet.placements or sheet.card is not None:
        return _cut_short(layout)
    by_key = {f.key: f for f in footprints}
    found = _cut_short(layout)
    for number, placements in enumerate(layout.plan.sheets):
        if placements and len(found) < MOST_TOLD:
            shapes = shapes_on(by_key, placements)
            labels = [names[p.key] for p in placements]
            gaps = np.array([sheet.between_mm / 2 + more_mm[p.key] for p in placements])
            found += _outside(area, shapes, labels, number) + _met(shapes, labels, gaps, number)
    return found[:MOST_TOLD]


def _cut_short(layout: Layout) -> list[Finding]:
    if not layout.is_cut_short:
        return []
    text = "The search for this nest was cut short. A full search may fit more."
    return [Finding(code="nest_cut_short", station="sheet", severity="good", text=text)]


def _outside(area: UsableArea, shapes: np.ndarray, names: Sequence[str], number: int) -> list[Finding]:
    return [
        Finding(
            code="outside",
            station="sheet",
            severity="stop",
            text=f"{names[n]} on sheet {number + 1} leaves the dotted area: it would be cut in a margin, in the "
            "grip or in a mark.",
            sheet=number,
            where_mm=_centre(shape),
            measured=round(float(shapely.difference(shape, area.polygon).area), 1),
            limit=0,
            unit="mm²",
        )
        for n, shape in enumerate(shapes)
        if not area.holds(shape)
    ]


def _met(shapes: np.ndarray, names: Sequence[str], half_mm: np.ndarray, number: int) -> list[Finding]:
    found = []
    for a, b in too_close(shapes, 2 * float(half_mm.max())):
        near, gap_mm = float(shapely.distance(shapes[a], shapes[b])), float(half_mm[a] + half_mm[b])
        overlap = float(shapely.intersection(shapes[a], shapes[b]).area)
        if near >= gap_mm - TOLERANCE_MM and overlap <= TOLERANCE_MM:
            continue
        on = f"{names[a]} and {names[b]} on sheet {number + 1}"
        found.append(
            Finding(
                code="overlap" if overlap > 1e-3 else "close",
                station="sheet",
                severity="stop" if overlap > 1e-3 else "look",
                text=f"{on} overlap: one would be cut into."
                if overlap > 1e-3
                else f"{on} are {near:.1f} mm apart; the gap is {gap_mm:g} mm.",
                sheet=number,
                where_mm=_centre(shapes[b]),
                measured=round(near, 2),
                limit=gap_mm,
                unit="mm",
            )
        )
    return found


def _centre(shape: shapely.Geometry) -> tuple[float, float]:
    left, top, right, bottom = shape.bounds
    return round((left + right) / 2, 2), round((top + bottom) / 2, 2)
