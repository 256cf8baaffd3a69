"""Which stickers of a sheet that lies in the plotter still are lifted at a corner."""

from dataclasses import dataclass

import numpy as np

from perisect.core.cutting.lifting import corners_to_lift
from perisect.services.picture_slip import NothingCut
from perisect.store import runs
from perisect.store.database import transaction
from perisect.store.models import Run
from perisect.store.runs import UnknownRun


@dataclass(frozen=True)
class Corners:
    """Numbers (from 0) of the stickers to lift, and whether this is the first sheet cut with its settings."""

    stickers: list[int]
    is_first: bool


def corners_of(run_id: int) -> Corners:
    """Of a run.

    Raises:
        UnknownRun, NothingCut.
    """
    with transaction() as session:
        run = session.get(Run, run_id)
        if run is None:
            raise UnknownRun(run_id)
        if not run.stickers:
            raise NothingCut
        boxes = np.array([each["box"] for each in run.stickers], float)
        is_first = runs.is_first_with_its_settings(session, run)
    return Corners(corners_to_lift((boxes[:, :2] + boxes[:, 2:]) / 2, is_first), is_first)
