"""One line round everything on a sheet, so that it leaves as one card of stickers."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
import shapely

from perisect.core.curve import Chain
from perisect.core.formats import Ring
from perisect.core.lines.curves import fit_curves
from perisect.core.lines.material import USUAL, Tooling
from perisect.core.lines.perforate import perforate
from perisect.core.lines.polygons import quarter_segments
from perisect.core.sheet.grid import clear_band
from perisect.core.sheet.recipe import SheetRecipe
from perisect.core.sheet.usable import UsableArea

CUT_MM, TIE_MM = 5.0, 0.7
NO_STICKER = -1
"""Whose line a perimeter is: no sticker's."""


def area_inside_perimeter(area: UsableArea, sheet: SheetRecipe) -> UsableArea:
    """Where stickers may stand so that a line round them stays between the marks."""
    if sheet.perimeter_cut == "none" or not area.notches:
        return area
    margin = sheet.perimeter_margin_mm
    top, bottom = clear_band(area)
    return replace(
        area,
        left_mm=area.left_mm + margin,
        top_mm=top + margin,
        right_mm=area.right_mm - margin,
        bottom_mm=bottom - margin,
    )


def perimeter_ring(bounds: Sequence[tuple[float, float, float, float]], sheet: SheetRecipe) -> Ring | None:
    """(n, 2) ring of the perimeter round boxes of stickers, sheet mm; None where there is none."""
    if sheet.perimeter_cut == "none" or not bounds:
        return None
    left, top, right, bottom = np.array(bounds).T
    box = shapely.box(left.min(), top.min(), right.max(), bottom.max())
    margin = sheet.perimeter_margin_mm
    grown = shapely.buffer(box, margin, quad_segs=quarter_segments(margin))
    return np.asarray(shapely.get_coordinates(grown.exterior)[:-1])


def perimeter_lines(
    ring: Ring, how: Literal["through", "perforate"], tooling: Tooling = USUAL
) -> tuple[str, list[Ring], Sequence[Chain]]:
    """Process, lines and curves of a perimeter."""
    curve = fit_curves([ring], 0.05)[0]
    if how == "perforate":
        loop = perforate(curve.flat(), CUT_MM, TIE_MM, tooling.tie_gf_per_mm, curve)
        return "perforate", list(loop.cuts), loop.parts
    return "through", [curve.flat()], [curve]
