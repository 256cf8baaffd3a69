"""Motions as HPGL: 40 units a millimetre, one pen a process, VS and FS from the cut setting."""

from collections.abc import Sequence

import numpy as np

from perisect.core.cutting.program import Cut, Motion, Move, Tool
from perisect.core.units import HPGL_UNITS_PER_MM


class Hpgl:
    """The language; every command ends with a semicolon."""

    name = "hpgl"
    answers = 2

    def encode(self, motions: Sequence[Motion]) -> str:
        """A stroke is PU to its first point, PD along the rest, PU."""
        return "".join(self._one(motion) for motion in motions)

    def parking(self) -> str:
        """Lift, no pen, home."""
        return "PU;SP0;PA0,0;"

    def question(self) -> str:
        """Where it is (OA) and its error (OE), answered in their turn: what came before is carried out then."""
        return "OA;OE;"

    def error_of(self, answers: Sequence[str]) -> str | None:
        """OE's number when it is not 0."""
        error = answers[1].strip()
        return None if error == "0" else f"error {error}"

    def position_of(self, answers: Sequence[str]) -> tuple[float, float] | None:
        """OA's first two numbers, in steps of a fortieth of a mm."""
        try:
            x, y = (int(part) / HPGL_UNITS_PER_MM for part in answers[0].split(",")[:2])
        except ValueError:
            return None
        return x, y

    def _one(self, motion: Motion) -> str:
        match motion:
            case Tool():
                return f"SP{motion.pen};VS{motion.speed_cm_s:g};FS{motion.force:g};"
            case Move():
                x, y = _units(np.array(motion.to_mm)).tolist()
                return f"PU{x},{y};"
            case Cut(lightly=None):
                return f"{_down(motion.path_mm[1:])}PU;"
            case Cut():
                return _lightly_at_corners(motion)
            case _:
                return ""


def _down(points_mm: np.ndarray) -> str:
    return f"PD{','.join(map(str, _units(points_mm).ravel().tolist()))};"


def _lightly_at_corners(cut: Cut) -> str:
    """The knife stays down; FS says before each run of ways how hard."""
    assert cut.lightly is not None
    starts = np.flatnonzero(np.diff(cut.lightly, prepend=~cut.lightly[:1])).tolist()
    told = []
    for begin, end in zip(starts, [*starts[1:], len(cut.lightly)], strict=True):
        force = cut.light if cut.lightly[begin] else cut.force
        told.append(f"FS{force:g};{_down(cut.path_mm[begin + 1 : end + 1])}")
    return "".join(told) + f"PU;FS{cut.force:g};"


def _units(points_mm: np.ndarray) -> np.ndarray:
    return np.round(points_mm * HPGL_UNITS_PER_MM).astype(np.int64)
