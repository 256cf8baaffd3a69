"""A person who jogs the blade over each mark, played: true to about a tenth of a mm, in the jog's smallest steps."""

from collections.abc import Callable

import numpy as np

from perisect.core.cutting.program import Move
from perisect.core.cutting.registration import Registration, register
from perisect.core.cutting.sensing import MarkNotFound, SheetTurned, sense_marks
from perisect.devices.cut_run import CutJob, CutStopped, nominal
from perisect.devices.protocols import PlotterDriver

STEP_MM = 0.025
ERROR_MM = 0.1
"""How far off a person is, the root of the mean square, both axes together."""


def person(seed: int) -> Callable[[PlotterDriver, CutJob], Registration]:
    """Registration by a person of this seed."""
    eye = np.random.default_rng([seed, 10])

    def taken(plotter: PlotterDriver, job: CutJob) -> Registration:
        place = nominal(job.height_mm, job.corner_mm)
        try:
            # What a person sees without a sensor: where the mark truly lies.
            there = sense_marks(job.marks, job.mark_settings, place, plotter.look)
        except (MarkNotFound, SheetTurned) as error:
            raise CutStopped("A mark is not to be seen: clean it, or print the sheet again.") from error
        found = []
        for mark in there:
            off = eye.normal(0, ERROR_MM / np.sqrt(2), 2)
            x, y = np.round((np.array([mark.x_mm, mark.y_mm]) + off) / STEP_MM) * STEP_MM
            plotter.carry_out([Move((float(x), float(y)))])
            found.append((float(x), float(y)))
        return register([(m.x_mm, m.y_mm) for m in job.marks], found)

    return taken
