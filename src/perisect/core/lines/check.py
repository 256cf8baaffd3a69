"""Findings of the Cut lines station: what the knife will meet."""

from math import ceil

import numpy as np
import shapely
from scipy.sparse.csgraph import minimum_spanning_tree

from perisect.core.finding import Finding, Remedy
from perisect.core.lines.border import CutLines

BLADE_OFFSET_MM = 0.25
SMALLEST_LOOP = 3.0
"""A drag knife cannot close a loop smaller across than about this many blade offsets."""

MOST_PARTS_FOR_JOIN = 400


def line_findings(design: str, name: str, lines: CutLines, border_mm: float) -> list[Finding]:
    """Loose pieces with the border that would join them, and loops too small for the knife."""
    found = []
    if lines.pieces > 1:
        found.append(_loose_pieces(design, name, lines, border_mm))
    found.extend(_small_loops(design, name, lines))
    return found


def least_joining_border(lines: CutLines) -> float | None:
    """Half the longest edge of the minimum spanning tree of the gaps between the outline's parts, mm.

    None when the outline is one part, or so many that they are specks rather than parts.
    """
    parts = shapely.get_parts(lines.outline)
    if not 1 < len(parts) <= MOST_PARTS_FOR_JOIN:
        return None
    near = shapely.simplify(parts, 0.02)
    gaps = shapely.distance(near[:, None], near[None, :])
    # The graph routine takes 0 for "no edge"; touching parts still need one.
    tree = minimum_spanning_tree(np.maximum(gaps, 1e-9) * (1 - np.eye(len(parts))))
    return float(tree.data.max()) / 2


def _loose_pieces(design: str, name: str, lines: CutLines, border_mm: float) -> Finding:
    joining = least_joining_border(lines)
    wanted = ceil((joining + 0.02) * 10) / 10 if joining is not None else None
    remedy = None
    if wanted is not None and border_mm < wanted <= 20:
        remedy = Remedy(label=f"Border {wanted:g} mm", field="border_mm", value=wanted)
    smallest = min(shapely.get_parts(lines.kiss), key=shapely.area)
    x, y = shapely.get_coordinates(smallest.representative_point())[0]
    joins = f" They join at a border of {wanted:g} mm." if wanted is not None else ""
    return Finding(
        code="loose_pieces",
        station="lines",
        severity="look",
        design=design,
        where_mm=(float(x), float(y)),
        measured=lines.pieces,
        limit=1,
        unit="pieces",
        text=f"{name} comes apart into {lines.pieces} stickers.{joins}",
        remedy=remedy,
    )


def _small_loops(design: str, name: str, lines: CutLines) -> list[Finding]:
    parts = shapely.get_parts(lines.kiss)
    holes = shapely.get_rings(parts)
    across = shapely.minimum_bounding_radius(holes) * 2
    limit = SMALLEST_LOOP * BLADE_OFFSET_MM
    small = np.flatnonzero(across < limit)
    if len(small) == 0:
        return []
    x, y = shapely.get_coordinates(shapely.centroid(holes[small[0]]))[0]
    return [
        Finding(
            code="small_loop",
            station="lines",
            severity="look",
            design=design,
            where_mm=(float(x), float(y)),
            measured=round(float(across[small].min()), 2),
            limit=limit,
            unit="mm",
            text=f"{len(small)} {'loop' if len(small) == 1 else 'loops'} of {name} under {limit:g} mm across: "
            "the knife tears such a loop instead of closing it.",
        )
    ]
