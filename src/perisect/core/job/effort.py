"""How long the lines of one piece take to cut."""

import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.carriage import Carriage, path_seconds
from perisect.core.formats import rings_of
from perisect.core.lines import CutLines
from perisect.core.process import process as process_named

CARRIAGE = Carriage()
LIFT_S = 0.08
"""The knife down and up again."""


def cut_seconds(lines: CutLines) -> float:
    """Seconds of cutting, without the travel between pieces. The ties of a loop are travelled in passing."""
    total = 0.0
    for name, shape in lines.by_process().items():
        process = process_named(name)
        rings = rings_of(shape)
        paths: list[NDArray[np.float64]]
        if not process.closed:
            paths = [np.vstack(rings)] if rings else []
        else:
            paths = [np.vstack([ring, ring[:1]]) for ring in rings]
        speed = process.speed_cm_s * 10.0
        total += sum(float(path_seconds(path, CARRIAGE, speed).sum()) for path in paths) + LIFT_S * len(rings)
    return total
