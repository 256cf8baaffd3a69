"""What a shop uses up, and where it can be: every quantity moves from one place to another."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

ItemKind = Literal["stock", "ink", "film", "blade", "mat"]
Place = Literal["supplier", "shelf", "used", "waste", "found"]
"""`found` is what a count sets right, to either side; `shelf` is what the shop has."""
ItemId = Annotated[str, Field(max_length=60, pattern=r"^(stock|ink|film|blade|mat):[a-z0-9-]{1,40}$")]
Quantity = Annotated[float, Field(gt=0, le=1_000_000, allow_inf_nan=False)]

PACKS: dict[ItemKind, float] = {"stock": 50, "ink": 70, "film": 10, "blade": 120, "mat": 60}
"""What is usually bought at once: sheets or metres, ml, metres, metres that a blade cuts, loads that a mat bears."""


class ItemSettings(BaseModel):
    """How an item is bought: days until it is there, how much at once, and the chance of running out before a delivery
    that the shop takes."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    delivery_days: Annotated[int, Field(ge=0, le=120)] = 5
    pack: Quantity = 50.0
    chance: Annotated[float, Field(ge=0.001, le=0.5, allow_inf_nan=False)] = 0.05


def kind_of(item: str) -> ItemKind:
    """What kind of thing an item is."""
    kind = item.split(":", 1)[0]
    return next(each for each in PACKS if each == kind)


def unit_of(item: str, roll: bool = False) -> str:
    """What an item is counted in."""
    units: dict[ItemKind, str] = {"stock": "sheets", "ink": "ml", "film": "m", "blade": "m", "mat": "loads"}
    return "m" if roll else units[kind_of(item)]
