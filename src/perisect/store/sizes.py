"""Sizes by use: the shop's own list."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from perisect.store.locks import hold
from perisect.store.models import SizeByUse

SideMm = Annotated[float, Field(ge=5, le=400, allow_inf_nan=False)]


class Size(BaseModel):
    """What a thing is made at: its longest side, width or height, or a box filled exactly."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    use: Annotated[str, Field(min_length=1, max_length=60)]
    side: Literal["longest", "width", "height", "box"] = "longest"
    mm: SideMm
    height_mm: SideMm | None = None

    @model_validator(mode="after")
    def _a_box_has_two_sides(self) -> "Size":
        if (self.side == "box") != (self.height_mm is not None):
            raise ValueError("a box has a width and a height, everything else one length")
        return self


AT_FIRST = (
    Size(use="Laptop lid", mm=85),
    Size(use="Water bottle", mm=60),
    Size(use="Luggage tag", side="width", mm=55),
    Size(use="Jar lid, 63 mm", side="width", mm=58),
    Size(use="Staff badge", side="box", mm=86, height_mm=54),
    Size(use="Planner box", side="box", mm=38.1, height_mm=41.4),
    Size(use="Card", side="box", mm=102, height_mm=152),
)
"""What the list holds until the shop changes it."""


def everything(session: Session) -> list[Size]:
    """The shop's list, in its order."""
    rows = session.scalars(select(SizeByUse).order_by(SizeByUse.id)).all()
    kept = [
        Size.model_validate({"use": r.use, "side": r.side, "mm": r.mm, "height_mm": r.height_mm})
        for r in rows
    ]
    return kept or list(AT_FIRST)


def save(session: Session, sizes: list[Size]) -> None:
    """Put a list in the place of the one before."""
    hold(session, "size_by_use")
    session.execute(delete(SizeByUse))
    session.add_all([SizeByUse(**size.model_dump()) for size in sizes])
