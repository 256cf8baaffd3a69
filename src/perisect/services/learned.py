"""What the log says of a plotter and a stock: how it is off, how it scatters, and which border is safe."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from sqlalchemy.orm import Session

from perisect.core.cutting.error_map import History
from perisect.core.cutting.trueing import Trueing
from perisect.core.ledger.calibration import Calibration, calibrate
from perisect.core.ledger.machine_history import history_of
from perisect.core.ledger.measured_slips import MeasuredSheet
from perisect.core.ledger.safe_border import SafeBorder, safe_border
from perisect.services.devices import plotter_at
from perisect.store import trueings
from perisect.store.database import transaction


@dataclass(frozen=True)
class Learned:
    """What is known of a plotter, and what its cuts are trued by now; `sheets` were measured."""

    name: str
    sheets: int
    calibration: Calibration | None
    trueing: Trueing


def learned_of(plotter: str) -> Learned:
    """What the log says of a plotter.

    Raises:
        DeviceError: the shop has none of this id.
    """
    name = plotter_at(plotter).record.name
    with transaction() as session:
        sheets, trueing = trueings.sheets_of(session, plotter), trueings.of(session, plotter)
    return Learned(name, len(sheets), calibrate(sheets), trueing)


class NothingReal(Exception):
    """Nothing of a plotter's error is sure enough to be taken out."""


def true_plotter(plotter: str) -> Learned:
    """Take what is real of a plotter's error out of every cut from now on; asked twice it is done once, for what a cut
    was trued by is counted with what it was off by.

    Raises:
        NothingReal, DeviceError.
    """
    plotter_at(plotter)
    with transaction() as session:
        found = calibrate(trueings.sheets_of(session, plotter))
        if found is None or not found.real:
            raise NothingReal
        trueings.save(session, plotter, found.trueing)
    return learned_of(plotter)


def leave_plotter(plotter: str) -> Learned:
    """Cut as the plotter does by itself.

    Raises:
        DeviceError: the shop has none of this id.
    """
    plotter_at(plotter)
    with transaction() as session:
        trueings.save(session, plotter, Trueing())
    return learned_of(plotter)


def history_at(session: Session, plotter: str) -> History:
    """How a plotter scatters; worked out once for the same log."""
    mark, trueing = trueings.last_measured(session, plotter), trueings.of(session, plotter)
    return _history(plotter, mark, trueing) if mark else History()


@lru_cache(maxsize=64)
def _history(plotter: str, mark: int, trueing: Trueing) -> History:
    with transaction() as session:
        return history_of(trueings.sheets_of(session, plotter), trueing)


@dataclass(frozen=True)
class Advised:
    """The least border that is safe, and of which group of sheets: this plotter and stock, this plotter, or all."""

    border: SafeBorder
    group: str


def advised_border(session: Session, plotter: str, stock: str) -> Advised | None:
    """By the log, of the narrowest group that has sheets enough; None where none has."""
    for group, groups in (("here", (plotter, stock)), ("plotter", (plotter, None)), ("shop", (None, None))):
        sheets = trueings.measured_sheets(session, *groups)
        found = _border(tuple((sheet.slips_mm.tobytes(), sheet.noise_mm.tobytes()) for sheet in sheets))
        if found is not None:
            return Advised(found, group)
    return None


@lru_cache(maxsize=64)
def _border(sheets: Sequence[tuple[bytes, bytes]]) -> SafeBorder | None:
    """Of sheets as the bytes of their slips and noise: the same log is worked out once."""
    return safe_border(
        [MeasuredSheet(np.frombuffer(slips).reshape(-1, 2), np.frombuffer(noise)) for slips, noise in sheets]
    )
