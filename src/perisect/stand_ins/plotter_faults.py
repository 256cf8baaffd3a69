"""What can go wrong at a plotter, each as its sensor, its carriage or its line shows it."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Grey = NDArray[np.float32]

SEEN = ("shine", "dark", "bright")
"""Faults of light."""
LAID = ("turned", "wrong-sheet", "face-down")
"""Faults of how, and which, sheet is laid in."""
STOPPED = ("power-cut", "cable", "lost-bytes", "stall")
"""Faults that end a run in the middle of a line."""
MOVED = "sheet-moved"
PLOTTER_FAULTS = (*SEEN, *LAID, MOVED, *STOPPED)


@dataclass
class Trouble:
    """A fault as one machine has it, by its seed."""

    name: str
    seed: int

    def __post_init__(self) -> None:
        self._rng = np.random.default_rng([self.seed, 7])
        self.share = float(self._rng.uniform(0.1, 0.9))
        """Where on the sheet, or how far into its lines, it happens."""
        self.moved_mm = self._rng.uniform(0.5, 1.8) * np.array(
            [np.cos(way := self._rng.uniform(0, 2 * np.pi)), np.sin(way)]
        )
        self.corner = self._rng.integers(0, 2, 2)
        self._strength = float(self._rng.uniform(0, 1))

    def light(self, seen: Grey, x_mm: float, y_mm: float, middle_mm: tuple[float, float]) -> Grey:
        """What the sensor sees of an (h, w) view, levels, about a place of a sheet whose middle is there."""
        match self.name:
            case "dark":
                return np.asarray(seen * np.float32(0.05 + 0.05 * self._strength) + 3, np.float32)
            case "bright":
                return np.asarray(seen * np.float32(0.25) + np.float32(215 + 15 * self._strength), np.float32)
            case "shine" if self._shines(x_mm, y_mm, middle_mm):
                return self._glare(seen)
            case _:
                return seen

    def _shines(self, x_mm: float, y_mm: float, middle_mm: tuple[float, float]) -> bool:
        right, high = x_mm > middle_mm[0], y_mm > middle_mm[1]
        return bool(right == bool(self.corner[0]) and high == bool(self.corner[1]))

    def _glare(self, seen: Grey) -> Grey:
        """A broad streak of light over the middle, whiter than any paper."""
        height, width = seen.shape
        spot = np.zeros_like(seen)
        middle = (round(width * (0.42 + 0.16 * self._strength)), height // 2)
        reach = (round(width * (0.2 + 0.1 * self._strength)), round(height * 0.32))
        cv2.ellipse(spot, middle, reach, 40, 0, 360, 1.0, -1)
        spot = np.asarray(cv2.GaussianBlur(spot, (0, 0), width * 0.04), np.float32)
        return np.asarray(seen * (1 - spot) + 275 * spot, np.float32)

    def laid(self, grey: NDArray[np.uint8], px_per_mm: float) -> NDArray[np.uint8]:
        """The sheet that really lies there."""
        match self.name:
            case "turned":
                return np.ascontiguousarray(np.rot90(grey, 2))
            case "face-down":
                return np.full_like(grey, 246)
            case "wrong-sheet":
                return self._other(grey, px_per_mm)
            case _:
                return grey

    def _other(self, grey: NDArray[np.uint8], px_per_mm: float) -> NDArray[np.uint8]:
        """A sheet of another job, whose marks are larger or smaller: each corner's part is drawn at that size."""
        side, factor = round(28 * px_per_mm), 0.62 if self._strength < 0.5 else 1.5
        other = grey.copy()
        height, width = grey.shape
        for top in (0, height - side):
            for left in (0, width - side):
                part = grey[top : top + side, left : left + side]
                dark = cv2.GaussianBlur(255 - part.astype(np.float32), (0, 0), 2 * px_per_mm)
                _, _, _, (x, y) = cv2.minMaxLoc(dark)
                warp = np.array([[factor, 0, x * (1 - factor)], [0, factor, y * (1 - factor)]])
                drawn = cv2.warpAffine(part, warp, (side, side), borderValue=255, flags=cv2.INTER_AREA)
                other[top : top + side, left : left + side] = drawn
        return other
