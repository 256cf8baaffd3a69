"""Messages to people as data: a code with typed values.

Nothing here holds words. `core.catalogue` turns a message into a sentence, on the command line and in files; the screen
does it with the same catalogue, in the person's unit of length.
"""

from typing import Annotated, Literal, Union

from pydantic import BaseModel, ConfigDict, Field

Unit = Literal["mm", "mm2", "um", "ppi", "percent", "deg", "kgf", "days"]


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Quantity(_Value):
    """A number with its unit.

    Attributes:
        value: the number, in `unit`.
        unit: its unit; lengths and areas are shown in the person's own.
        decimals: digits behind the point; None for as few as the number needs.
    """

    value: float
    unit: Unit
    decimals: Annotated[int, Field(ge=0, le=4)] | None = None


class Extent(_Value):
    """Width and height of a rectangle, mm."""

    width_mm: float
    height_mm: float
    decimals: Annotated[int, Field(ge=0, le=4)] | None = None


Param = Union[int, str, Quantity, Extent, "Message"]
"""A value in a sentence; a message is a sentence, or a part of one, inside another."""


class Message(_Value):
    """A sentence as data.

    Attributes:
        code: its key in the catalogue.
        params: values by the name that they have in the sentence.
    """

    code: str
    params: dict[str, Param] = {}


def says(code: str, **params: Param) -> Message:
    """Return a message with these values."""
    return Message(code=code, params=params)


NOTHING = Message(code="nothing")
"""A part of a sentence that is left out."""


def mm(value: float, decimals: int | None = None) -> Quantity:
    """Return a length in mm."""
    return Quantity(value=float(value), unit="mm", decimals=decimals)


def mm2(value: float, decimals: int | None = None) -> Quantity:
    """Return an area in mm²."""
    return Quantity(value=float(value), unit="mm2", decimals=decimals)


def extent(width_mm: float, height_mm: float, decimals: int | None = None) -> Extent:
    """Return the size of a rectangle, mm."""
    return Extent(width_mm=float(width_mm), height_mm=float(height_mm), decimals=decimals)


def percent(share: float, decimals: int = 0) -> Quantity:
    """Return a share from 0 to 1 in percent."""
    return Quantity(value=100 * float(share), unit="percent", decimals=decimals)


def quantity(value: float, unit: Unit, decimals: int | None = None) -> Quantity:
    """Return a number with a unit."""
    return Quantity(value=float(value), unit=unit, decimals=decimals)
