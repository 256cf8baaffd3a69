"""Colours as people write them."""

from typing import Annotated

from pydantic import Field

Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
"""Red, green, blue as six lower-case hexadecimal digits."""


def levels(colour: Colour) -> tuple[int, int, int]:
    """Red, green, blue from 0 to 255."""
    red, green, blue = bytes.fromhex(colour[1:])
    return red, green, blue
