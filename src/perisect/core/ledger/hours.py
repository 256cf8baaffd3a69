"""When a shop is open: by weekday, as spans of minutes from a beginning."""

from datetime import datetime, time, timedelta
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, model_validator

from perisect.core.ledger.schedule import Span

MinuteOfDay = Annotated[int, Field(ge=0, le=1440)]
DAYS_AHEAD = 21
USUAL: tuple[tuple[int, int] | None, ...] = (*((540, 1020),) * 5, None, None)


class ShopHours(BaseModel):
    """Opening and closing by weekday from Monday, minutes of the day, None where the shop is closed; how many work by
    hand at once; minutes that a change of stock takes, and that loading a sheet into a plotter takes."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    days: Annotated[tuple[tuple[MinuteOfDay, MinuteOfDay] | None, ...], Field(min_length=7, max_length=7)] = (
        USUAL
    )
    hands: Annotated[int, Field(ge=1, le=20)] = 1
    setup_min: Annotated[int, Field(ge=0, le=120)] = 5
    load_min: Annotated[float, Field(ge=0, le=60, allow_inf_nan=False)] = 1.5

    @model_validator(mode="after")
    def _opens_before_it_closes(self) -> "ShopHours":
        if not any(self.days):
            raise ValueError("the shop is open on one day or more")
        for day in self.days:
            if day is not None and day[1] - day[0] < 30:
                raise ValueError("an opening is half an hour or more, and ends on the day it begins")
        return self

    def openings(self, begin: datetime, days: int = DAYS_AHEAD) -> tuple[Span, ...]:
        """Spans of minutes from `begin`, whose day is that of its own clock, for so many days."""
        midnight = datetime.combine(begin.date(), time(), begin.tzinfo)
        spans = []
        for ahead in range(days):
            day = midnight + timedelta(days=ahead)
            if (hours := self.days[day.weekday()]) is None:
                continue
            start, end = (round((day + timedelta(minutes=m) - begin).total_seconds() / 60) for m in hours)
            if end > 0 and end > max(start, 0):
                spans.append((max(start, 0), end))
        return tuple(spans)

    @property
    def longest(self) -> int:
        """Minutes of the longest day."""
        return max(day[1] - day[0] for day in self.days if day is not None)
