"""How a picture is mended. The original bytes are never touched; this is applied to them."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Place = tuple[Annotated[int, Field(ge=0, le=100_000)], Annotated[int, Field(ge=0, le=100_000)]]
Tolerance = Annotated[float, Field(ge=1, le=60, allow_inf_nan=False)]


class FrameRecipe(BaseModel):
    """A frame round a picture without a removable background, as large as the picture allows.

    `radius_pct` rounds the corners of a rectangle, in per cent of its shorter side.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    shape: Literal["rectangle", "rounded", "ellipse", "circle"] = "rounded"
    radius_pct: Annotated[float, Field(ge=0, le=50, allow_inf_nan=False)] = 8.0


class MendRecipe(BaseModel):
    """Background, islands, specks and frame of one picture; the default leaves it as it is.

    `knock_out` and `keep` are places (px) in enclosed patches of background colour that are to go or
    to stay against the rule. `piece` is a place on the one drawing of a page that is meant. Loose
    pieces smaller than `specks_px2` are taken away.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    background: Literal["as_is", "plain", "checkerboard"] = "as_is"
    tolerance: Tolerance = 12.0
    knock_out: Annotated[tuple[Place, ...], Field(max_length=40)] = ()
    keep: Annotated[tuple[Place, ...], Field(max_length=40)] = ()
    piece: Place | None = None
    specks_px2: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)] = 0.0
    frame: FrameRecipe | None = None

    @property
    def is_nothing(self) -> bool:
        """Whether the picture is left as it is."""
        return self == MendRecipe()
