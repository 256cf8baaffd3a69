"""Requests of a person to a run, and when a run takes each of them."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from perisect.core.cutting.run_state import AT_ITS_LINES, OVER, RunState

FARTHEST_MM = 3000.0
"""Longest jog, mm. Chosen: longer than the bed of any plotter that the shop may enter."""
MAX_WAITING = 200
"""Most requests that wait for one run. Chosen: an arrow key held for eight seconds sends as many."""

MarkNumber = Annotated[int, Field(ge=0, lt=1000)]
Way = Annotated[float, Field(ge=-FARTHEST_MM, le=FARTHEST_MM, allow_inf_nan=False)]


class _Request(BaseModel):
    model_config = ConfigDict(frozen=True)


class Cancel(_Request):
    """End the run after the line that it is cutting."""

    do: Literal["cancel"] = "cancel"


class Pause(_Request):
    """Wait after the line that is being cut, the blade up."""

    do: Literal["pause"] = "pause"


class GoOn(_Request):
    """Go on after a pause."""

    do: Literal["go on"] = "go on"


class CutAgain(_Request):
    """Cut lines once more while the sheet lies there: one process, or some stickers (from 0); all if none is named."""

    do: Literal["cut again"] = "cut again"
    process: Annotated[str, Field(max_length=24)] | None = None
    stickers: Annotated[list[Annotated[int, Field(ge=0, lt=100_000)]], Field(max_length=5000)] = []
    harder: bool = False
    """With a step more of force."""


class Unload(_Request):
    """Take the sheet out, after all that was asked before."""

    do: Literal["unload"] = "unload"


class Jog(_Request):
    """Move the blade by this much, plate mm, y up."""

    do: Literal["jog"]
    dx_mm: Way
    dy_mm: Way


class AtMark(_Request):
    """Act at one mark (from 0).

    `go` moves the blade to where the mark should be, `take` takes the blade's place for it, `sense` senses it again,
    `leave` leaves it out and `use` uses it again.
    """

    do: Literal["go", "take", "sense", "leave", "use"]
    mark: MarkNumber


class CutByMarks(_Request):
    """Cut by the marks as they are set; `sure` once a person has read what cannot be checked of them."""

    do: Literal["cut"]
    sure: bool = False


MarkRequest = Jog | AtMark | CutByMarks
"""Requests while a person sets the marks."""
RunRequest = Cancel | Pause | GoOn | CutAgain | Unload | MarkRequest
REQUEST: TypeAdapter[RunRequest] = TypeAdapter(Annotated[RunRequest, Field(discriminator="do")])


@dataclass(frozen=True)
class RunNow:
    """State of a run as far as it decides which requests it takes.

    Attributes:
        state: its state.
        holds: whether it keeps the sheet after its last line.
        lines_done: lines that are cut, also before this run.
        lines_total: lines of the sheet; 0 until they are counted.
        waiting: requests that it has not taken yet, in their order.
    """

    state: RunState
    holds: bool
    lines_done: int
    lines_total: int
    waiting: Sequence[RunRequest] = ()

    @property
    def has_lines_left(self) -> bool:
        """Whether a line is still to be cut."""
        return self.lines_done < self.lines_total

    def takes(self, request: RunRequest) -> bool:
        """Return whether the run takes a request now."""
        match request:
            case Cancel():
                return self.state not in OVER
            case Pause() | GoOn():
                return self.state in AT_ITS_LINES and self.has_lines_left
            case CutAgain():
                # Pressed twice it is meant once.
                is_asked = any(isinstance(each, CutAgain | Unload) for each in self.waiting)
                return self.state == RunState.HELD and not is_asked
            case Unload():
                is_cut = self.lines_total > 0 and not self.has_lines_left
                return self.holds and is_cut and self.state in (RunState.HELD, RunState.CUTTING)
            case Jog() | AtMark() | CutByMarks():
                return self.state == RunState.PLACING and len(self.waiting) < MAX_WAITING
