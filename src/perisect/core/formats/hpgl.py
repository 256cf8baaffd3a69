"""HPGL: origin at the sheet's lower left, y up, 40 units a millimetre, one pen a process."""

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from perisect.core.formats import CutSheet, Ring
from perisect.core.process import processes
from perisect.core.units import HPGL_UNITS_PER_MM

_COMMAND = re.compile(r"([A-Z]{2})([^;A-Z]*);?")


class HpglError(ValueError):
    """Text that is not the HPGL Perisect writes."""


@dataclass(frozen=True)
class Stroke:
    """One pen-down path: (n, 2) points in HPGL units and the pen that drew it."""

    pen: int
    points: NDArray[np.int64]


def write_hpgl(sheet: CutSheet) -> str:
    """Lines as drawn, before registration and before any allowance for the knife."""
    parts = ["IN;"]
    for process in processes():
        rings = sheet.lines.get(process.name)
        if rings:
            parts.append(f"SP{process.pen};")
            parts.extend(stroke_text(to_units(ring, sheet.height_mm, process.closed)) for ring in rings)
    parts.append("PU0,0;SP0;")
    return "\n".join(parts) + "\n"


def to_units(ring: Ring, height_mm: float, closed: bool = True) -> NDArray[np.int64]:
    """Sheet mm (y down) to whole HPGL units (y up), a ring closed."""
    path = np.vstack([ring, ring[:1]]) if closed else ring
    return np.round((path * (1, -1) + (0, height_mm)) * HPGL_UNITS_PER_MM).astype(np.int64)


def stroke_text(points: NDArray[np.int64]) -> str:
    """Move with the pen up to the first point, draw the rest with it down, lift."""
    rest = ",".join(map(str, points[1:].ravel().tolist()))
    return f"PU{points[0, 0]},{points[0, 1]};PD{rest};PU;"


def read_hpgl(text: str) -> list[Stroke]:
    """Pen-down paths of absolute HPGL (IN, SP, VS, FS, PU, PD, PA).

    Raises:
        HpglError: a command that is not among these, or coordinates that are not pairs of numbers.
    """
    strokes: list[Stroke] = []
    pen, down = 0, False
    at = np.zeros((1, 2), np.int64)
    path: list[NDArray[np.int64]] = []

    def lift() -> None:
        nonlocal path
        if len(path) > 1:
            strokes.append(Stroke(pen, np.vstack(path)))
        path = []

    compact = re.sub(r"\s+", "", text)
    end = 0
    for match in _COMMAND.finditer(compact):
        if match.start() != end:
            raise HpglError(f"not a command: {compact[end : match.start()][:20]!r}")
        end = match.end()
        name, arguments = match.groups()
        if name in ("PU", "PD", "PA"):
            if name == "PD" and not down:
                path, down = [at], True
            elif name == "PU" and down:
                lift()
                down = False
            points = _points(arguments)
            if len(points):
                at = points[-1:]
                if down:
                    path.append(points)
        elif name == "SP":
            lift()
            pen, down = int(arguments or 0), False
        elif name not in ("IN", "VS", "FS"):
            raise HpglError(f"unknown command {name}")
    if end != len(compact):
        raise HpglError(f"not a command: {compact[end:][:20]!r}")
    lift()
    return strokes


def _points(arguments: str) -> NDArray[np.int64]:
    if not arguments:
        return np.empty((0, 2), np.int64)
    try:
        values = np.array(arguments.split(","), dtype=np.float64)
    except ValueError as error:
        raise HpglError(f"not numbers: {arguments[:20]!r}") from error
    if len(values) % 2:
        raise HpglError("a point needs both x and y")
    return np.round(values).astype(np.int64).reshape(-1, 2)
