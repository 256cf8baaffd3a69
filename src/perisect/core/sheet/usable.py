"""Where cutting is allowed: the sheet less printer margins, grip and the marks' clear zones."""

from dataclasses import dataclass
from functools import cached_property

import shapely

from perisect.core.sheet.marks import Mark, MarkSettings, marks_for
from perisect.core.sheet.stock import Stock


@dataclass(frozen=True)
class Machine:
    """What the printer leaves bare and the plotter holds, mm from each edge of the sheet."""

    printer_margin_mm: float = 5.0
    grip_side_mm: float = 6.0
    grip_top_mm: float = 6.0
    grip_bottom_mm: float = 9.0
    marks: MarkSettings = MarkSettings()


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

    @cached_property
    def notches(self) -> tuple[tuple[float, float, float, float], ...]:
        """Left, top, right, bottom of the corner that each mark takes: no sliver beyond it is used."""
        clear, stock = self.machine.marks.clear_mm, self.stock
        boxes = []
        for mark in self.marks:
            at_left, at_top = mark.x_mm < stock.width_mm / 2, mark.y_mm < stock.height_mm / 2
            boxes.append(
                (
                    0.0 if at_left else mark.x_mm - clear,
                    0.0 if at_top else mark.y_mm - clear,
                    mark.x_mm + clear if at_left else stock.width_mm,
                    mark.y_mm + clear if at_top else stock.height_mm,
                )
            )
        return tuple(boxes)

    @cached_property
    def polygon(self) -> shapely.Polygon:
        """The area as a polygon in sheet coordinates."""
        whole = shapely.box(self.left_mm, self.top_mm, self.right_mm, self.bottom_mm)
        return shapely.difference(whole, shapely.union_all([shapely.box(*notch) for notch in self.notches]))

    @cached_property
    def _just_outside(self) -> shapely.Polygon:
        polygon = shapely.buffer(self.polygon, 1e-6, join_style="mitre")
        shapely.prepare(polygon)
        return polygon

    def holds(self, shape: shapely.Geometry) -> bool:
        """Whether a shape in sheet mm lies wholly in the area."""
        return bool(shapely.covers(self._just_outside, shape))

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


def usable_area(stock: Stock, machine: Machine = DEFAULT_MACHINE) -> UsableArea:
    """The usable area of a stock on a machine, its four marks in place."""
    side = max(machine.printer_margin_mm, machine.grip_side_mm)
    return UsableArea(
        stock=stock,
        machine=machine,
        left_mm=side,
        top_mm=max(machine.printer_margin_mm, machine.grip_top_mm),
        right_mm=stock.width_mm - side,
        bottom_mm=stock.height_mm - max(machine.printer_margin_mm, machine.grip_bottom_mm),
        marks=marks_for(stock, machine.marks),
    )
