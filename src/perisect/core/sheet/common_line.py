"""Boxes that stand edge to edge are parted by one straight cut, not by two on top of each other."""

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.finding import Finding, SetField
from perisect.core.formats import Ring
from perisect.core.lines import CutLines
from perisect.core.message import says

SAME_MM = 0.02
"""Edges nearer to each other than this are one."""
BOX_SHARE = 0.999


def is_box(shape: shapely.Geometry) -> bool:
    """Whether a through line is an upright rectangle with square corners."""
    parts = shapely.get_parts(shape)
    if len(parts) != 1 or shapely.get_num_interior_rings(parts[0]):
        return False
    left, top, right, bottom = parts[0].bounds
    return bool(parts[0].area >= BOX_SHARE * (right - left) * (bottom - top) > 0)


def slits(rings: Sequence[Ring]) -> tuple[list[Ring], list[int]]:
    """Straight cuts along the edges of all boxes among the rings, each edge once, edges in a line joined; and the
    indices of the rings that are no boxes."""
    boxes, others = [], []
    for n, ring in enumerate(rings):
        if is_box(shapely.multipolygons([shapely.Polygon(ring)])):
            boxes.append([*ring.min(axis=0), *ring.max(axis=0)])
        else:
            others.append(n)
    if not boxes:
        return [], others
    left, top, right, bottom = np.array(boxes).T
    across = _joined(np.r_[top, bottom], np.r_[left, left], np.r_[right, right])
    down = _joined(np.r_[left, right], np.r_[top, top], np.r_[bottom, bottom])
    cuts = [np.array([(begin, at), (end, at)]) for at, begin, end in across]
    return cuts + [np.array([(at, begin), (at, end)]) for at, begin, end in down], others


def _joined(
    at: NDArray[np.float64], begin: NDArray[np.float64], end: NDArray[np.float64]
) -> list[tuple[float, float, float]]:
    """Stretches on lines, those on one line that touch or overlap made one."""
    found: list[tuple[float, float, float]] = []
    order = np.lexsort((begin, np.round(at / SAME_MM)))
    for place, first, last in zip(at[order], begin[order], end[order], strict=True):
        if found and abs(found[-1][0] - place) <= SAME_MM and first <= found[-1][2] + SAME_MM:
            found[-1] = found[-1][0], found[-1][1], max(found[-1][2], float(last))
        else:
            found.append((float(place), float(first), float(last)))
    return found


def common_line_findings(lines: dict[str, CutLines], names: dict[str, str]) -> list[Finding]:
    """Pieces whose lines cannot be shared, since they are no boxes."""
    found = []
    for key, drawn in lines.items():
        if is_box(drawn.by_process().get("through", shapely.MultiPolygon())):
            continue
        found.append(
            Finding(
                code="not_shared",
                station="sheet",
                severity="look",
                design=key,
                message=says("not_shared", name=names[key]),
                remedy=SetField.saying(says("remedy.share_no_lines"), field="sheet.common_line", value=False),
            )
        )
    return found
