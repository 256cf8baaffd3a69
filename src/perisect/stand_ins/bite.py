"""How deep the simulated blade goes: the force-to-depth curve of this blade in this stock, which nobody is told.

Depth grows as a power of force. What is seen of a cut depends on depth against face and liner, shaken from cut to cut
by the thickness of the stock and the blade's seat.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from perisect.core.cutting.belief import ANSWERS, Answer
from perisect.core.process import process
from perisect.core.sheet.force import ForceScale

MAT_UM = 250.0
"""Of the mat so much may be scratched before it is cut up."""


@dataclass(frozen=True)
class Bite:
    """One blade in one stock at one plotter."""

    seed: int
    face_um: float
    liner_um: float
    scale: ForceScale
    process: str = "kiss"
    wear_m: float = 0.0
    """Metres this blade has cut: a dull one needs more force."""

    @cached_property
    def truth(self) -> tuple[float, float, float, tuple[float, float, float, float]]:
        """Power of the curve, force at the middle of the window, noise of the logarithm of depth, and the depths, um,
        at which it turns ragged, clean, marked and through."""
        rng = np.random.default_rng([self.seed, 6])
        gamma = rng.uniform(0.55, 1.0)
        hard = np.exp(rng.normal(0, 0.38))
        noise = rng.uniform(0.02, 0.09)
        frays, marks, goes = rng.uniform(0.05, 0.18), rng.uniform(0.2, 0.5), rng.uniform(0.75, 1.0)
        record = process(self.process)
        if record.frees:
            must, soft = self.face_um + self.liner_um, MAT_UM
        else:
            must, soft = self.face_um, max(self.liner_um, 20.0)
        depths = (must * (1 - frays), must, must + marks * soft, must + goes * soft)
        middle = record.force_share * self.scale.most * hard * (1 + self.wear_m / 400) * np.sqrt(must / 90)
        return gamma, float(middle), noise, depths

    def depth_um(self, force: float) -> float:
        """How deep it goes, noise apart."""
        gamma, middle, _, depths = self.truth
        return float(np.sqrt(depths[1] * depths[2]) * (force / middle) ** gamma)

    def nominal(self, force: float) -> Answer:
        """What most cuts at this force are."""
        return self._kind(self.depth_um(force))

    def look(self, force: float, rng: np.random.Generator) -> Answer:
        """What one shape is."""
        return self._kind(self.depth_um(force) * float(np.exp(rng.normal(0, self.truth[2]))))

    def _kind(self, depth_um: float) -> Answer:
        return ANSWERS[int(np.searchsorted(self.truth[3], depth_um))]
