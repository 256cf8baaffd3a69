"""The one table of processes: what a line means to the plotter, to files and to the eye.

A process is one record. Writers, the order of cutting, drivers, the API and the screen iterate the table; to add
a process is to add a record.
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class Process:
    """What a line does to the stock.

    `order` is its rank at the plotter, lowest first: what leaves the sheet held comes before what frees a piece.
    `closed` lines are rings, others are paths from end to end. `pen` is its number in pen languages, `colour`
    (#rrggbb) and `dash_mm` (line and gap in turn, empty for a solid line) its look everywhere, `dxf_colour` the
    nearest index of a DXF layer. `speed_cm_s` and `force_share` of a plotter's range of force are what a cut setting
    begins with, before anybody has tried.
    """

    name: str
    title: str
    order: int
    closed: bool
    pen: int
    colour: str
    dash_mm: tuple[float, ...]
    dxf_colour: int
    speed_cm_s: float
    force_share: float
    frees: bool = False
    """Whether it can set a piece free of the sheet."""

    @property
    def rgb(self) -> tuple[int, int, int]:
        """Its colour as red, green, blue, 0 to 255."""
        red, green, blue = bytes.fromhex(self.colour.removeprefix("#"))
        return red, green, blue


TABLE: dict[str, Process] = {
    process.name: process
    for process in (
        Process("crease", "Crease", 10, False, 5, "#8a5a9e", (2.0, 0.8, 0.4, 0.8), 6, 15, 0.07),
        Process("kiss", "Kiss", 20, True, 1, "#007f8c", (), 4, 20, 0.15),
        Process("weed", "Weed", 30, False, 4, "#8b9691", (0.4, 0.8), 9, 20, 0.15),
        Process("perforate", "Perforation", 40, False, 3, "#7a4b12", (), 34, 10, 0.3, frees=True),
        Process("slit", "Common cuts", 50, False, 6, "#3d4a47", (1.2, 0.6), 8, 15, 0.3, frees=True),
        Process("through", "Through", 60, True, 2, "#1b2023", (3.0, 1.0), 7, 15, 0.3, frees=True),
    )
}
"""By name. Kiss before through everywhere; ties and common cuts just before what frees single pieces."""

MARKS_COLOUR = "#586762"
"""Registration marks in files and on the screen."""


def processes() -> tuple[Process, ...]:
    """All of them in the order they are cut."""
    return tuple(sorted(TABLE.values(), key=lambda process: process.order))


def process(name: str) -> Process:
    """The process of this name.

    Raises:
        KeyError: there is none.
    """
    return TABLE[name]


def by_pen(pen: int) -> Process | None:
    """The process that a pen stands for; None for a pen of no process."""
    return next((each for each in TABLE.values() if each.pen == pen), None)
