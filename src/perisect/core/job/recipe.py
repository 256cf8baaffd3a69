"""What a person decides about a job. Everything else follows from it and from the artwork's bytes."""

import hashlib
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from perisect.core.artwork import MendRecipe
from perisect.core.lines.recipe import LineRecipe
from perisect.core.sheet.labels import LabelRecipe
from perisect.core.sheet.shop import (
    EXAMPLE_PLOTTERS,
    EXAMPLE_PRINTERS,
    EXAMPLE_STOCKS,
    PlotterRecipe,
    PrinterRecipe,
    StockRecipe,
    machine_of,
)
from perisect.core.sheet.staggered import RowStyle
from perisect.core.sheet.turns import Turns
from perisect.core.sheet.usable import Machine

LongestMm = Annotated[float, Field(ge=5, le=400, allow_inf_nan=False)]
BorderMm = Annotated[float, Field(ge=-20, le=20, allow_inf_nan=False)]
PeelMm = Annotated[float, Field(ge=0.5, le=20, allow_inf_nan=False)]
GapMm = Annotated[float, Field(ge=0, le=50, allow_inf_nan=False)]
PlaceMm = Annotated[float, Field(ge=-2000, le=4000, allow_inf_nan=False)]
Copies = Annotated[int, Field(ge=1, le=2000)]
CardMm = Annotated[float, Field(ge=20, le=1000, allow_inf_nan=False)]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
DesignId = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[A-Za-z0-9_-]+$")]
DesignName = Annotated[str, Field(min_length=1, max_length=120)]
Sha256 = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class RightsRecipe(BaseModel):
    """Where art came from and what may be done with it."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    source: Annotated[str, Field(max_length=300)] = ""
    licence: Annotated[str, Field(max_length=120)] = ""
    may_be_sold: Literal["yes", "no", "unknown"] = "unknown"


class DesignRecipe(BaseModel):
    """One picture at one size with its lines; `kind` overrules the kind of art that was seen."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: DesignId
    name: DesignName
    artwork: Sha256
    mend: MendRecipe = MendRecipe()
    longest_mm: LongestMm = 60.0
    border_mm: BorderMm = 2.0
    peel_mm: PeelMm | None = None
    copies: Copies = 1
    lines: LineRecipe = LineRecipe()
    kind: Literal["photograph", "drawing", "line"] | None = None
    rights: RightsRecipe = RightsRecipe()
    labels: LabelRecipe | None = None
    group: Annotated[str, Field(max_length=20, pattern=r"^[A-Za-z0-9 -]*$")] = ""
    """Pieces of one group are kept together on the sheet."""

    @property
    def picture(self) -> str:
        """Name of the picture as mended: the artwork's own hash when nothing is mended."""
        if self.mend.is_nothing:
            return self.artwork
        size = f" {self.longest_mm}" if self.mend.is_in_mm else ""
        return hashlib.sha256(f"{self.artwork} {self.mend.model_dump_json()}{size}".encode()).hexdigest()


class StandRecipe(BaseModel):
    """A copy of a design set by hand: the centre of its outline's box on a sheet (from 0), and its turn, degrees
    clockwise. A locked one keeps its place when the rest is filled again."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    design: DesignId
    sheet: Annotated[int, Field(ge=0, lt=60)] = 0
    x_mm: PlaceMm
    y_mm: PlaceMm
    turn_deg: Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)] = 0.0
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


class SheetRecipe(BaseModel):
    """Stock and filling; `fill` fills one sheet and leaves each design's copies unused. A `block` is one line
    round everything on a sheet, `block_margin_mm` outside it.

    Kiss lines keep `gap_mm`; pieces cut through keep `through_gap_mm` where it is more. With `shared` lines boxes
    stand edge to edge and one straight cut parts two of them.

    `method` is how pieces find their places: in rows and columns (of one piece every second row may be a half
    turn round or a half step along), nested by their true shapes (with these
    `turns`, in `nest_s` seconds, by this `seed`), or all by hand. `stands` are the places set by hand; when
    rows or a nest fill the sheet, only the locked ones of them count; with a card they are places on the card.
    A roll's panels are as long as they have to be, or `panel_mm`.

    `paper`, `printer` and `plotter` are those of the shop as they were when they were chosen, so that a job
    stays as it is when the shop changes; without a paper, `stock` names a plain sheet. `marks_at` are the
    marks' centres where they were moved by hand.
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
    shared: bool = False
    fill: bool = True
    block: Literal["none", "through", "perforate"] = "none"
    block_margin_mm: Annotated[float, Field(ge=1, le=30, allow_inf_nan=False)] = 4.0
    method: Literal["rows", "nest", "hand"] = "rows"
    rows: RowStyle = "straight"
    turns: Turns = "quarter"
    nest_s: Annotated[int, Field(ge=2, le=30)] = 8
    seed: Annotated[int, Field(ge=0, le=10_000)] = 1
    stands: Annotated[tuple[StandRecipe, ...], Field(max_length=3000)] = ()
    card: CardRecipe | None = None
    panel_mm: Annotated[float, Field(ge=20, le=30_000, allow_inf_nan=False)] | None = None

    @property
    def between_mm(self) -> float:
        """The gap that pieces keep."""
        return 0.0 if self.shared else self.gap_mm

    @property
    def on(self) -> StockRecipe:
        """The stock that is printed on."""
        return self.paper or next(stock for stock in EXAMPLE_STOCKS if stock.id == self.stock)

    @property
    def printed_by(self) -> PrinterRecipe:
        """The printer."""
        return self.printer or EXAMPLE_PRINTERS[0]

    @property
    def cut_by(self) -> PlotterRecipe:
        """The plotter."""
        return self.plotter or EXAMPLE_PLOTTERS[0]

    @property
    def machine(self) -> Machine:
        """What printer and plotter leave free."""
        return machine_of(self.printed_by, self.cut_by, self.small_marks)


class JobRecipe(BaseModel):
    """The whole job; an `order` is made for sale."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    designs: Annotated[tuple[DesignRecipe, ...], Field(max_length=60)] = ()
    sheet: SheetRecipe = SheetRecipe()
    order: bool = False

    @model_validator(mode="after")
    def _ids_differ(self) -> "JobRecipe":
        ids = [design.id for design in self.designs]
        if len(set(ids)) != len(ids):
            raise ValueError("two designs have the same id")
        return self

    def design(self, design_id: str) -> DesignRecipe:
        """The design with this id.

        Raises:
            KeyError: there is none.
        """
        for design in self.designs:
            if design.id == design_id:
                return design
        raise KeyError(design_id)
