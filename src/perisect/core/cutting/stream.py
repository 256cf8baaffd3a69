"""What is sent to the plotter, line by line."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from perisect.core.cutting.knife import KnifeSettings, axis_path, with_overcut
from perisect.core.cutting.order import CutLine
from perisect.core.cutting.registration import Registration
from perisect.core.formats.hpgl import PENS, stroke_text
from perisect.core.units import HPGL_UNITS_PER_MM

STRIP_FROM_MM = (3.0, 3.0)
STRIP_TO_MM = (9.0, 3.0)
"""A short cut on the strip beside the sheet turns the blade to a known heading."""

SPEED_CM_S = {"crease": 15, "kiss": 20, "weed": 20, "perforate": 10, "slit": 15, "through": 15}
FORCE_G = {"crease": 40, "kiss": 90, "weed": 90, "perforate": 180, "slit": 180, "through": 180}


@dataclass(frozen=True)
class Command:
    """HPGL of one line; `line` is its number in the order (from 0), None for the opening."""

    line: int | None
    text: str


def commands(
    lines: Sequence[CutLine], registration: Registration, knife: KnifeSettings, first: int = 0
) -> Iterator[Command]:
    """The opening, then every line from number `first` on, each a whole stroke of its own."""
    strip = np.array([STRIP_FROM_MM, STRIP_TO_MM])
    yield Command(None, f"IN;SP1;{stroke_text(_units(strip))}")
    heading = float(np.arctan2(*(strip[1] - strip[0])[::-1]))
    process = None
    for number, line in enumerate(lines[first:], start=first):
        text = ""
        if line.process != process:
            process = line.process
            text = f"SP{PENS[process]};VS{SPEED_CM_S[process]};FS{FORCE_G[process]};"
        path = with_overcut(line.ring, knife.overcut_mm) if line.closed else line.ring
        tip = registration.apply(path)
        axis, heading = axis_path(tip, heading, knife)
        yield Command(number, text + stroke_text(_units(axis)))


def closing() -> str:
    """Lift, put the tool away and go home."""
    return "PU;SP0;PA0,0;"


def _units(points_mm: np.ndarray) -> np.ndarray:
    return np.round(points_mm * HPGL_UNITS_PER_MM).astype(np.int64)
