"""What the API answers with of a run: its marks, its slips, its count. Sheet mm unless said otherwise."""

from datetime import datetime
from typing import Literal

from pydantic import BaseModel

from perisect.core.cutting.run_state import OVER, RunState
from perisect.core.ledger.count import Count
from perisect.store.models import Run


class RegistrationView(BaseModel):
    """Two scales (per cent off), turn and skew (degrees, clockwise as loaded), what is left over (mm)."""

    scale_x_pct: float
    scale_y_pct: float
    turn_deg: float
    skew_deg: float
    residual_mm: float


class SlipView(BaseModel):
    """What was measured at one sticker, sheet mm: its middle, its slip, mean of cut less wanted, what it may slip."""

    design: str
    x_mm: float
    y_mm: float
    slip_mm: float
    dx_mm: float
    sure_mm: float | None = None
    """How sure each way is, 95 %, where it was read from a picture."""
    dy_mm: float
    limit_mm: float
    good: bool


class SeenMarkView(BaseModel):
    """A mark as the sensor saw it: how alike to its picture (0 to 1), how far the fit is from it, mm, and what is the
    matter."""

    name: str
    verdict: Literal["clear", "weak", "not found"]
    likeness: float
    off_mm: float | None
    cause: str | None


class PlacedMarkView(BaseModel):
    """A mark while a person sets them: who found it, and what is left over at it."""

    name: str
    by: Literal["sensor", "hand"] | None
    left_out: bool
    off_mm: float | None


class MarkingView(BaseModel):
    """Marks that a person sets: which one is at hand, where the blade is (plate mm), what stands in the way of the cut,
    and how many pictures there were of what lies under the blade."""

    mark: int
    at_mm: tuple[float, float]
    said: str | None
    trouble: str | None
    doubts: list[str] = []
    """What cannot be checked of the marks; the cut begins when somebody says that it may."""
    pictures: int
    has_sensor: bool
    marks: list[PlacedMarkView]


class StickerView(BaseModel):
    """A sticker of a sheet that was cut: its piece and its box, sheet mm."""

    design: str
    box: tuple[float, float, float, float]


class RunView(BaseModel):
    """A cut and what was measured."""

    id: int
    job: int
    print_id: int
    sheet: int
    plotter: str
    state: RunState
    is_over: bool
    """Whether it has ended and has given its plotter back."""
    message: str | None
    lines_done: int
    lines_total: int
    first_line: int
    marks: list[SeenMarkView] | None
    marking: MarkingView | None
    share: float
    """Of the time of its lines, so much is over."""
    predicted_s: float | None
    notice: str | None
    """What was seen of the sheet that did not stop the cut."""
    registration: RegistrationView | None
    seconds: float | None
    slips: list[SlipView] | None
    measured_by: Literal["plotter", "picture", "ruler"]
    slip_largest_mm: float | None
    slip_mean_mm: float | None
    good: int | None
    bad: int | None
    stickers: list[StickerView] | None
    count: Count | None
    """What a person found on it."""
    count_version: int
    counted_good: int | None
    counted_bad: int | None
    has_picture: bool
    is_whole: bool
    """Whether slips, stickers, marks and count are in it; else they are asked for with the run alone."""
    created_at: datetime
    finished_at: datetime | None


LEFT_OUT: dict[str, None] = dict.fromkeys(("slips", "stickers", "marks", "count"))


def run_view(run: Run, sheet: int, is_whole: bool = True) -> RunView:
    """A run of a print of sheet `sheet`, with what was measured at each of its stickers or without."""
    own = {"sheet", "has_picture", "job", "is_whole", "is_over"}
    fields = {name: getattr(run, name) for name in RunView.model_fields if name not in own}
    more = {
        "job": run.job_id,
        "sheet": sheet,
        "has_picture": run.picture is not None,
        "is_whole": is_whole,
        "is_over": run.state in OVER,
    }
    return RunView.model_validate({**fields, **more, **({} if is_whole else LEFT_OUT)})
