"""How long the lines of one piece take to cut."""

import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.motion import Motion, path_seconds
from perisect.core.cutting.stream import SPEED_CM_S
from perisect.core.formats import OPEN, rings_of
from perisect.core.lines import CutLines

CARRIAGE = Motion()
LIFT_S = 0.08
"""The knife down and up again."""


def cut_seconds(lines: CutLines) -> float:
    """Seconds of cutting, without the travel between pieces. The ties of a loop are travelled in passing."""
    total = 0.0
    for process, shape in lines.by_process().items():
        rings = rings_of(shape)
        paths: list[NDArray[np.float64]]
        if process in OPEN:
            paths = [np.vstack(rings)] if rings else []
        else:
            paths = [np.vstack([ring, ring[:1]]) for ring in rings]
        speed = SPEED_CM_S[process] * 10.0
        total += sum(float(path_seconds(path, CARRIAGE, speed).sum()) for path in paths) + LIFT_S * len(rings)
    return total
