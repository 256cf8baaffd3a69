"""What a plotter is to do, line by line, as motions; a driver turns them into its plotter's language."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.knife import AxisPath, KnifeSettings, axis_path, with_overcut
from perisect.core.cutting.order import CutLine
from perisect.core.cutting.registration import Registration
from perisect.core.cutting.setting import CutSetting, default_setting
from perisect.core.process import process

STRIP_FROM_MM = (3.0, 3.0)
STRIP_TO_MM = (9.0, 3.0)
"""A short cut on the strip beside the sheet turns the blade to a known heading."""


@dataclass(frozen=True)
class Tool:
    """Take the tool of a process, with its speed in cm/s and force in the plotter's own steps."""

    process: str
    pen: int
    speed_cm_s: float
    force: float


@dataclass(frozen=True)
class Move:
    """Go to a place of the plate with the knife up, mm."""

    to_mm: tuple[float, float]


@dataclass(frozen=True)
class Cut:
    """Follow (n, 2) places of the plate with the knife down, mm: the first is where it comes down. `lightly`, (n - 1,),
    says on which ways the blade only turns, at force `light` instead of `force`, where it is told to."""

    path_mm: NDArray[np.float64]
    lightly: NDArray[np.bool_] | None = None
    light: float = 0.0
    force: float = 0.0


@dataclass(frozen=True)
class Pass:
    """Pass `number` (from 1) of `of` over the same line begins."""

    number: int
    of: int


Motion = Tool | Move | Cut | Pass


@dataclass(frozen=True)
class Step:
    """The motions of one line; `line` is its number in the order (from 0), None for opening and closing."""

    line: int | None
    motions: tuple[Motion, ...]


SettingOf = Mapping[str, CutSetting]
NO_SETTINGS: SettingOf = {}
NOT_AGAIN: Mapping[int, Registration] = {}


def cut_program(
    lines: Sequence[CutLine],
    registration: Registration,
    knife: KnifeSettings,
    settings: SettingOf = NO_SETTINGS,
    first: int = 0,
    again: Mapping[int, Registration] = NOT_AGAIN,
) -> Iterator[Step]:
    """The opening, then every line from number `first` on, each a whole step of its own.

    Args:
        settings: by process; a process without one is cut as its record says.
        again: how the sheet lies from the line of a number on; looked up when that line's turn comes.
    """
    strip = np.array([STRIP_FROM_MM, STRIP_TO_MM])
    opening = process("kiss")
    start = settings.get("kiss") or default_setting(opening)
    tool = Tool(opening.name, opening.pen, start.speed_cm_s, start.force)
    yield Step(None, (tool, *drawn(strip)))
    heading = float(np.arctan2(*(strip[1] - strip[0])[::-1]))
    taken: str | None = None
    for number, line in enumerate(lines[first:], start=first):
        registration = again.get(number, registration)
        record = process(line.process)
        setting = settings.get(line.process) or default_setting(record)
        motions: list[Motion] = []
        if line.process != taken:
            taken = line.process
            motions.append(Tool(record.name, record.pen, setting.speed_cm_s, setting.force))
        path = with_overcut(line.ring, setting.overcut_mm) if line.closed else line.ring
        tip = registration.apply(path)
        for count in range(1, setting.passes + 1):
            if setting.passes > 1:
                motions.append(Pass(count, setting.passes))
            axis = axis_path(tip, heading, knife)
            heading = axis.heading
            motions += stroke(axis, knife, setting.force)
        yield Step(number, tuple(motions))


def stroke(axis: AxisPath, knife: KnifeSettings, force: float) -> tuple[Motion, Motion]:
    """There with the knife up, and along the path with it down; lightly at corners where the knife can."""
    move, cut = drawn(axis.points)
    if knife.light is None or not axis.turns.any():
        return move, cut
    return move, Cut(axis.points, axis.turns, min(knife.light, force), force)


def drawn(path_mm: NDArray[np.float64]) -> tuple[Move, Cut]:
    """There with the knife up, and along (n, 2) places of the plate with it down."""
    x, y = path_mm[0].tolist()
    return Move((x, y)), Cut(path_mm)
