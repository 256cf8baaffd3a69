"""What a person decides about a piece of several things. Lengths are mm, places are of a part's middle."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from perisect.core.artwork.colour import Colour

FontKey = Annotated[str, Field(min_length=1, max_length=64, pattern=r"^[a-z0-9-]+$")]
"""The name of a font that ships, or the hash of one of the person's own."""
Sha256 = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
WordsText = Annotated[str, Field(min_length=1, max_length=200, pattern=r"^[^\x00-\x09\x0b-\x1f\x7f]*$")]
AtMm = Annotated[float, Field(ge=-400, le=400, allow_inf_nan=False)]
TurnDeg = Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)]
CapsMm = Annotated[float, Field(ge=0.8, le=200, allow_inf_nan=False)]
GapMm = Annotated[float, Field(ge=-60, le=60, allow_inf_nan=False)]
SideMm = Annotated[float, Field(ge=3, le=400, allow_inf_nan=False)]
Role = Literal["both", "print", "cut"]
"""Printed and cut round, printed only, or cut round only."""
MOST_PARTS = 24


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    role: Role = "both"
    x_mm: AtMm = 0.0
    y_mm: AtMm = 0.0
    """By how much it is moved from where it would be placed."""
    turn_deg: TurnDeg = 0.0


class PicturePart(_Part):
    """A picture, as it was mended, at a size; the first part is the middle of the piece."""

    kind: Literal["picture"] = "picture"
    artwork: Sha256
    picture: Sha256
    """Name of the picture as mended."""
    longest_mm: SideMm = 50.0


class WordsPart(_Part):
    """A text of one or several lines, its capitals `size_mm` high.

    `place` is where it goes by what comes before it: under, over or on it, round it on a circle about its middle
    (`round` over the top, `ring` under the bottom), or along its own outline (`outline`), always `gap_mm` away.
    With `arc_mm` the base line of what is not round anything is bent to this radius: up in the middle where it is more
    than 0, down where it is less. `close` brings letters together until they touch, all by one measure (`even`) or each
    pair by its own (`pair`). `tracking` is put between letters, in heights of its capitals.
    """

    kind: Literal["words"] = "words"
    text: WordsText
    font: FontKey = "head"
    size_mm: CapsMm = 6.0
    colour: Colour = "#16211f"
    place: Literal["under", "over", "on", "round", "ring", "outline"] = "under"
    gap_mm: GapMm = 1.5
    arc_mm: Annotated[float, Field(ge=-2000, le=2000, allow_inf_nan=False)] | None = None
    tracking: Annotated[float, Field(ge=-0.6, le=3, allow_inf_nan=False)] = 0.0
    close: Literal["no", "even", "pair"] = "no"
    leading: Annotated[float, Field(ge=0.8, le=5, allow_inf_nan=False)] = 1.6
    """From base line to base line, in heights of its capitals."""
    align: Literal["left", "centre", "right"] = "centre"


class GroundPart(_Part):
    """A shape behind everything, in one colour, from one to another, or in a pattern."""

    kind: Literal["ground"] = "ground"
    shape: Literal["circle", "ellipse", "rectangle", "rounded"] = "circle"
    margin_mm: Annotated[float, Field(ge=-40, le=100, allow_inf_nan=False)] = 4.0
    radius_mm: Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)] = 4.0
    colour: Colour = "#cfe3dd"
    second: Colour | None = None
    """The colour that it goes to, or that its pattern is drawn in."""
    pattern: Literal["none", "fade", "dots", "stripes", "checks"] = "none"
    pattern_mm: Annotated[float, Field(ge=0.5, le=60, allow_inf_nan=False)] = 5.0


Part = Annotated[PicturePart | WordsPart | GroundPart, Field(discriminator="kind")]


class CompositionRecipe(BaseModel):
    """Parts in the order they are placed; grounds lie behind all others. `{name}` in a text is filled from a list."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    parts: Annotated[tuple[Part, ...], Field(min_length=1, max_length=MOST_PARTS)]

    @model_validator(mode="after")
    def _shows_something(self) -> "CompositionRecipe":
        if all(part.kind == "ground" for part in self.parts):
            raise ValueError("a piece is more than its ground")
        return self

    def filled(self, name: str) -> "CompositionRecipe":
        """With a name in the place of `{name}`."""
        parts = tuple(
            part.model_copy(update={"text": part.text.replace("{name}", name)})
            if isinstance(part, WordsPart)
            else part
            for part in self.parts
        )
        return CompositionRecipe.model_validate({"parts": [part.model_dump() for part in parts]})
