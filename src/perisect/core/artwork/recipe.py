"""How a picture is mended. The original bytes are never touched; this is applied to them."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from perisect.core.artwork.colour import Colour

Px = Annotated[int, Field(ge=0, le=100_000)]
FinePx = Annotated[float, Field(ge=-10_000, le=100_000, allow_inf_nan=False)]
Place = tuple[Px, Px]
Places = Annotated[tuple[Place, ...], Field(max_length=60)]
Tolerance = Annotated[float, Field(ge=1, le=60, allow_inf_nan=False)]
FrameMm = Annotated[float, Field(ge=0, le=40, allow_inf_nan=False)]
MarginMm = Annotated[float, Field(ge=0, le=60, allow_inf_nan=False)]
JoiningPx = Annotated[float, Field(ge=0, le=2000, allow_inf_nan=False)]

ShadowChoice = Literal["drop", "soft", "with"]
"""A soft shadow on a plain ground: gone with it, kept as transparency, or kept as it is with the line round both."""

MOST_BRUSH_POINTS = 40_000


def _is_none(value: object) -> bool:
    return value is None


def _is_smooth(value: object) -> bool:
    return value == "smooth"


class _Mend(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class FrameRecipe(_Mend):
    """A frame round a whole picture, as large as the picture allows.

    `radius_mm` rounds the corners of a rounded rectangle; a border of `border_mm` in `colour` lies
    inside the frame's edge, over the picture, or outside it.
    """

    shape: Literal["rectangle", "rounded", "ellipse", "circle"] = "rounded"
    radius_mm: FrameMm = 4.0
    border_mm: FrameMm = 0.0
    border: Literal["inside", "outside"] = "outside"
    colour: Colour = "#ffffff"


class BackingRecipe(_Mend):
    """A shape in one colour behind clear art, the least that holds the art with a margin round it."""

    shape: Literal["rectangle", "rounded", "ellipse", "circle"] = "circle"
    margin_mm: MarginMm = 3.0
    radius_mm: FrameMm = 4.0
    colour: Colour = "#ffffff"


class CropRecipe(_Mend):
    """The part of a picture that is used, px; `stretch` is how much taller it is then drawn (1: true)."""

    left_px: Px
    top_px: Px
    width_px: Annotated[int, Field(ge=1, le=100_000)]
    height_px: Annotated[int, Field(ge=1, le=100_000)]
    stretch: Annotated[float, Field(ge=0.25, le=4, allow_inf_nan=False)] = 1.0


class Stroke(_Mend):
    """One stroke of a round brush, px: it takes art away or brings back what the picture held there."""

    kind: Literal["erase", "restore"]
    radius_px: Annotated[float, Field(ge=0.5, le=5000, allow_inf_nan=False)]
    points: Annotated[tuple[tuple[FinePx, FinePx], ...], Field(min_length=1, max_length=4000)]


class Mark(_Mend):
    """A stroke that says what belongs to a subject, or does not; px."""

    radius_px: Annotated[float, Field(ge=0.5, le=5000, allow_inf_nan=False)]
    points: Annotated[tuple[tuple[FinePx, FinePx], ...], Field(min_length=1, max_length=2000)]


class SubjectRecipe(_Mend):
    """A subject that is cut out of a photo: within a box (left, top, right, bottom; px), with what strokes say stays
    and goes."""

    box: tuple[FinePx, FinePx, FinePx, FinePx] | None = None
    keep: Annotated[tuple[Mark, ...], Field(max_length=60)] = ()
    drop: Annotated[tuple[Mark, ...], Field(max_length=60)] = ()

    @model_validator(mode="after")
    def _box_holds_something(self) -> "SubjectRecipe":
        if self.box is not None and (self.box[2] - self.box[0] < 4 or self.box[3] - self.box[1] < 4):
            raise ValueError("the box is smaller than anything in a picture")
        return self


class Exchange(_Mend):
    """A colour of the picture's palette, and what it becomes."""

    old: Colour
    new: Colour


