"""Which turns a piece may take on the sheet."""

from typing import Literal

Turns = Literal["none", "half", "quarter", "free"]

ANGLES: dict[Turns, tuple[float, ...]] = {
    "none": (0.0,),
    "half": (0.0, 180.0),
    "quarter": (0.0, 90.0, 180.0, 270.0),
    "free": tuple(float(angle) for angle in range(0, 360, 15)),
}
"""Degrees clockwise. A strip search turns a free piece by any angle; the finer search of pockets by these."""
