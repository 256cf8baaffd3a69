"""Stocks, printers and plotters as a shop knows them, with every number that the work needs."""

from collections.abc import Container
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator

from perisect.core.lines.material import FaceName
from perisect.core.sheet.mark_pattern import PATTERNS
from perisect.core.sheet.mark_shape import SHAPES
from perisect.core.sheet.marks import Anchor, MarkSettings, OwnMark
from perisect.core.sheet.stock import Stock
from perisect.core.sheet.usable import Machine

EquipmentId = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[a-z0-9-]+$")]
EquipmentName = Annotated[str, Field(min_length=1, max_length=60, pattern=r"\S")]
SideMm = Annotated[float, Field(ge=20, le=3000, allow_inf_nan=False)]
LongMm = Annotated[float, Field(ge=20, le=30_000, allow_inf_nan=False)]
EdgeMm = Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
Price = Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)]


class _Equipment(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    id: EquipmentId
    name: EquipmentName


THICKEST_UM = 2000.0
FILM_UM = 30.0
"""How thick a thin cold film is with its glue; our own figure."""


class StockRecipe(_Equipment):
    """Sheets of one size, or a roll whose panels are cut to length.

    `height_mm` of a roll is the longest panel. `price` is that of a sheet, or of a metre of the roll.
    """

    kind: Literal["sheet", "roll"] = "sheet"
    width_mm: SideMm
    height_mm: LongMm
    face: FaceName = "paper"
    face_um: Annotated[float, Field(ge=10, le=THICKEST_UM, allow_inf_nan=False)] = 90.0
    liner_um: Annotated[float, Field(ge=0, le=THICKEST_UM, allow_inf_nan=False)] = 80.0
    gloss: Literal["matt", "satin", "gloss"] = "matt"
    price: Price = 0.0

    def under_film(self) -> "StockRecipe":
        """The same with film over its print, which the blade has to go through too."""
        return self.model_copy(update={"face_um": min(self.face_um + FILM_UM, THICKEST_UM)})

    def panel(self, height_mm: float | None = None) -> Stock:
        """A sheet of it, or a panel of this height."""
        return Stock(self.id, self.name, self.width_mm, height_mm or self.height_mm)


class PrinterRecipe(_Equipment):
    """What a printer leaves bare along each edge, the largest sheet it takes, and what its ink costs: ml on a square
    metre of full colour, and the price of a ml."""

    margin_side_mm: EdgeMm = 5.0
    margin_top_mm: EdgeMm = 5.0
    margin_bottom_mm: EdgeMm = 5.0
    widest_mm: SideMm = 3000.0
    longest_mm: LongMm = 30_000.0
    ink_ml_m2: Annotated[float, Field(ge=0, le=200, allow_inf_nan=False)] = 14.0
    ink_price: Price = 0.35


def _known(names: Container[str], what: str) -> AfterValidator:
    """A name that is in a registry when it is read, so that a pattern or shape is one object and nothing else."""

    def check(name: str) -> str:
        if name not in names:
            raise ValueError(f"there is no such {what}")
        return name

    return AfterValidator(check)


PatternName = Annotated[str, Field(max_length=24), _known(PATTERNS, "pattern of marks")]
ShapeName = Annotated[str, Field(max_length=24), _known(SHAPES, "shape of marks")]
OffsetMm = Annotated[float, Field(ge=-1000, le=3000, allow_inf_nan=False)]


class OwnMarkRecipe(BaseModel):
    """A mark of a pattern of the plotter's own: how far from which edge along each axis, and its shape."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    from_x: Anchor = "near"
    x_mm: OffsetMm = 11.0
    from_y: Anchor = "near"
    y_mm: OffsetMm = 12.0
    shape: ShapeName = "quartered"


class MarksRecipe(BaseModel):
    """How a plotter wants its marks. The ring and the clear zone grow with the mark."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    pattern: PatternName = "four"
    shape: ShapeName = "quartered"
    radius_mm: Annotated[float, Field(ge=1, le=10, allow_inf_nan=False)] = 3.0
    line_mm: Annotated[float, Field(ge=0.2, le=3, allow_inf_nan=False)] = 0.8
    side_mm: EdgeMm = 11.0
    top_mm: EdgeMm = 12.0
    bottom_mm: EdgeMm = 15.0
    clear_mm: Annotated[float, Field(ge=0.5, le=10, allow_inf_nan=False)] = 1.3
    """Bare round the ring."""
    spacing_mm: Annotated[float, Field(ge=50, le=2000, allow_inf_nan=False)] = 300.0
    own: Annotated[tuple[OwnMarkRecipe, ...], Field(max_length=24)] = ()
    """The marks of the pattern `own`, at least three of them."""

    @model_validator(mode="after")
    def _own_marks_are_listed(self) -> "MarksRecipe":
        if self.pattern == "own" and len(self.own) < 3:
            raise ValueError("a pattern of its own lists three marks or more")
        return self

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
            pattern=self.pattern,
            shape=self.shape,
            line_mm=min(self.line_mm, radius / 2),
            spacing_mm=self.spacing_mm,
            own=tuple(OwnMark(**mark.model_dump()) for mark in self.own),
        )


class PlotterRecipe(_Equipment):
    """What a plotter takes, holds and sees. `longest_mm` is the longest sheet it cuts, `reach_…` how near an edge
    its sensor comes to a mark's centre; a mat of 0 by 0 is none."""

    cutting_width_mm: SideMm = 300.0
    longest_mm: LongMm = 30_000.0
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
