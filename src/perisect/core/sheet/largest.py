"""How large a sticker can be so that a number of them fit on one sheet in rows and columns."""

import numpy as np

from perisect.core.sheet.fill import Footprint
from perisect.core.sheet.grid import best_grid, starts
from perisect.core.sheet.usable import UsableArea

LEAST_MM, MOST_MM = 5.0, 400.0
HAIR_MM = 1e-4
"""A size that just fits, less what rounding takes."""


def largest_for(area: UsableArea, footprint: Footprint, gap_mm: float, count: int) -> float | None:
    """The longest side at which `count` copies fit, mm; None where they do not fit at all.

    The lines keep their distance from the art, so a footprint is the art's box times its size, and a
    constant. At the largest size some row or column just fits between two things it cannot pass: the
    sizes at which one does are tried from the largest down.
    """
    longest = max(footprint.width_mm, footprint.height_mm)
    share = np.array([footprint.width_mm, footprint.height_mm]) / longest
    lines = np.array(
        [
            footprint.right_mm - footprint.left_mm - footprint.width_mm,
            footprint.bottom_mm - footprint.top_mm - footprint.height_mm,
        ]
    )
    room_mm2 = (area.right_mm - area.left_mm + gap_mm) * (area.bottom_mm - area.top_mm + gap_mm)
    many = np.arange(1, count + 5)
    sizes = {MOST_MM}
    for axis in (0, 1):
        spans = np.array([end - begin for begin in starts(area, axis) for end in _ends(area, axis)])
        room = (spans[:, None] + gap_mm) / many - gap_mm
        for side in (0, 1):  # upright, or turned
            fits = (room - lines[side]) / share[side]
            sizes.update(fits[(fits >= LEAST_MM) & (fits <= MOST_MM)].ravel().tolist())
    for size in sorted({*sizes, LEAST_MM}, reverse=True):
        width, height = share * (size - HAIR_MM) + lines
        if count * (width + gap_mm) * (height + gap_mm) > room_mm2:
            continue
        if width > 0 and height > 0 and best_grid(area, width, height, gap_mm).count >= count:
            return float(size - HAIR_MM)
    return None


def _ends(area: UsableArea, axis: int) -> list[float]:
    edge, begin = (area.right_mm, area.bottom_mm)[axis], (area.left_mm, area.top_mm)[axis]
    return sorted({edge, *(min(edge, notch[axis]) for notch in area.obstacles if notch[axis] > begin)})
