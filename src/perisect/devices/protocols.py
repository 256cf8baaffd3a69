"""What Perisect asks of a printer and of a plotter."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.program import Motion
from perisect.core.cutting.view import View


@dataclass(frozen=True)
class PrintedSheet:
    """A printed sheet as a PNG picture, its scale, and how thick its face and its liner are, um."""

    png: bytes
    px_per_mm: float
    face_um: float = 90.0
    liner_um: float = 80.0


@dataclass(frozen=True)
class Unloaded:
    """Strokes the knife really cut, (n, 2) sheet mm each, with their pens, None where the plotter does not show them;
    seconds it worked."""

    strokes: list[NDArray[np.float64]] | None
    pens: list[int]
    seconds: float


class PrinterDriver(Protocol):
    """A printer that is reached."""

    def print(self, pdf: bytes) -> PrintedSheet | None:
        """Print one page, 1:1; the sheet as it came out, None where the printer does not show it.

        Raises:
            DeviceError: it is off, or refuses the file.
        """
        ...


class PlotterDriver(Protocol):
    """A plotter that one run holds, from loading to unloading. Places are plate mm, y up.

    Every method raises `DeviceError` when the plotter is gone or refuses.
    """

    can_look: bool
    """Whether it shows what lies at a place."""

    def load(self, sheet: PrintedSheet, again: bool = False) -> None:
        """Lay the sheet in; `again` for the sheet that was taken out last, with its cuts."""
        ...

    def look(self, x_mm: float, y_mm: float) -> View:
        """What the sensor sees at a place."""
        ...

    def where(self) -> tuple[float, float]:
        """Where the blade is: as the plotter says it, else as it was sent."""
        ...

    def carry_out(self, motions: Sequence[Motion]) -> None:
        """Make these motions; returns when they are made."""
        ...

    def park(self) -> None:
        """Lift the knife, put the tool away, go home."""
        ...

    def photo(self) -> bytes | None:
        """A picture (PNG) of the sheet as it lies there, to be looked at by a person; None where the plotter has no
        camera."""
        ...

    def unload(self) -> Unloaded:
        """Take the sheet out and see what was cut."""
        ...


class PlotterLanguage(Protocol):
    """Motions as a plotter's text, and what it answers."""

    name: str

    def encode(self, motions: Sequence[Motion]) -> str:
        """Text of motions."""
        ...

    def parking(self) -> str:
        """Text that lifts, puts the tool away and goes home."""
        ...

    def question(self) -> str:
        """Text that asks where the plotter is and whether it is well; each is answered with one line."""
        ...

    def error_of(self, answers: Sequence[str]) -> str | None:
        """What is wrong by the lines that `question` was answered with; None when nothing is."""
        ...

    def position_of(self, answers: Sequence[str]) -> tuple[float, float] | None:
        """Where the plotter says it is, mm of its plate; None where it does not say."""
        ...

    @property
    def answers(self) -> int:
        """How many lines `question` is answered with."""
        ...
