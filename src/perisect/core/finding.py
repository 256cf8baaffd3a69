"""What a station has to say about the work: its place, its number, its limit and its remedy."""

from typing import Annotated, Any, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, PrivateAttr, computed_field

from perisect.core.catalogue import words
from perisect.core.message import Message

Severity = Literal["good", "look", "stop"]
Station = Literal["artwork", "lines", "sheet", "print", "cut", "log"]


class _Remedy(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    label: Annotated[str, Field(max_length=120)]
    """Text of its button, lengths in mm; it names the step that the remedy makes."""
    _message: Message | None = PrivateAttr(None)

    @classmethod
    def saying(cls, message: Message, **fields: Any) -> Self:
        """Return a remedy whose button says this message."""
        made = cls(label=words(message)[:120], **fields)
        made._message = message
        return made

    @property
    def message(self) -> Message | None:
        """The label as data; None where somebody sent this remedy."""
        return self._message


class SetField(_Remedy):
    """Set one field of the design (`longest_mm`, `border_mm`, `mend.background`, …) or of the sheet
    (`sheet.fill`, …)."""

    act: Literal["set"] = "set"
    field: Annotated[str, Field(max_length=60)]
    value: float | int | bool | Annotated[str, Field(max_length=200)] | None


class KnockOut(_Remedy):
    """Knock enclosed patches of background colour out, each by a place in it, px of the picture as it came."""

    act: Literal["knock_out"] = "knock_out"
    places: Annotated[tuple[tuple[int, int], ...], Field(min_length=1, max_length=2000)]


class PutShape(_Remedy):
    """Put a frame round the art, or a backing behind it."""

    act: Literal["put_shape"] = "put_shape"
    part: Literal["frame", "backing"]
    shape: Annotated[str, Field(max_length=24)]


class SplitPage(_Remedy):
    """Make a piece of every drawing on a page."""

    act: Literal["split"] = "split"


Remedy = Annotated[SetField | KnockOut | PutShape | SplitPage, Field(discriminator="act")]
"""One change of the recipe that would answer a finding."""


class Finding(BaseModel):
    """A trade problem or a reassurance. `where_mm` is in design or sheet coordinates."""

    model_config = ConfigDict(frozen=True)

    code: str
    station: Station
    severity: Severity
    message: Message
    design: str | None = None
    """Id of the design it is about; None when it is about the sheet or the whole job."""
    sheet: int | None = None
    """Which sheet it is on, from 0; None when it is about them all."""
    where_mm: tuple[float, float] | None = None
    measured: float | None = None
    limit: float | None = None
    unit: str | None = None
    remedy: Remedy | None = None

    @computed_field  # type: ignore[prop-decorator]
    @property
    def text(self) -> str:
        """The message as a sentence, lengths in mm."""
        return words(self.message)

    @computed_field  # type: ignore[prop-decorator]
    @property
    def remedy_message(self) -> Message | None:
        """Text of its remedy's button as data; None without a remedy."""
        return None if self.remedy is None else self.remedy.message
