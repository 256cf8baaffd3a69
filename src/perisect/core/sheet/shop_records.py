"""What the shop knows of its stocks and machines beyond the numbers that a job copies: how much is left, where a
device is and what it speaks."""

from typing import Annotated, Any, Literal

from pydantic import Field

from perisect.core.sheet.equipment import MarksRecipe, PlotterRecipe, PrinterRecipe, StockRecipe
from perisect.core.sheet.force import ForceScale

Address = Annotated[str, Field(max_length=200, pattern=r"^[!-~]*$")]
"""URL of a device; empty for the simulated one that ships."""
Language = Annotated[str, Field(max_length=24, pattern=r"^[a-z0-9-]+$")]
Kind = Literal["stock", "printer", "plotter"]


def told_name(name: str, simulated: bool) -> str:
    """Return a machine's name as it is told to people: a simulated one says so."""
    return f"{name} (simulated)" if simulated else name


class StockRecord(StockRecipe):
    """A stock and how many sheets, or metres of a roll, are left of it."""

    left: Annotated[float, Field(ge=0, le=1_000_000, allow_inf_nan=False)] = 0.0

    @property
    def recipe(self) -> StockRecipe:
        """The numbers that a job copies."""
        return StockRecipe.model_validate(self.model_dump(exclude={"left"}))


class PrinterRecord(PrinterRecipe):
    """A printer and where it is."""

    address: Address = ""
    simulated: bool = True
    """True if a simulated machine stands in for it while it has no address."""

    @property
    def title(self) -> str:
        """Its name as it is told to people: where a simulated machine stands in for it, that is said."""
        return told_name(self.name, self.simulated and not self.address)

    @property
    def recipe(self) -> PrinterRecipe:
        """The numbers that a job copies."""
        return PrinterRecipe.model_validate(self.model_dump(exclude={"address", "simulated"}))


class PlotterRecord(PlotterRecipe):
    """A plotter, where it is, what it speaks, and where on its plate it wants the sheet's lower left corner."""

    address: Address = ""
    simulated: bool = True
    """True if a simulated machine stands in for it while it has no address."""
    language: Language = "hpgl"
    force: ForceScale = ForceScale()
    blade: Annotated[str, Field(max_length=40, pattern=r"^[^\x00-\x1f\x7f]*$")] = ""
    """Which blade is in it, as the shop calls it."""
    light_corners: bool = False
    """Whether it can change its force on the way: then it turns the blade at corners touching the face lightly."""
    has_sensor: bool = True
    """Whether it finds marks by itself; a person sets the blade over them where it does not."""
    corner_x_mm: Annotated[float, Field(ge=0, le=3000, allow_inf_nan=False)] = 20.0
    corner_y_mm: Annotated[float, Field(ge=0, le=3000, allow_inf_nan=False)] = 20.0

    @property
    def title(self) -> str:
        """Its name as it is told to people: where a simulated machine stands in for it, that is said."""
        return told_name(self.name, self.simulated and not self.address)

    @property
    def recipe(self) -> PlotterRecipe:
        """The numbers that a job copies."""
        device = {
            "address",
            "simulated",
            "language",
            "force",
            "blade",
            "light_corners",
            "has_sensor",
            "corner_x_mm",
            "corner_y_mm",
        }
        return PlotterRecipe.model_validate(self.model_dump(exclude=device))


EquipmentRecord = StockRecord | PrinterRecord | PlotterRecord


def _a4(stock_id: str, name: str, price: float, left: float, **more: Any) -> StockRecord:
    return StockRecord(id=stock_id, name=name, width_mm=210, height_mm=297, price=price, left=left, **more)


EXAMPLE_STOCKS = (
    _a4("a4", "A4 paper, matt", 0.42, 180),
    StockRecord(id="letter", name="Letter paper, matt", width_mm=215.9, height_mm=279.4, price=0.44, left=60),
    _a4("a4-film", "A4 film, gloss", 0.85, 75, face="film", face_um=60, gloss="gloss"),
    _a4("a4-vinyl", "A4 vinyl, satin", 0.95, 40, face="vinyl", face_um=100, liner_um=140, gloss="satin"),
    _a4("a4-clear", "A4 clear film", 1.1, 20, face="film", face_um=50, liner_um=75, gloss="gloss"),
    _a4("a4-kraft", "A4 kraft paper", 0.48, 50, face_um=110),
    _a4("a4-card", "A4 card, 250 g", 0.22, 100, face="card", face_um=320, liner_um=0),
    StockRecord(
        id="roll-vinyl",
        name="Roll of vinyl, 320 mm",
        kind="roll",
        width_mm=320,
        height_mm=1200,
        face="vinyl",
        face_um=80,
        liner_um=140,
        gloss="satin",
        price=3.6,
        left=28,
    ),
)
EXAMPLE_PRINTERS = (
    PrinterRecord(id="desk", name="Desk printer", widest_mm=330, longest_mm=490),
    PrinterRecord(
        id="roll-printer",
        name="Roll printer",
        margin_side_mm=4,
        margin_top_mm=20,
        margin_bottom_mm=20,
        widest_mm=610,
        longest_mm=3000,
        ink_ml_m2=10,
        ink_price=0.18,
    ),
)
EXAMPLE_PLOTTERS = (
    PlotterRecord(
        id="desk",
        name="Desk plotter",
        longest_mm=450,
        mat_width_mm=305,
        mat_height_mm=305,
        force=ForceScale(least=1, most=33, step=1, unit="steps"),
    ),
    PlotterRecord(
        id="roll-plotter",
        name="Roll plotter",
        cutting_width_mm=600,
        longest_mm=3000,
        grip_side_mm=12,
        grip_top_mm=20,
        grip_bottom_mm=20,
        reach_side_mm=14,
        corner_x_mm=30,
        corner_y_mm=40,
        marks=MarksRecipe(pattern="pairs", side_mm=18, top_mm=28, bottom_mm=28),
    ),
    PlotterRecord(
        id="counter",
        name="Counter plotter",
        cutting_width_mm=216,
        longest_mm=320,
        corner_x_mm=15,
        corner_y_mm=15,
        force=ForceScale(least=5, most=230, step=5),
        knife_offset_mm=0.3,
        marks=MarksRecipe(pattern="three", shape="square", radius_mm=2.5),
    ),
)
"""Invented, with numbers such as small shops have."""
