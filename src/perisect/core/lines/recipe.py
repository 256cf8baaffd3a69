"""What a person decides about the lines of a design, beside its border and peel margin."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from perisect.core.artwork.colour import Colour

PlaceMm = tuple[
    Annotated[float, Field(ge=-1000, le=1000, allow_inf_nan=False)],
    Annotated[float, Field(ge=-1000, le=1000, allow_inf_nan=False)],
]
OfLongest = Annotated[float, Field(ge=-2, le=3, allow_inf_nan=False)]
Near = tuple[OfLongest, OfLongest]
"""A place in shares of the piece's longest side, from the top left of the outline's box: it stays on the piece
when its size or its border changes."""


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class TabRecipe(_Part):
    """A rounded tab to pull at, on the outer line where that comes nearest `near`; None where it is calmest."""

    width_mm: Annotated[float, Field(ge=3, le=60, allow_inf_nan=False)] = 12.0
    length_mm: Annotated[float, Field(ge=2, le=60, allow_inf_nan=False)] = 8.0
    near: Near | None = None


class HangRecipe(_Part):
    """A hole to hang the piece by, cut through; `near` as for a tab, None at the top."""

    diameter_mm: Annotated[float, Field(ge=1, le=30, allow_inf_nan=False)] = 4.0
    from_edge_mm: Annotated[float, Field(ge=0, le=60, allow_inf_nan=False)] = 4.0
    near: Near | None = None


class PatchRecipe(_Part):
    """A shape united with the piece's line or cut from it by hand.

    A bridge is a band `thick_mm` wide from the upper left to the lower right of its box, or, `rising`, from
    the lower left to the upper right. Its box is given in shares of the piece's longest side, from the top
    left of the outline's box, so that it keeps its place on the piece when the size changes.
    """

    does: Literal["unite", "cut"]
    shape: Literal["box", "ellipse", "bridge"] = "box"
    x: OfLongest
    y: OfLongest
    width: Annotated[float, Field(gt=0, le=4, allow_inf_nan=False)]
    height: Annotated[float, Field(gt=0, le=4, allow_inf_nan=False)]
    rising: bool = False
    thick_mm: Annotated[float, Field(ge=0.5, le=40, allow_inf_nan=False)] = 3.0


class NodeRecipe(_Part):
    """An edit of one node of the piece's line; places as for a patch.

    `move` takes the node at (x, y), or the line there, to (to_x, to_y); `add` puts a node on the line,
    `delete` takes one out, `smooth` and `corner` say how the line goes through it.
    """

    does: Literal["move", "add", "delete", "smooth", "corner"]
    x: OfLongest
    y: OfLongest
    to_x: OfLongest = 0.0
    to_y: OfLongest = 0.0


class ExtraLineRecipe(_Part):
    """A further line: what it does, what it follows, and how far outside that it runs.

    `art`, `own` and `outer` are the outline and the piece's two lines; `box` and `ellipse` go round the
    outer line; `level` and `upright` are straight over the piece, `offset_mm` from its middle.
    """

    process: Literal["kiss", "through", "perforate", "weed", "crease"]
    of: Literal["art", "own", "outer", "box", "ellipse", "level", "upright"]
    offset_mm: Annotated[float, Field(ge=-200, le=50, allow_inf_nan=False)] = 3.0


_NOT_SHAPE = {
    *("cut_mm", "tie_mm", "border_colour", "bleed_mm", "shape_radius_mm", "mitre_limit"),
    *("fit_mm", "keep_corners", "extras", "own", "outer", "tab", "hang"),
}
_ROUNDING = {"radius_mm", "fill_holes_mm", "holes_filled", "holes_kept"}


class LineRecipe(_Part):
    """How a design's lines follow its outline.

    `shape` puts a simple shape in the contour's place, or the cut line that the drawing held already, as it is.
    `corner` is how a border goes round corners, up to `mitre_limit` borders long when pointed. Gaps and slots
    narrower than twice `bridge_mm` are bridged. Holes less than `fill_holes_mm` across are filled, except those
    at `holes_kept` (places in design mm); those at `holes_filled` are filled whatever their size. No bend is
    tighter than `radius_mm`. `own` is the process of the piece's own line, `outer` that of the line one peel
    margin outside; a perforated one cuts `cut_mm` and leaves `tie_mm`. With a `border_colour` the border is
    printed. `bleed_mm` carries the art's colours past its edge. `patches` are edits by hand, one after the other,
    before bends are rounded. Lines are fitted with curves that leave them by `fit_mm` at most, sharp corners
    where they are when `keep_corners`; `nodes` are edits of those curves. `extras` are further lines.
    """

    shape: Literal["contour", "held", "circle", "ellipse", "rectangle", "rounded"] = "contour"
    shape_radius_mm: Annotated[float, Field(ge=0, le=60, allow_inf_nan=False)] = 4.0
    corner: Literal["round", "mitre", "bevel"] = "round"
    mitre_limit: Annotated[float, Field(ge=1, le=10, allow_inf_nan=False)] = 4.0
    bridge_mm: Annotated[float, Field(ge=0, le=20, allow_inf_nan=False)] = 0.0
    fill_holes_mm: Annotated[float, Field(ge=0, le=400, allow_inf_nan=False)] = 0.0
    holes_filled: Annotated[tuple[PlaceMm, ...], Field(max_length=200)] = ()
    holes_kept: Annotated[tuple[PlaceMm, ...], Field(max_length=200)] = ()
    radius_mm: Annotated[float, Field(ge=0, le=20, allow_inf_nan=False)] = 0.0
    own: Literal["kiss", "through", "none"] = "kiss"
    """What the piece's own line is; without one it is printed and never cut."""
    outer: Literal["through", "perforate"] = "through"
    cut_mm: Annotated[float, Field(ge=0.5, le=30, allow_inf_nan=False)] = 4.0
    tie_mm: Annotated[float, Field(ge=0.2, le=5, allow_inf_nan=False)] = 0.6
    tab: TabRecipe | None = None
    hang: HangRecipe | None = None
    border_colour: Colour | None = None
    bleed_mm: Annotated[float, Field(ge=0, le=10, allow_inf_nan=False)] = 0.0
    patches: Annotated[tuple[PatchRecipe, ...], Field(max_length=100)] = ()
    fit_mm: Annotated[float, Field(ge=0, le=0.5, allow_inf_nan=False)] = 0.05
    keep_corners: bool = True
    nodes: Annotated[tuple[NodeRecipe, ...], Field(max_length=400)] = ()
    extras: Annotated[tuple[ExtraLineRecipe, ...], Field(max_length=8)] = ()

    @property
    def is_grown_outline(self) -> bool:
        """Whether the lines are the outline, grown; with the rounding and the holes that are asked for."""
        aside = _NOT_SHAPE | (_ROUNDING if self.radius_mm > 0 else set())
        return self.model_dump(exclude=aside) == PLAIN.model_dump(exclude=aside)


PLAIN = LineRecipe()
