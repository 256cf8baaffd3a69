"""What is to be said of places that were nested or set by hand."""

from collections.abc import Mapping, Sequence

import numpy as np
import shapely

from perisect.core.finding import Finding, SetField
from perisect.core.message import Param, mm, says
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
        return [Finding(code="nest_waiting", station="sheet", severity="look", message=says("nest_waiting"))]
    if layout.rows_won:
        rows = SetField.saying(says("remedy.take_rows"), field="sheet.method", value="rows")
        if layout.is_cut_short:
            return _cut_short("nest_cut_short.rows")
        return [
            Finding(code="rows_won", station="sheet", severity="good", message=says("rows_won"), remedy=rows),
        ]
    found = _cut_short("nest_cut_short") if layout.is_cut_short else []
    if not sheet.placements or sheet.card is not None:
        return found
    by_key = {f.key: f for f in footprints}
    for number, placements in enumerate(layout.plan.sheets):
        if placements and len(found) < MOST_TOLD:
            shapes = shapes_on(by_key, placements)
            labels = [names[p.key] for p in placements]
            gaps = np.array([sheet.between_mm / 2 + more_mm[p.key] for p in placements])
            found += _outside(area, shapes, labels, number) + _met(shapes, labels, gaps, number)
    return found[:MOST_TOLD]


def _cut_short(code: str) -> list[Finding]:
    return [Finding(code="nest_cut_short", station="sheet", severity="good", message=says(code))]


def _outside(area: UsableArea, shapes: np.ndarray, names: Sequence[str], number: int) -> list[Finding]:
    return [
        Finding(
            code="outside",
            station="sheet",
            severity="stop",
            message=says("outside", name=names[n], sheet=number + 1),
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
        pair: dict[str, Param] = {"one": names[a], "other": names[b], "sheet": number + 1}
        found.append(
            Finding(
                code="overlap" if overlap > 1e-3 else "close",
                station="sheet",
                severity="stop" if overlap > 1e-3 else "look",
                message=says("overlap", **pair)
                if overlap > 1e-3
                else says("close", **pair, apart=mm(near, 1), gap=mm(gap_mm)),
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
