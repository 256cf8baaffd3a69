"""What one copy of a piece takes of a sheet, from its lines."""

from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.lines import CutLines
from perisect.core.process import TABLE
from perisect.core.sheet.fill import Footprint
from perisect.core.sheet.recipe import SheetRecipe


def footprint_of(key: str, copies: int, lines: CutLines) -> Footprint:
    """The footprint of a piece with these lines."""
    left, top, right, bottom = lines.taken.bounds
    filled = shapely.polygons(shapely.get_exterior_ring(shapely.get_parts(lines.taken)))
    return Footprint(
        key=key,
        width_mm=lines.width_mm,
        height_mm=lines.height_mm,
        left_mm=left,
        top_mm=top,
        right_mm=right,
        bottom_mm=bottom,
        area_mm2=float(shapely.area(filled).sum()),
        copies=copies,
        shape=one_shape(filled),
    )


def clearance_mm(lines: CutLines, sheet: SheetRecipe) -> float:
    """What a piece adds to half the gap round it where a line of it can set it free."""
    frees = any(TABLE[process].frees for process in lines.by_process() if process in TABLE)
    if sheet.common_line or not frees:
        return 0.0
    return max(0.0, ((sheet.through_gap_mm or 0.0) - sheet.gap_mm) / 2)


def with_clearance(footprint: Footprint, more_mm: float) -> Footprint:
    """A footprint that keeps further from its neighbours."""
    if more_mm == 0:
        return footprint
    return replace(
        footprint,
        left_mm=footprint.left_mm - more_mm,
        top_mm=footprint.top_mm - more_mm,
        right_mm=footprint.right_mm + more_mm,
        bottom_mm=footprint.bottom_mm + more_mm,
        shape=shapely.buffer(footprint.outline, more_mm, quad_segs=16),
    )


def one_shape(filled: NDArray[np.object_]) -> shapely.Polygon:
    """One shape for what a piece takes: of several parts, their hull."""
    if len(filled) == 1:
        return filled[0]
    return shapely.convex_hull(shapely.multipolygons(filled))
