"""Rows that reach into each other: every second one a half step along, or a half turn round, or both."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.sheet.fill import Footprint
from perisect.core.sheet.grid import clear_band
from perisect.core.sheet.inflated import with_half_gap
from perisect.core.sheet.placement import Placement, placed, pose
from perisect.core.sheet.usable import UsableArea

RowStyle = Literal["straight", "half_turn", "half_step"]

STEP_MM = 1.0
"""How finely the distance of two rows is searched before it is halved to a hundredth."""
LEAST_PITCH = 0.5
"""Rows come no nearer than half a piece's height and gap, so that a row never meets the next but one."""


@dataclass(frozen=True)
class _Rows:
    """Upright rows of `first` and between them rows of `second`, which lies `shift` further along; a row every
    `pitch`. Both shapes have their box at the origin."""

    first: shapely.Polygon
    second: shapely.Polygon
    shift_mm: float
    pitch_mm: float


@lru_cache(maxsize=64)
def staggered(
    area: UsableArea, footprint: Footprint, gap_mm: float, style: RowStyle
) -> tuple[Placement, ...]:
    """The fullest sheet in rows of a style, upright or lying; pieces in reading order."""
    best: list[Placement] = []
    for base in (0.0, 90.0):
        found = _fullest(area, footprint, gap_mm, base, style)
        if len(found) > len(best):
            best = found
    return tuple(best)


def _fullest(
    area: UsableArea, footprint: Footprint, gap: float, base: float, style: RowStyle
) -> list[Placement]:
    flip = 180.0 if style == "half_turn" else 0.0
    shapes, shifts = [], []
    for turn in (base, base + flip):
        shape = placed(footprint.outline, pose("", turn, 0.0, 0.0))
        left, top, right, bottom = shape.bounds
        shapes.append(shapely.transform(shape, lambda xy, at=(left, top): xy - at))
        shifts.append((left, top))
    width, height = right - left, bottom - top
    column = width + gap
    inflated = [with_half_gap(shape, gap) for shape in shapes]
    parts = (0.5,) if style == "half_step" else (0.0, 0.25, 0.5, 0.75)
    best: list[Placement] = []
    for part in parts:
        shift = part * column
        pitch = max(
            _row_pitch(inflated[0], inflated[1], shift, column, height + gap),
            _row_pitch(inflated[1], inflated[0], -shift, column, height + gap),
        )
        rows = _Rows(shapes[0], shapes[1], shift, pitch)
        for start in {area.top_mm, clear_band(area)[0]}:
            found = _on_area(area, rows, column, start, height)
            if len(found) > len(best):
                turns = (base % 360, (base + flip) % 360)
                best = [
                    pose(footprint.key, turns[odd], x - shifts[odd][0], y - shifts[odd][1])
                    for odd, x, y in found
                ]
    return best


def _row_pitch(
    above: shapely.Polygon, below: shapely.Polygon, shift: float, column: float, most: float
) -> float:
    """The least distance at which a row of one shape stands clear below a row of the other."""
    sideways = [shift + n * column for n in (-1, 0, 1)]

    def clear(pitches: NDArray[np.float64]) -> NDArray[np.bool_]:
        moved = [
            shapely.transform(below, lambda xy, by=(dx, dy): xy + by) for dy in pitches for dx in sideways
        ]
        meets = shapely.relate_pattern(np.array(moved), above, "T********")
        return np.asarray(~meets.reshape(len(pitches), len(sideways)).any(axis=1))

    steps = np.append(np.arange(most, most * LEAST_PITCH, -STEP_MM), most * LEAST_PITCH)
    met = np.flatnonzero(~clear(steps))
    if not len(met):
        return float(steps[-1])
    if met[0] == 0:
        return most
    high, low = float(steps[met[0] - 1]), float(steps[met[0]])
    while high - low > 0.01:
        middle = (high + low) / 2
        high, low = (middle, low) if clear(np.array([middle]))[0] else (high, middle)
    return high


def _on_area(
    area: UsableArea, rows: _Rows, column: float, start: float, height: float
) -> list[tuple[int, float, float]]:
    """Whether each piece is of the second kind, and the corner of its box: those that lie in the area."""
    count = int((area.bottom_mm - start - height) // rows.pitch_mm) + 1 if rows.pitch_mm > 0 else 0
    corners = []
    for row in range(max(0, count)):
        odd = row % 2
        first = area.left_mm + (rows.shift_mm % column if odd else 0.0)
        across = int((area.right_mm - first) // column) + 1
        corners += [(odd, first + n * column, start + row * rows.pitch_mm) for n in range(across)]
    if not corners:
        return []
    kinds = (rows.first, rows.second)
    shapes = [shapely.transform(kinds[odd], lambda xy, at=(x, y): xy + at) for odd, x, y in corners]
    return [corner for corner, inside in zip(corners, area.hold(np.array(shapes)), strict=True) if inside]
