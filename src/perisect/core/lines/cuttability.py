"""What a knife meets along a line, measured."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely

from perisect.core.lines.cut_lines import CutLines
from perisect.core.lines.narrowest import NarrowPlaces, narrow_places
from perisect.core.lines.polygons import across
from perisect.core.lines.smooth import TURN_STEPS, tightest_bends

SHARP_DEG = 60.0


@dataclass(frozen=True)
class Cuttability:
    """What a knife meets along a design's own line: widths, bends and length, mm; turns per 100 mm."""

    narrow: NarrowPlaces
    tightest_mm: float
    tightest_at: tuple[float, float]
    turns_per_100: float
    smallest_loop_mm: float
    smallest_loop_at: tuple[float, float]
    length_mm: float


def measure(lines: CutLines) -> Cuttability:
    """Measure the piece's own line; what was measured is kept with the lines."""
    return _measured(lines.own.wkb, lines.tooling.narrow_mm)


@lru_cache(maxsize=512)
def _measured(wkb: bytes, narrow_mm: float) -> Cuttability:
    shape = shapely.from_wkb(wkb)
    rings = shapely.get_rings(shapely.get_parts(shape))
    tightest, at, turns = np.inf, (0.0, 0.0), 0.0
    for ring in rings:
        points = shapely.get_coordinates(ring)[:-1]
        radius, turn = tightest_bends(points)
        if radius.min() < tightest:
            tightest = float(radius.min())
            place = shapely.get_coordinates(
                shapely.line_interpolate_point(
                    ring, (int(radius.argmin()) + (TURN_STEPS + 1) / 2) / len(radius), normalized=True
                )
            )[0]
            at = (float(place[0]), float(place[1]))
        sharp = turn > SHARP_DEG
        turns += float(np.count_nonzero(sharp & ~np.roll(sharp, 1)))
    length = float(shapely.length(rings).sum())
    width = across(rings)
    small = int(width.argmin())
    x, y = shapely.get_coordinates(shapely.centroid(rings[small]))[0]
    return Cuttability(
        narrow_places(shape, narrow_mm),
        tightest,
        at,
        turns / length * 100,
        float(width[small]),
        (float(x), float(y)),
        length,
    )
