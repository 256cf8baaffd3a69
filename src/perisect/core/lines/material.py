"""What a face film does under a knife. Our own figures for common stocks; a maker's sheet may say otherwise."""

from dataclasses import dataclass
from typing import Literal

FaceName = Literal["paper", "vinyl", "film", "card"]

LOOP_OFFSETS = 3
"""A drag knife cannot close a loop smaller across than about so many of its offsets."""


@dataclass(frozen=True)
class Face:
    """`tie_gf_per_mm`: pull that a mm of tie stands, gram-force. `narrow_mm`: a neck or a slot narrower than
    this tears as the knife passes on its other side."""

    tie_gf_per_mm: float
    narrow_mm: float


FACES: dict[FaceName, Face] = {
    "paper": Face(260.0, 1.0),
    "vinyl": Face(180.0, 0.8),
    "film": Face(420.0, 0.6),
    "card": Face(320.0, 1.2),
}


@dataclass(frozen=True)
class Tooling:
    """What lines are cut in and with: the stock's face, and the plotter's knife by its offset, mm."""

    face: FaceName = "paper"
    knife_offset_mm: float = 0.25

    @property
    def tie_gf_per_mm(self) -> float:
        """Pull that a mm of tie stands, gram-force."""
        return FACES[self.face].tie_gf_per_mm

    @property
    def narrow_mm(self) -> float:
        """A neck or a slot narrower than this tears."""
        return FACES[self.face].narrow_mm

    @property
    def smallest_loop_mm(self) -> float:
        """The least loop that the knife closes."""
        return smallest_loop_mm(self.knife_offset_mm)


USUAL = Tooling()


def smallest_loop_mm(knife_offset_mm: float) -> float:
    """The least loop that a drag knife of this offset closes."""
    return LOOP_OFFSETS * knife_offset_mm
