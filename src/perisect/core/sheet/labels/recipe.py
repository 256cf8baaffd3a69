"""What a person decides about labels."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from perisect.core.fonts import FontName

Share = Annotated[float, Field(ge=-0.5, le=1.5, allow_inf_nan=False)]
SideShare = Annotated[float, Field(gt=0, le=2, allow_inf_nan=False)]
Template = Annotated[str, Field(max_length=400)]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
CodeKind = Literal["qr", "ean13", "code128"]


class _Box(BaseModel):
    """A place on the design, as shares of its longest side from the top left of its outline's box. `template`
    is text with columns in braces, such as "{name}, {#} of 40"; {#} is the label's number."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    template: Template
    x: Share
    y: Share
    width: SideShare
    height: SideShare
    colour: Colour = "#16211f"


class TextBox(_Box):
    """A text: its capitals as high as `size_mm` where they fit, never lower than `least_mm`; on so many lines."""

    font: FontName = "text-bold"
    size_mm: Annotated[float, Field(ge=0.5, le=60, allow_inf_nan=False)] = 4.0
    least_mm: Annotated[float, Field(ge=0.5, le=60, allow_inf_nan=False)] = 1.4
    align: Literal["left", "centre", "right"] = "centre"
    lines: Annotated[int, Field(ge=1, le=6)] = 1


class CodeBox(_Box):
    """A code that a scanner reads, with its quiet zone inside the box."""

    kind: CodeKind = "qr"


class ShortForm(BaseModel):
    """What may be written short when the whole does not fit."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    long: Annotated[str, Field(min_length=1, max_length=80)]
    short: Annotated[str, Field(max_length=80)]


class LabelRecipe(BaseModel):
    """A kept list by its hash, and what it drives. `first` is the number of the first label."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    table: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    texts: Annotated[tuple[TextBox, ...], Field(max_length=12)] = ()
    codes: Annotated[tuple[CodeBox, ...], Field(max_length=6)] = ()
    shorts: Annotated[tuple[ShortForm, ...], Field(max_length=100)] = ()
    first: Annotated[int, Field(ge=0, le=1_000_000_000)] = 1
