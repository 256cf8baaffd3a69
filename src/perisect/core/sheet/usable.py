"""Where cutting is allowed: the sheet less printer margins, grip and the marks' clear zones."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.sheet.mark_pattern import marks_for, pattern_of
from perisect.core.sheet.marks import Mark, MarkSettings
from perisect.core.sheet.stock import Stock

MARK_IN_MM = 0.5
"""How far the clear zone of a mark stands from where its part of a sheet ends."""


@dataclass(frozen=True)
class Machine:
    """What the printer leaves bare and the plotter holds and sees, mm from each edge of the sheet."""

    margin_side_mm: float = 5.0
    margin_top_mm: float = 5.0
    margin_bottom_mm: float = 5.0
    grip_side_mm: float = 6.0
    grip_top_mm: float = 6.0
    grip_bottom_mm: float = 9.0
    reach_side_mm: float = 8.0
    reach_top_mm: float = 8.0
    reach_bottom_mm: float = 10.0
    cutting_width_mm: float = 300.0
    mat_mm: tuple[float, float] | None = None
    marks: MarkSettings = MarkSettings()
    used_top_mm: float = 0.0
    kept_bottom_mm: float = 0.0
    """Of the sheet, what was used before and what is kept for later; its marks stand between."""

    def between(self, from_mm: float, until_mm: float | None, height_mm: float) -> "Machine":
        """The same machine with a part of a sheet, from and to so far below its head, mm: where the part ends within
        the sheet, the marks stand at its end and need nothing but their own room."""
        beyond = height_mm - (until_mm if until_mm is not None else height_mm)
        if from_mm <= 0 and beyond <= 0:
            return self
        marks, near = self.marks, self.marks.clear_mm + MARK_IN_MM
        top = max(marks.top_mm, from_mm + near) if from_mm > 0 else marks.top_mm
        bottom = max(marks.bottom_mm, beyond + near) if beyond > 0 else marks.bottom_mm
        return replace(
            self,
            marks=replace(marks, top_mm=top, bottom_mm=bottom),
            used_top_mm=from_mm,
            kept_bottom_mm=max(0.0, beyond),
        )

    def unprinted(self) -> "Machine":
        """Return the machine without printer margins and marks, for stock that is only cut."""
        marks = replace(self.marks, pattern="none")
        return replace(self, margin_side_mm=0.0, margin_top_mm=0.0, margin_bottom_mm=0.0, marks=marks)

    def held(self, stock: Stock) -> tuple[float, float, float, float]:
        """Left, top, right, bottom of what both print and cut."""
        side = max(self.margin_side_mm, self.grip_side_mm, (stock.width_mm - self.cutting_width_mm) / 2)
        return (
            side,
            max(self.margin_top_mm, self.grip_top_mm, self.used_top_mm),
            stock.width_mm - side,
            stock.height_mm - max(self.margin_bottom_mm, self.grip_bottom_mm, self.kept_bottom_mm),
        )


DEFAULT_MACHINE = Machine()


@dataclass(frozen=True)
class UsableArea:
    """A box, less a notch for the clear zone of each mark."""

    stock: Stock
    machine: Machine
    left_mm: float
    top_mm: float
    right_mm: float
    bottom_mm: float
    marks: tuple[Mark, ...]
    used: tuple[shapely.Polygon, ...] = ()
    """What was cut out of the sheet before."""

    @cached_property
    def notches(self) -> tuple[tuple[float, float, float, float], ...]:
        """Left, top, right, bottom of what each mark takes; on what is left of a sheet no more than its own room."""
        if self.used:
            clear = self.machine.marks.clear_mm
            return tuple((m.x_mm - clear, m.y_mm - clear, m.x_mm + clear, m.y_mm + clear) for m in self.marks)
        return pattern_of(self.machine.marks).keep_outs(self.marks, self.machine.marks, self.stock)

    @cached_property
    def obstacles(self) -> tuple[tuple[float, float, float, float], ...]:
        """Left, top, right, bottom of all that a box may not lie on: what the marks take, and what was cut before."""
        return (*self.notches, *(shape.bounds for shape in self.used))

    @cached_property
    def polygon(self) -> shapely.Polygon:
        """The area as a polygon in sheet coordinates; empty when margins and marks leave nothing."""
        if self.right_mm <= self.left_mm or self.bottom_mm <= self.top_mm:
            return shapely.Polygon()
        whole = shapely.box(self.left_mm, self.top_mm, self.right_mm, self.bottom_mm)
        taken = [*self.used, *(shapely.box(*notch) for notch in self.notches)]
        free = shapely.difference(whole, shapely.union_all(taken))
        parts = shapely.get_parts(free)
        return max(parts, key=lambda part: part.area) if len(parts) else shapely.Polygon()

    @cached_property
    def _just_outside(self) -> shapely.Polygon:
        return shapely.buffer(self.polygon, 1e-6, join_style="mitre")

    def holds(self, shape: shapely.Geometry) -> bool:
        """Whether a shape in sheet mm lies wholly in the area."""
        return bool(shapely.covers(self._just_outside, shape))

    def hold(self, shapes: NDArray[np.object_]) -> NDArray[np.bool_]:
        """Which of (n,) shapes lie wholly in the area."""
        # Prepared for this call alone: two threads that ask one prepared shape crash the process, and areas are
        # kept with plans that many threads use.
        room = shapely.transform(self._just_outside, np.copy)
        shapely.prepare(room)
        return np.asarray(shapely.covers(room, shapes))

    def span_at(self, top_mm: float, bottom_mm: float) -> tuple[float, float]:
        """Left and right limits that hold over a band of the sheet."""
        left, right = self.left_mm, self.right_mm
        for notch in self.notches:
            if notch[1] < bottom_mm and notch[3] > top_mm:
                if notch[0] == 0:
                    left = max(left, notch[2])
                else:
                    right = min(right, notch[0])
        return left, right


def usable_area(
    stock: Stock,
    machine: Machine = DEFAULT_MACHINE,
    marks_at: Sequence[tuple[float, float]] = (),
    used: Sequence[shapely.Polygon] = (),
) -> UsableArea:
    """The usable area of a stock on a machine, its marks in place.

    Args:
        marks_at: centres of the marks set by hand, in the order of `marks_for`.
        used: what was cut out of the sheet before.
    """
    marks = marks_for(stock, machine.marks, marks_at)
    left, top, right, bottom = pattern_of(machine.marks).room(machine.held(stock), marks, machine.marks)
    return UsableArea(stock, machine, left, top, right, bottom, marks, tuple(used))
