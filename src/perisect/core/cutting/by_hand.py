"""Places of marks that a person takes with the blade, beside those that the sensor found; any of them may be left
out."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from perisect.core.cutting.registration import TOLERANCE_MM, Registration, register, register_similar
from perisect.core.sheet.marks import Mark

BY_HAND_MM = 0.5
"""What may be left over at a mark that a person took, who is good to about 0.1 mm."""
JOG_STEPS_MM = (10.0, 1.0, 0.1, 0.025)
"""Steps of the blade under the arrow keys, the last one that of the plotter's language."""


@dataclass(frozen=True)
class Place:
    """Where a mark lies, plate mm, and who found it."""

    x_mm: float
    y_mm: float
    by: Literal["sensor", "hand"]


class MarkPlaces:
    """What is known of a loaded sheet's marks.

    Args:
        marks: in sheet mm.
        nominal: sheet mm to plate mm for a sheet that lies perfectly.
    """

    def __init__(self, marks: Sequence[Mark], nominal: Callable[[float, float], tuple[float, float]]) -> None:
        self.marks, self._nominal = marks, nominal
        self.places: dict[int, Place] = {}
        self.left_out: set[int] = set()
        self.unmoved: set[int] = set()
        """Marks that a person accepted where they were guessed to be."""

    @property
    def used(self) -> list[int]:
        """Marks that the fit rests on."""
        return [n for n in sorted(self.places) if n not in self.left_out]

    def guess(self, mark: int) -> tuple[float, float]:
        """Where a mark should lie by the others: shifted like one of them, turned and sized like two, or as the fit of
        more says."""
        others = [n for n in self.used if n != mark]
        at = self.marks[mark].x_mm, self.marks[mark].y_mm
        if len(others) >= 2:
            ((x, y),) = self._fit(others).apply([at]).tolist()
            return x, y
        x, y = self._nominal(*at)
        if others:
            known = self.marks[others[0]]
            was = self._nominal(known.x_mm, known.y_mm)
            x += self.places[others[0]].x_mm - was[0]
            y += self.places[others[0]].y_mm - was[1]
        return x, y

    def fit(self) -> Registration | None:
        """The sheet's place; None before two marks are known."""
        return self._fit(self.used) if len(self.used) >= 2 else None

    def off_mm(self) -> dict[int, float]:
        """What is left over at each mark that is used; up to three fit whatever they are."""
        fit = self.fit()
        return {} if fit is None else dict(zip(self.used, fit.residuals_mm.tolist(), strict=True))

    @property
    def spare_readings(self) -> int:
        """By how many readings the marks outnumber what is worked out of them; without one left over, what is left over
        says nothing. Two readings a mark; four unknowns of a similarity, six of an affine map."""
        used = self.used
        return 2 * len(used) - (4 if len(used) < 3 or self._on_one_line(used) else 6)

    @property
    def doubts(self) -> list[str]:
        """Warnings before the cut: properties of the marks that the fit cannot check."""
        found = []
        unmoved = [self.marks[n].name for n in self.used if n in self.unmoved]
        if unmoved:
            found.append(
                f"The blade was not moved at the {' and the '.join(unmoved)} mark: its place is what the others say, "
                "and checks nothing. Look whether the blade is over its middle."
            )
        if self.spare_readings <= 0 and self.used:
            found.append(
                f"{len(self.used)} marks fit whatever they are: a mark that was set badly does not show. "
                "Set a fourth mark, or look at the first line as it is cut."
            )
        return found

    @property
    def trouble(self) -> str | None:
        """Why the cut cannot begin; None when it can."""
        off = self.off_mm()
        if not off:
            return (
                "Two marks at least are needed: they give shift, turn and one scale. Three or more say more."
            )
        worst = max(off, key=lambda n: off[n])
        by_hand = any(self.places[n].by == "hand" for n in off)
        allowed = BY_HAND_MM if by_hand else TOLERANCE_MM
        if off[worst] <= allowed:
            return None
        return (
            f"The marks do not fit together: {off[worst]:.2f} mm are left over at the {self.marks[worst].name} mark, "
            f"and {allowed} mm are allowed. Take that mark again, or leave it out."
        )

    def _fit(self, numbers: Sequence[int]) -> Registration:
        sheet = [(self.marks[n].x_mm, self.marks[n].y_mm) for n in numbers]
        plate = [(self.places[n].x_mm, self.places[n].y_mm) for n in numbers]
        if len(numbers) < 3 or self._on_one_line(numbers):
            return register_similar(sheet, plate)
        return register(sheet, plate)

    def _on_one_line(self, numbers: Sequence[int]) -> bool:
        sheet = np.array([(self.marks[n].x_mm, self.marks[n].y_mm) for n in numbers])
        return int(np.linalg.matrix_rank(sheet - sheet.mean(axis=0), tol=1.0)) < 2
