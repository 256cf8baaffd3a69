"""Stocks, printers and plotters as a shop knows them, with every number that the work needs."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from perisect.core.lines.material import FaceName
from perisect.core.sheet.marks import MarkSettings, School, Shape
from perisect.core.sheet.stock import Stock
from perisect.core.sheet.usable import Machine

ThingId = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[a-z0-9-]+$")]
ThingName = Annotated[str, Field(min_length=1, max_length=60, pattern=r"\S")]
SideMm = Annotated[float, Field(ge=20, le=3000, allow_inf_nan=False)]
EdgeMm = Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
Price = Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)]


class _Thing(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    id: ThingId
    name: ThingName


class StockRecipe(_Thing):
    """Sheets of one size, or a roll whose panels are cut to length.

    `height_mm` of a roll is the longest panel. `price` is that of a sheet, or of a metre of the roll; `left`
    is how many sheets or metres the shop has.
    """

    kind: Literal["sheet", "roll"] = "sheet"
    width_mm: SideMm
    height_mm: Annotated[float, Field(ge=20, le=30_000, allow_inf_nan=False)]
    face: FaceName = "paper"
    face_um: Annotated[float, Field(ge=10, le=2000, allow_inf_nan=False)] = 90.0
    liner_um: Annotated[float, Field(ge=0, le=2000, allow_inf_nan=False)] = 80.0
    gloss: Literal["matt", "satin", "gloss"] = "matt"
    price: Price = 0.0
    left: Annotated[float, Field(ge=0, le=1_000_000, allow_inf_nan=False)] = 0.0

    def panel(self, height_mm: float | None = None) -> Stock:
        """A sheet of it, or a panel of this height."""
        return Stock(self.id, self.name, self.width_mm, height_mm or self.height_mm)


class PrinterRecipe(_Thing):
    """What a printer leaves bare along each edge, and what its ink costs: ml on a square metre of full
    colour, and the price of a ml."""

    margin_side_mm: EdgeMm = 5.0
    margin_top_mm: EdgeMm = 5.0
    margin_bottom_mm: EdgeMm = 5.0
    ink_ml_m2: Annotated[float, Field(ge=0, le=200, allow_inf_nan=False)] = 14.0
    ink_price: Price = 0.35


class MarksRecipe(BaseModel):
    """How a plotter wants its marks. The ring and the clear zone grow with the mark."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    school: School = "four"
    shape: Shape = "quartered"
    radius_mm: Annotated[float, Field(ge=1, le=10, allow_inf_nan=False)] = 3.0
    line_mm: Annotated[float, Field(ge=0.2, le=3, allow_inf_nan=False)] = 0.8
    side_mm: EdgeMm = 11.0
    top_mm: EdgeMm = 12.0
    bottom_mm: EdgeMm = 15.0
    clear_mm: Annotated[float, Field(ge=0.5, le=10, allow_inf_nan=False)] = 1.3
    """Bare round the ring."""
    spacing_mm: Annotated[float, Field(ge=50, le=2000, allow_inf_nan=False)] = 300.0

    def settings(self, small: bool = False) -> MarkSettings:
        """Every number of the marks; `small` ones are two thirds as large."""
        radius = self.radius_mm * (2 / 3 if small else 1)
        return MarkSettings(
            radius_mm=radius,
            ring_inner_mm=round(radius * 1.2, 6),
            ring_outer_mm=round(radius * 1.4, 6),
            clear_mm=round(radius * 1.4 + self.clear_mm, 6),
            side_mm=self.side_mm,
            top_mm=self.top_mm,
            bottom_mm=self.bottom_mm,
            school=self.school,
            shape=self.shape,
            line_mm=min(self.line_mm, radius / 2),
            spacing_mm=self.spacing_mm,
        )


class PlotterRecipe(_Thing):
    """What a plotter takes, holds and sees. `reach_…` is how near an edge its sensor comes to a mark's centre;
    a mat of 0 by 0 is none."""

    cutting_width_mm: SideMm = 300.0
    mat_width_mm: Annotated[float, Field(ge=0, le=3000, allow_inf_nan=False)] = 0.0
    mat_height_mm: Annotated[float, Field(ge=0, le=3000, allow_inf_nan=False)] = 0.0
    grip_side_mm: EdgeMm = 6.0
    grip_top_mm: EdgeMm = 6.0
    grip_bottom_mm: EdgeMm = 9.0
    reach_side_mm: EdgeMm = 8.0
    reach_top_mm: EdgeMm = 8.0
    reach_bottom_mm: EdgeMm = 10.0
    knife_offset_mm: Annotated[float, Field(ge=0, le=1.5, allow_inf_nan=False)] = 0.25
    marks: MarksRecipe = MarksRecipe()


def machine_of(printer: PrinterRecipe, plotter: PlotterRecipe, small_marks: bool = False) -> Machine:
    """What both leave free of the knife."""
    return Machine(
        margin_side_mm=printer.margin_side_mm,
        margin_top_mm=printer.margin_top_mm,
        margin_bottom_mm=printer.margin_bottom_mm,
        grip_side_mm=plotter.grip_side_mm,
        grip_top_mm=plotter.grip_top_mm,
        grip_bottom_mm=plotter.grip_bottom_mm,
        reach_side_mm=plotter.reach_side_mm,
        reach_top_mm=plotter.reach_top_mm,
        reach_bottom_mm=plotter.reach_bottom_mm,
        cutting_width_mm=plotter.cutting_width_mm,
        mat_mm=(plotter.mat_width_mm, plotter.mat_height_mm) if plotter.mat_width_mm else None,
        marks=plotter.marks.settings(small_marks),
    )


EXAMPLE_STOCKS = (
    StockRecipe(id="a4", name="A4 paper, matt", width_mm=210, height_mm=297, price=0.42, left=180),
    StockRecipe(id="letter", name="Letter paper, matt", width_mm=215.9, height_mm=279.4, price=0.44, left=60),
    StockRecipe(
        id="a4-film",
        name="A4 film, gloss",
        width_mm=210,
        height_mm=297,
        face="film",
        face_um=60,
        gloss="gloss",
        price=0.85,
        left=75,
    ),
    StockRecipe(
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
    PrinterRecipe(id="desk", name="Desk printer"),
    PrinterRecipe(
        id="roll-printer",
        name="Roll printer",
        margin_side_mm=4,
        margin_top_mm=20,
        margin_bottom_mm=20,
        ink_ml_m2=10,
        ink_price=0.18,
    ),
)
EXAMPLE_PLOTTERS = (
    PlotterRecipe(id="desk", name="Desk plotter", mat_width_mm=305, mat_height_mm=305),
    PlotterRecipe(
        id="roll-plotter",
        name="Roll plotter",
        cutting_width_mm=600,
        grip_side_mm=12,
        grip_top_mm=20,
        grip_bottom_mm=20,
        reach_side_mm=14,
        marks=MarksRecipe(school="pairs", side_mm=18, top_mm=28, bottom_mm=28),
    ),
)
"""Invented, with numbers such as small shops have."""
