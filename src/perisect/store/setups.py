"""Set-ups: how a sheet is filled and lines are drawn, kept by name and used again."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from perisect.core.job import SheetRecipe
from perisect.core.job.recipe import BorderMm, PeelMm
from perisect.core.lines import LineRecipe
from perisect.store.locks import hold
from perisect.store.models import Setup

MOST_SETUPS = 200


class TooMany(ValueError):
    """The shop has as many set-ups as it may."""


class SetupRecipe(BaseModel):
    """What a set-up sets: the sheet, and the border and lines of every piece. Edits by hand and choices of
    single holes belong to a piece, places set by hand to a job: they are not in it."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: Annotated[str, Field(min_length=1, max_length=60, pattern=r"\S")]
    sheet: SheetRecipe
    border_mm: BorderMm
    peel_mm: PeelMm | None = None
    lines: LineRecipe

    def of_no_piece(self) -> "SetupRecipe":
        """Without what belongs to one piece alone."""
        own = {"patches": (), "nodes": (), "holes_filled": (), "holes_kept": ()}
        method = "rows" if self.sheet.method == "hand" else self.sheet.method
        places = {"placements": (), "marks_at": (), "scrap": None, "method": method}
        return self.model_copy(
            update={
                "lines": self.lines.model_copy(update=own),
                "sheet": self.sheet.model_copy(update=places),
            }
        )


def everything(session: Session) -> list[SetupRecipe]:
    """All set-ups by name."""
    rows = session.scalars(select(Setup).order_by(Setup.name)).all()
    return [SetupRecipe.model_validate(row.recipe) for row in rows]


def save(session: Session, setup: SetupRecipe) -> None:
    """Save a set-up; one of the same name is replaced.

    Raises:
        TooMany: there are as many as there may be.
    """
    hold(session, "setup")
    row = session.get(Setup, setup.name)
    if row is None:
        if (session.scalar(select(func.count()).select_from(Setup)) or 0) >= MOST_SETUPS:
            raise TooMany
        row = Setup(name=setup.name)
        session.add(row)
    row.recipe = setup.of_no_piece().model_dump(mode="json")


def delete(session: Session, name: str) -> bool:
    """Take a set-up away; whether there was one."""
    row = session.get(Setup, name)
    if row is not None:
        session.delete(row)
    return row is not None
