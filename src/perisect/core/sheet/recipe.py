"""What a person decides about a sheet: stock, machines, marks, and how it is filled."""

from typing import Annotated, Literal

import shapely
from pydantic import BaseModel, ConfigDict, Field, model_validator

from perisect.core.lines.material import Tooling
from perisect.core.sheet.equipment import PlotterRecipe, PrinterRecipe, StockRecipe, machine_of
from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS, EXAMPLE_PRINTERS, EXAMPLE_STOCKS
from perisect.core.sheet.staggered import RowStyle
from perisect.core.sheet.turns import Turns
from perisect.core.sheet.usable import Machine

GapMm = Annotated[float, Field(ge=0, le=50, allow_inf_nan=False)]
LEAST_PART_MM = 20.0
PlaceMm = Annotated[float, Field(ge=-2000, le=4000, allow_inf_nan=False)]
Copies = Annotated[int, Field(ge=1, le=2000)]
CardMm = Annotated[float, Field(ge=20, le=1000, allow_inf_nan=False)]
Quality = Literal["draft", "standard", "best"]
"""How carefully the printer prints; tone and profile hang on it."""
Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
DesignId = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[A-Za-z0-9_-]+$")]


class PlacementRecipe(BaseModel):
    """A copy of a design set by hand: the centre of its outline's box on a sheet (from 0), and its turn, degrees
    clockwise. A locked one keeps its place when the rest is filled again."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    design: DesignId
    sheet: Annotated[int, Field(ge=0, lt=60)] = 0
    x_mm: PlaceMm
    y_mm: PlaceMm
    rotation_deg: Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)] = 0.0
    locked: bool = False


class CardRecipe(BaseModel):
    """A theme sheet: a printed card with a heading; every piece stands on it as often as it has copies. Its white
    border is twice as wide as the piece's own, so that the kiss line runs in the middle of it."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    width_mm: CardMm = 100.0
    height_mm: CardMm = 140.0
    radius_mm: Annotated[float, Field(ge=0, le=60, allow_inf_nan=False)] = 5.0
    margin_mm: Annotated[float, Field(ge=0, le=40, allow_inf_nan=False)] = 4.0
    colour: Colour = "#cfe3dd"
    heading: Annotated[str, Field(max_length=80)] = ""
    heading_mm: Annotated[float, Field(ge=1.5, le=40, allow_inf_nan=False)] = 5.0
    heading_colour: Colour = "#16211f"
    cut: Literal["through", "perforate"] = "through"
    copies: Copies = 1
    spread: bool = False
    """Whether what room the pieces leave lies evenly between them, or all of it at the foot."""


MOST_USED, MOST_POINTS = 200, 400
UsedRing = Annotated[tuple[tuple[PlaceMm, PlaceMm], ...], Field(min_length=3, max_length=MOST_POINTS)]


class ScrapRecipe(BaseModel):
    """What is left of a sheet: the print that it was, and what was cut out of it, rings in sheet mm."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    of_print: Annotated[int, Field(ge=1, le=2**31 - 1)]
    used: Annotated[tuple[UsedRing, ...], Field(min_length=1, max_length=MOST_USED)]


def _is_none(value: object) -> bool:
    return value is None


PANEL_STEP_MM = 5.0
"""A roll's panels are as many of these long."""


