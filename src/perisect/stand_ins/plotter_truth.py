"""What is true of one plotter and nobody tells: where its sensor sits, how its belts, its gears and its mat are."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Points = NDArray[np.float64]


@dataclass(frozen=True)
class Truth:
    """All mm; scales as shares.

    `sensor_mm` is where the sensor looks beside the blade, `belts` how much farther than told each axis goes,
    `squareness` how far across it leans for each mm along, `repeat_mm` how far beside its place each line lies,
    `backlash_mm` what an axis loses when it turns about, `creep_mm` how far the sheet slips on its mat at each line,
    `thicker` by what share a stock's face is thicker 100 mm right of and below its middle, `dulls` whether the blade
    gets dull by what it cuts.
    """

    sensor_mm: tuple[float, float] = (0.0, 0.0)
    belts: tuple[float, float] = (0.0, 0.0)
    squareness: float = 0.0
    repeat_mm: float = 0.0
    backlash_mm: float = 0.0
    creep_mm: float = 0.0
    thicker: tuple[float, float] = (0.0, 0.0)
    dulls: bool = False

    def carried(self, points_mm: Points) -> Points:
        """Where the carriage really goes, (n, 2)."""
        x, y = np.asarray(points_mm, float).T
        return np.column_stack([x * (1 + self.belts[0]) + y * self.squareness, y * (1 + self.belts[1])])

    def played(self, path_mm: Points, rng: np.random.Generator) -> Points:
        """Where the blade goes on a path, (n, 2), its first point where it was."""
        path = self.carried(path_mm)
        if self.backlash_mm:
            way = np.sign(np.diff(path, axis=0, prepend=path[:1]))
            for axis in (0, 1):
                # What does not move an axis leaves it at the flank where it was.
                moved = np.maximum.accumulate(np.where(way[:, axis] != 0, np.arange(len(path)), 0))
                path[:, axis] -= self.backlash_mm / 2 * way[moved, axis]
        if self.repeat_mm:
            path = path + rng.normal(0, self.repeat_mm, 2)
        return path


WELL = Truth()


def truth_of(seed: int) -> Truth:
    """A plotter that was used for some years."""
    rng = np.random.default_rng([seed, 16])
    x, y = rng.normal(0, 0.12, 2)
    across, along = rng.normal(0, 0.0006, 2)
    return Truth(
        sensor_mm=(float(x), float(y)),
        belts=(float(across), float(along)),
        squareness=float(rng.normal(0, 0.0004)),
        repeat_mm=float(rng.uniform(0.005, 0.03)),
        backlash_mm=float(rng.uniform(0, 0.03)),
        creep_mm=float(rng.uniform(0, 0.004)),
        thicker=(float(rng.normal(0, 0.03)), float(rng.normal(0, 0.03))),
        dulls=True,
    )