class RecolourRecipe(_Mend):
    """The picture in other colours: some exchanged, at most so many, or as a form: in one colour where it is darker
    than `light` (of white), or inverted."""

    exchanges: Annotated[tuple[Exchange, ...], Field(max_length=24)] = ()
    most: Annotated[int, Field(ge=1, le=24)] | None = None
    form: Literal["as_is", "one", "inverted"] = "as_is"
    colour: Colour = "#16211f"
    light: Annotated[float, Field(ge=0.05, le=1, allow_inf_nan=False)] = 0.85


class SplitRecipe(_Mend):
    """How a page is taken apart; None leaves the limit to the size of the page."""

    joining_px: JoiningPx | None = None
    despeckle_px: JoiningPx | None = None


class MendRecipe(_Mend):
    """What is done to one picture, in the order of the fields; the default leaves it as it is.

    `page` is the page of a PDF, from 1. `tolerance` is how far (CIELAB) a pixel may be from the background that is
    taken; None leaves it to the picture's own grain. `shadow` says what becomes of a soft shadow on it. `knock_out`
    and `keep` are places (px) in enclosed patches of background colour that are to go or to stay against the rule.
    `picked` are places whose colour was pointed at and goes as far as it hangs together. `drawings` are places on the
    drawings of a page that are meant. Loose pieces smaller than `specks_px2` go, except those of `specks_kept`; those
    of `specks_gone` go whatever their size. All places are in the picture as it came.
    """

    page: Annotated[int, Field(ge=1, le=5000)] = 1
    background: Literal["as_is", "plain", "checkerboard"] = "as_is"
    tolerance: Tolerance | None = None
    knock_out: Places = ()
    keep: Places = ()
    shadow: ShadowChoice = "drop"
    picked: Places = ()
    strokes: Annotated[tuple[Stroke, ...], Field(max_length=300)] = ()
    drawings: Places = ()
    split: SplitRecipe = SplitRecipe()
    specks_px2: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)] = 0.0
    specks_kept: Places = ()
    specks_gone: Places = ()
    crop: CropRecipe | None = None
    frame: FrameRecipe | None = None
    backing: BackingRecipe | None = None
    enlarge: Annotated[int, Field(ge=1, le=4)] = 1
    edges: Annotated[Literal["smooth", "sharp"], Field(exclude_if=_is_smooth)] = "smooth"
    """How edges are enlarged: as in any picture, or, in a flat drawing, as sharp as they were."""
    subject: Annotated[SubjectRecipe | None, Field(exclude_if=_is_none)] = None
    recolour: Annotated[RecolourRecipe | None, Field(exclude_if=_is_none)] = None
    """Left out where it is nothing, so that what was mended before these were known keeps its name."""

    @model_validator(mode="after")
    def _brushed_within_reason(self) -> "MendRecipe":
        if sum(len(stroke.points) for stroke in self.strokes) > MOST_BRUSH_POINTS:
            raise ValueError("the brush has drawn more than a picture can hold")
        return self

    @property
    def is_nothing(self) -> bool:
        """Whether the picture is left as it is."""
        return self == MendRecipe()

    @property
    def of_page(self) -> "MendRecipe":
        """What is done to the whole page before its drawings are told apart."""
        names = (
            "page",
            "background",
            "tolerance",
            "knock_out",
            "keep",
            "shadow",
            "picked",
            "strokes",
            "subject",
        )
        return MendRecipe(**{name: getattr(self, name) for name in names})

    @property
    def leaves_shapes(self) -> bool:
        """Whether no pixel changes, so that a drawing's own shapes still are its outline."""
        return self.model_copy(update={"split": SplitRecipe(), "tolerance": None}) == MendRecipe()

    @property
    def is_in_mm(self) -> bool:
        """Whether the mend depends on the size the picture is made at."""
        return self.frame is not None or self.backing is not None
