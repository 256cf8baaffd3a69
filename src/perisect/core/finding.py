"""What a station has to say about the work: its place, its number, its limit and its remedy."""

from typing import Literal

from pydantic import BaseModel, ConfigDict

Severity = Literal["good", "look", "stop"]
Station = Literal["artwork", "lines", "sheet", "print", "cut", "log"]


class Remedy(BaseModel):
    """One change of the recipe that would answer a finding."""

    model_config = ConfigDict(frozen=True)

    label: str
    field: str
    """A field of the design (`longest_mm`, `border_mm`, …) or of the sheet (`sheet.fill`, …)."""
    value: float | int | bool | str | None


class Finding(BaseModel):
    """A trade problem or a reassurance. `where_mm` is in design or sheet coordinates."""

    model_config = ConfigDict(frozen=True)

    code: str
    station: Station
    severity: Severity
    text: str
    design: str | None = None
    """Id of the design it is about; None when it is about the sheet or the whole job."""
    sheet: int | None = None
    """Which sheet it is on, from 0; None when it is about them all."""
    where_mm: tuple[float, float] | None = None
    measured: float | None = None
    limit: float | None = None
    unit: str | None = None
    remedy: Remedy | None = None
