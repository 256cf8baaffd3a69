"""How long a cut takes and how far the carriage goes, told before it begins."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from perisect.core.cutting.carriage import Carriage, path_seconds
from perisect.core.cutting.program import Cut, Motion, Move, Tool

HOME = (0.0, 0.0)


@dataclass(frozen=True)
class Duration:
    """Seconds, and mm with the knife up and down."""

    seconds: float = 0.0
    travel_mm: float = 0.0
    draw_mm: float = 0.0

    def __add__(self, other: "Duration") -> "Duration":
        return Duration(
            self.seconds + other.seconds, self.travel_mm + other.travel_mm, self.draw_mm + other.draw_mm
        )


def duration(motions: Iterable[Motion], carriage: Carriage, start_mm: tuple[float, float] = HOME) -> Duration:
    """Of motions from a place of the plate and home again, each from rest to rest.

    Args:
        carriage: what the plotter's carriage can do.
    """
    at, speed, total = np.array(start_mm), carriage.speed_mm_s, Duration()
    for motion in motions:
        match motion:
            case Tool():
                speed = motion.speed_cm_s * 10
            case Move():
                path = np.vstack([at, motion.to_mm])
                total += Duration(
                    float(path_seconds(path, carriage, carriage.travel_mm_s).sum()), _length(path)
                )
                at = path[-1]
            case Cut():
                path = np.vstack([at, motion.path_mm[1:]])
                total += Duration(float(path_seconds(path, carriage, speed).sum()), 0.0, _length(path))
                at = path[-1]
            case _:
                pass
    home = np.vstack([at, HOME])
    return total + Duration(float(path_seconds(home, carriage, carriage.travel_mm_s).sum()), _length(home))


def _length(path: np.ndarray) -> float:
    return float(np.hypot(*np.diff(path, axis=0).T).sum())
