"""How long a path takes: acceleration and cornering decide, not top speed alone.

Straight segments with a trapezoid of speed each. The speed at a corner is what keeps the sideways
acceleration of a small arc across it (junction deviation) within the machine's; then one pass forward
and one backward make every corner reachable. The passes are running minima of v² against distance, so
no loop runs over segments.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class Carriage:
    """Limits of a plotter's carriage."""

    speed_mm_s: float = 200.0
    travel_mm_s: float = 400.0
    acceleration_mm_s2: float = 3000.0
    junction_mm: float = 0.02


def path_seconds(
    points: NDArray[np.float64], carriage: Carriage, speed_mm_s: float | None = None
) -> NDArray[np.float64]:
    """Seconds each of the (n - 1) segments of an (n, 2) path in mm takes, from rest to rest."""
    steps = np.diff(points, axis=0)
    length = np.hypot(steps[:, 0], steps[:, 1])
    top = speed_mm_s or carriage.speed_mm_s
    a = carriage.acceleration_mm_s2
    if len(length) == 0:
        return np.zeros(0)
    safe = np.maximum(length, 1e-9)
    unit = steps / safe[:, None]
    cosine = np.clip(np.sum(unit[:-1] * unit[1:], axis=1), -1, 1)
    half = np.sqrt((1 + cosine) / 2)  # cos of half the turn: 1 straight on, 0 back on itself
    with np.errstate(divide="ignore"):
        corner = a * carriage.junction_mm * half / np.maximum(1 - half, 1e-12)
    squared = np.concatenate([[0.0], np.minimum(corner, top * top), [0.0]])
    # v² may grow by 2 a s along s: least over all earlier corners of (v² - 2 a s), then the same back.
    reach = 2 * a * np.concatenate([[0.0], np.cumsum(length)])
    squared = np.minimum.accumulate(squared - reach) + reach
    squared = (np.minimum.accumulate((squared + reach)[::-1])[::-1]) - reach
    squared = np.maximum(squared, 0)
    start, end = np.sqrt(squared[:-1]), np.sqrt(squared[1:])
    peak = np.minimum(np.sqrt((squared[:-1] + squared[1:]) / 2 + a * length), top)
    ramp = (2 * peak**2 - squared[:-1] - squared[1:]) / (2 * a)
    cruise = np.maximum(length - ramp, 0) / np.maximum(peak, 1e-9)
    return (2 * peak - start - end) / a + cruise
