"""One line round everything on a sheet, so that it leaves as one card of stickers."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
import shapely

from perisect.core.curve import Curve
from perisect.core.formats import Ring
from perisect.core.job.recipe import SheetRecipe
from perisect.core.lines.curves import fit_curves
from perisect.core.lines.material import FACES, FaceName
from perisect.core.lines.perforate import perforate
from perisect.core.lines.polygons import quarter_segments
from perisect.core.sheet import UsableArea
from perisect.core.sheet.grid import clear_band

CUT_MM, TIE_MM = 5.0, 0.7
BLOCK_OWNER = -1
"""Whose line a block is: no sticker's."""


def area_inside_block(area: UsableArea, sheet: SheetRecipe) -> UsableArea:
    """Where stickers may stand so that a block round them stays between the marks."""
    if sheet.block == "none" or not area.notches:
        return area
    margin = sheet.block_margin_mm
    top, bottom = clear_band(area)
    return replace(
        area,
        left_mm=area.left_mm + margin,
        top_mm=top + margin,
        right_mm=area.right_mm - margin,
        bottom_mm=bottom - margin,
    )


def block_ring(bounds: Sequence[tuple[float, float, float, float]], sheet: SheetRecipe) -> Ring | None:
    """(n, 2) ring of the block round boxes of stickers, sheet mm; None where there is none."""
    if sheet.block == "none" or not bounds:
        return None
    left, top, right, bottom = np.array(bounds).T
    box = shapely.box(left.min(), top.min(), right.max(), bottom.max())
    margin = sheet.block_margin_mm
    grown = shapely.buffer(box, margin, quad_segs=quarter_segments(margin))
    return np.asarray(shapely.get_coordinates(grown.exterior)[:-1])


def block_lines(
    ring: Ring, how: Literal["through", "perforate"], face: FaceName = "paper"
) -> tuple[str, list[Ring], list[Curve]]:
    """Process, lines and (of a whole line) curves of a block."""
    if how == "perforate":
        cuts = perforate(ring, CUT_MM, TIE_MM, FACES[face].tie_gf_per_mm).cuts
        return "perforate", list(cuts), []
    curve = fit_curves([ring], 0.05)[0]
    return "through", [curve.flat()], [curve]
