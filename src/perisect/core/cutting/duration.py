"""How long a cut takes and how far the carriage goes, told before it begins."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.carriage import Carriage, path_seconds
from perisect.core.cutting.program import Cut, Motion, Move, Step, Tool

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


class Carried:
    """A carriage on its way: where it is, mm of the plate, and the speed of its knife, mm/s."""

    def __init__(self, carriage: Carriage) -> None:
        self._carriage, self._at, self._speed = carriage, np.array(HOME), carriage.speed_mm_s

    def take(self, motions: Iterable[Motion]) -> Duration:
        """Make motions, each from rest to rest."""
        total = Duration()
        for motion in motions:
            match motion:
                case Tool():
                    self._speed = motion.speed_cm_s * 10
                case Move():
                    seconds, length = self._go(np.array([motion.to_mm]), self._carriage.travel_mm_s)
                    total += Duration(seconds, travel_mm=length)
                case Cut():
                    seconds, length = self._go(motion.path_mm[1:], self._speed)
                    total += Duration(seconds, draw_mm=length)
                case _:
                    pass
        return total

    def _go(self, places_mm: NDArray[np.float64], speed_mm_s: float) -> tuple[float, float]:
        path = np.vstack([self._at, places_mm])
        self._at = path[-1]
        seconds = float(path_seconds(path, self._carriage, speed_mm_s).sum())
        return seconds, float(np.hypot(*np.diff(path, axis=0).T).sum())


def duration(motions: Iterable[Motion], carriage: Carriage) -> Duration:
    """Of motions from home, and home again.

    Args:
        carriage: what the plotter's carriage can do.
    """
    carried = Carried(carriage)
    return carried.take(motions) + carried.take([Move(HOME)])


def duration_by_step(steps: Sequence[Step], carriage: Carriage) -> list[Duration]:
    """Of each step, from where the one before ended; the first from home."""
    carried = Carried(carriage)
    return [carried.take(step.motions) for step in steps]