class SheetRecipe(BaseModel):
    """Stock and filling; `fill` fills one sheet and leaves each design's copies unused. A `perimeter_cut` is
    one line round everything on a sheet, `perimeter_margin_mm` outside it.

    Kiss lines keep `gap_mm`; pieces cut through keep `through_gap_mm` where it is more. With `common_line`
    cuts boxes stand edge to edge and one straight cut parts two of them.

    `method` is how pieces find their places: in rows and columns (of one piece every second row may be a half
    turn round or a half step along), nested by their true shapes (with these
    `turns`, in `nest_s` seconds, by this `seed`), or all by hand. `placements` are the places set by hand; when
    rows or a nest fill the sheet, only the locked ones of them count; with a card they are places on the card.
    A roll's panels are as long as they have to be, or `panel_mm`. Of a sheet the part from `from_mm` to `until_mm`
    below its head is used, its marks in its corners: what is above was used before, what is below is kept.

    `parts` is what is cut before the next is begun: all of it process after process, sticker after sticker with all
    its processes, or section after section along the sheet, its marks sensed again before each.

    `paper`, `printer` and `plotter` are those of the shop as they were when they were chosen, so that a job
    stays as it is when the shop changes; without a paper, `stock` names a plain sheet. `marks_at` are the
    marks' centres where they were moved by hand.

    On a `scrap`, what is left of a sheet that was cut before, pieces find their places one by one, wherever there is
    room.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    stock: Literal["a4", "letter"] = "a4"
    paper: StockRecipe | None = None
    printer: PrinterRecipe | None = None
    plotter: PlotterRecipe | None = None
    small_marks: bool = False
    marks_at: Annotated[tuple[tuple[PlaceMm, PlaceMm], ...], Field(max_length=80)] = ()
    gap_mm: GapMm = 2.0
    through_gap_mm: GapMm | None = None
    common_line: bool = False
    parts: Literal["whole", "stickers", "sections"] = "whole"
    fill: bool = True
    perimeter_cut: Literal["none", "through", "perforate"] = "none"
    perimeter_margin_mm: Annotated[float, Field(ge=1, le=30, allow_inf_nan=False)] = 4.0
    method: Literal["rows", "nest", "hand"] = "rows"
    rows: RowStyle = "straight"
    turns: Turns = "quarter"
    nest_s: Annotated[int, Field(ge=2, le=30)] = 8
    seed: Annotated[int, Field(ge=0, le=10_000)] = 1
    quality: Quality = "standard"
    placements: Annotated[tuple[PlacementRecipe, ...], Field(max_length=3000)] = ()
    card: CardRecipe | None = None
    panel_mm: Annotated[float, Field(ge=20, le=30_000, allow_inf_nan=False)] | None = None
    from_mm: Annotated[float, Field(ge=0, le=3000, allow_inf_nan=False)] = 0.0
    until_mm: Annotated[float, Field(ge=20, le=3000, allow_inf_nan=False)] | None = None
    cut_only: Annotated[bool, Field(exclude_if=lambda value: not value)] = False
    """Whether bare stock is cut that nothing is printed on: no marks, no printer margins."""
    scrap: Annotated[ScrapRecipe | None, Field(exclude_if=_is_none)] = None
    """Left out where it is nothing, so that what was printed before this was known keeps its name."""

    @model_validator(mode="after")
    def _has_a_part(self) -> "SheetRecipe":
        if self.until_mm is not None and self.until_mm < self.from_mm + LEAST_PART_MM:
            raise ValueError(f"the part of the sheet has to be {LEAST_PART_MM:.0f} mm or more")
        return self

    @property
    def between_mm(self) -> float:
        """The gap that pieces keep."""
        return 0.0 if self.common_line else self.gap_mm

    @property
    def on(self) -> StockRecipe:
        """The stock that is printed on."""
        return self.paper or next(stock.recipe for stock in EXAMPLE_STOCKS if stock.id == self.stock)

    @property
    def printed_by(self) -> PrinterRecipe:
        """The printer."""
        return self.printer or EXAMPLE_PRINTERS[0].recipe

    @property
    def cut_by(self) -> PlotterRecipe:
        """The plotter."""
        return self.plotter or EXAMPLE_PLOTTERS[0].recipe

    @property
    def tooling(self) -> Tooling:
        """What lines are cut in and with: the stock's face and the plotter's knife."""
        return Tooling(self.on.face, self.cut_by.knife_offset_mm)

    @property
    def used_shapes(self) -> tuple[shapely.Polygon, ...]:
        """What was cut out of the sheet before, sheet mm."""
        if self.scrap is None:
            return ()
        whole = shapely.make_valid([shapely.Polygon(ring) for ring in self.scrap.used])
        return tuple(part for part in shapely.get_parts(whole) if part.geom_type == "Polygon")

    @property
    def ends_free(self) -> bool:
        """Whether a roll's panels end where what stands on them ends."""
        return self.on.kind == "roll" and self.panel_mm is None and not self.fill and self.card is None

    @property
    def machine(self) -> Machine:
        """What printer and plotter leave free."""
        machine = machine_of(self.printed_by, self.cut_by, self.small_marks)
        if self.cut_only:
            machine = machine.unprinted()
        if self.on.kind == "roll":
            return machine
        return machine.between(self.from_mm, self.until_mm, self.on.height_mm)
