"""One cut from loading to unloading, without a database: what a worker and `rehearse` both run."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from perisect.core.cutting.causes import Cause, Sight, cause_of, survey
from perisect.core.cutting.knife import KnifeSettings
from perisect.core.cutting.order import CutLine
from perisect.core.cutting.program import Cut, cut_program
from perisect.core.cutting.registration import TOLERANCE_MM, Registration, register
from perisect.core.cutting.run_state import RunState
from perisect.core.cutting.sensing import MarkNotFound, SheetTurned, sense_marks
from perisect.core.cutting.setting import CutSetting
from perisect.core.sheet import Mark, MarkSettings
from perisect.devices.protocols import PlotterDriver, PrintedSheet, Unloaded


class CutStopped(Exception):
    """The run stopped for a reason the person can do something about; `cause` is what was seen of it, and `sights` how
    each mark was seen."""

    def __init__(self, text: str, cause: Cause | None = None, sights: Sequence[Sight] = ()) -> None:
        super().__init__(text)
        self.cause, self.sights = cause, sights


@dataclass(frozen=True)
class Progress:
    """What the caller wants to hear and may stop."""

    stage: Callable[[RunState], None] = lambda _: None
    registered: Callable[[Registration], None] = lambda _: None
    noticed: Callable[[Cause], None] = lambda _: None
    seen: Callable[[Sequence[Sight], Registration | None, Cause | None], None] = lambda *_: None
    """How each mark was seen, the fit where there is one, and what is the matter where something is."""
    line_done: Callable[[int], None] = lambda _: None
    cancelled: Callable[[], bool] = lambda: False
    """Asked before every line; it may keep the blade waiting above the sheet."""
    held: Callable[[], "OnceMore | None"] = lambda: None
    """What is to be cut once more before the sheet is taken out; None to take it out."""


@dataclass(frozen=True)
class OnceMore:
    """Lines (numbers in their order) for another pass, and the settings of it where they are not those of the first."""

    lines: Sequence[int]
    settings: Mapping[str, CutSetting] | None = None


@dataclass(frozen=True)
class CutJob:
    """What is cut on which sheet, and how. Lengths in mm.

    `corner_mm` is where on the plate the sheet's lower left corner comes to lie, `settings` how each process is
    cut where that is known.
    """

    marks: Sequence[Mark]
    mark_settings: MarkSettings
    height_mm: float
    lines: Sequence[CutLine]
    corner_mm: tuple[float, float] = (20.0, 20.0)
    knife: KnifeSettings = KnifeSettings()
    settings: Mapping[str, CutSetting] = field(default_factory=dict)
    aim: Callable[[Registration], Registration] = lambda fit: fit
    """What is systematically off about the plotter, taken out."""
    sensed_at: Mapping[int, Sequence[int]] = field(default_factory=dict)
    """Numbers of the lines before which marks are sensed again, and of those marks."""


SILENT = Progress()


@dataclass(frozen=True)
class CutResult:
    """Registration, what the knife did, how many of the lines are cut, and how far the sheet moved meanwhile, mm, where
    it did."""

    fit: Registration
    unloaded: Unloaded
    lines_done: int
    moved_mm: float | None = None
    extra_strokes: int = 0
    """Of lines that were cut once more at the end."""


def nominal(
    height_mm: float, corner_mm: tuple[float, float]
) -> Callable[[float, float], tuple[float, float]]:
    """Sheet mm to plate mm for a sheet that lies perfectly against the guide."""
    return lambda x, y: (corner_mm[0] + x, corner_mm[1] + height_mm - y)


def sense(plotter: PlotterDriver, job: CutJob) -> Registration:
    """Find the marks and solve the registration.

    Raises:
        CutStopped: a mark is missing, the sheet is turned, or the fit is worse than the tolerance.
    """
    marks, turned, lost = job.marks, False, ""
    place = nominal(job.height_mm, job.corner_mm)
    try:
        found = sense_marks(marks, job.mark_settings, place, plotter.look)
        fit = register([(m.x_mm, m.y_mm) for m in marks], [(f.x_mm, f.y_mm) for f in found])
        if fit.within_tolerance:
            return fit
        lost = (
            f"The marks do not fit together: {fit.residual_mm:.2f} mm are left over at the "
            f"{marks[fit.worst].name} mark "
            f"and {TOLERANCE_MM} mm are allowed. "
        )
    except MarkNotFound as error:
        lost = f"The {error.where} mark was not found. "
    except SheetTurned as error:
        turned = True
        where = f"at the {error.where}" if error.where else "nowhere"
        lost = f"The sheet is turned: the ringed mark was found {where}, not at the {marks[0].name}. "
    sights = survey(marks, job.mark_settings, place, plotter.look)
    cause = cause_of(sights, None, turned)
    if cause is None:
        remedy = "It may be smeared, covered or badly lit. Clean it, lay the sheet against the guide, or print anew."
    else:
        remedy = cause.remedy
    raise CutStopped(f"{lost}{remedy}", cause, sights)


def lay_in_corner(_: PlotterDriver, job: CutJob) -> Registration:
    """Return the registration of a sheet without marks: it lies against the guides, its corner at the plate's."""
    height = job.height_mm
    corners = [(0.0, 0.0), (height, 0.0), (0.0, height)]
    place = nominal(height, job.corner_mm)
    return register(corners, [place(x, y) for x, y in corners])


Sense = Callable[[PlotterDriver, CutJob], Registration]
Help = Callable[[PlotterDriver, CutJob, CutStopped], Registration]


def cut_loaded(
    plotter: PlotterDriver,
    sheet: PrintedSheet,
    job: CutJob,
    progress: Progress = SILENT,
    first: int = 0,
    register_by: Sense = sense,
    helped_by: Help | None = None,
) -> CutResult:
    """Load, register, cut the lines in the order given until done or cancelled, hold, unload.

    Args:
        plotter: where the sheet is cut.
        sheet: the sheet as it was printed.
        job: what is cut, and how.
        progress: hears of every step, and may stop the cut.
        first: the line to begin with: a sheet that was cut as far as that is laid in again.
        register_by: how the sheet is found; by its sensor, unless a person does it by hand.
        helped_by: who finds it where that did not do.

    Raises:
        CutStopped: the sheet could not be registered.
        DeviceError: the plotter refused or was lost.
    """
    steps = _Steps(plotter, job, progress, first)
    steps.load(sheet)
    steps.register(register_by, helped_by)
    steps.cut()
    steps.hold()
    return steps.unload()


class _Steps:
    """The steps of one cut, in the order of the methods."""

    def __init__(self, plotter: PlotterDriver, job: CutJob, progress: Progress, first: int) -> None:
        self._plotter, self._job, self._progress = plotter, job, progress
        self._first = self._done = first
        self._senses, self._extra = False, 0
        self._whole: Registration
        self._aimed: Registration

    def load(self, sheet: PrintedSheet) -> None:
        self._progress.stage(RunState.LOADING)
        self._plotter.load(sheet, self._first > 0)

    def register(self, by: Sense, helped_by: Help | None) -> None:
        """Find the sheet, and say what is odd about its marks where the sensor found it."""
        self._progress.stage(RunState.SENSING)
        self._senses = by is sense
        try:
            fit = by(self._plotter, self._job)
        except CutStopped as stopped:
            self._progress.seen(stopped.sights, None, stopped.cause)
            if helped_by is None:
                raise
            self._senses, fit = False, helped_by(self._plotter, self._job, stopped)
        self._progress.registered(fit)
        if self._senses:
            marks, settings = self._job.marks, self._job.mark_settings
            seen = survey(marks, settings, lambda x, y: _there(fit, x, y), self._plotter.look)
            odd = cause_of(seen, fit)
            self._progress.seen(seen, fit, odd)
            if odd is not None:
                self._progress.noticed(odd)
        self._whole, self._aimed = fit, self._job.aim(fit)

    def cut(self) -> None:
        """Cut line after line; parts of a long sheet are sensed again on the way."""
        plotter, job, fit = self._plotter, self._job, self._whole
        self._progress.stage(RunState.CUTTING)
        lies: dict[int, Registration] = {}
        for step in cut_program(job.lines, self._aimed, job.knife, job.settings, self._first, lies):
            if self._progress.cancelled():
                break
            plotter.carry_out(step.motions)
            if step.line is not None:
                self._done = step.line + 1
                self._progress.line_done(self._done)
                if self._senses and self._done in job.sensed_at:
                    fit = _sensed_again(plotter, job, fit, job.sensed_at[self._done], self._progress)
                    lies[self._done] = self._aimed = job.aim(fit)
        plotter.park()

    def hold(self) -> None:
        """Cut lines once more for as long as somebody asks for it."""
        while self._done == len(self._job.lines) and (again := self._progress.held()) is not None:
            self._extra += _once_more(self._plotter, self._job, self._aimed, again)

    def unload(self) -> CutResult:
        """See whether the sheet moved, and take it out."""
        moved = has_moved(self._plotter, self._job, self._whole) if self._senses else None
        self._progress.stage(RunState.UNLOADING)
        return CutResult(self._whole, self._plotter.unload(), self._done, moved, self._extra)


def _once_more(plotter: PlotterDriver, job: CutJob, fit: Registration, again: OnceMore) -> int:
    """Cut some lines once more; return how many strokes that were."""
    settings = job.settings if again.settings is None else again.settings
    program = cut_program([job.lines[n] for n in again.lines], fit, job.knife, settings)
    strokes = 0
    for step in program:
        plotter.carry_out(step.motions)
        strokes += sum(isinstance(motion, Cut) for motion in step.motions)
    plotter.park()
    return strokes


FEWEST_MARKS = 3
"""Fewer do not tell scale and skew."""


def _sensed_again(
    plotter: PlotterDriver, job: CutJob, fit: Registration, numbers: Sequence[int], progress: Progress
) -> Registration:
    """How the part of the sheet round some of its marks lies now; as it lay, and said, where they cannot be told."""
    marks = [job.marks[number] for number in numbers]
    try:
        if len(marks) < FEWEST_MARKS:
            return fit
        there = sense_marks(marks, job.mark_settings, lambda x, y: _there(fit, x, y), plotter.look)
        now = register([(m.x_mm, m.y_mm) for m in marks], [(f.x_mm, f.y_mm) for f in there])
    except (MarkNotFound, SheetTurned):
        now = None
    if now is None or not now.within_tolerance:
        progress.noticed(Cause("marks lost", numbers[0]))
        return fit
    progress.registered(now)
    return now


MOVED_MM = 0.2
"""More than sensing twice can differ."""


def has_moved(plotter: PlotterDriver, job: CutJob, fit: Registration) -> float | None:
    """How far the marks are from where they were sensed, mm, where that is more than sensing twice can differ; None
    where they are not, or cannot be told any more because a line went through them."""
    try:
        there = sense_marks(job.marks, job.mark_settings, lambda x, y: _there(fit, x, y), plotter.look)
    except (MarkNotFound, SheetTurned):
        return None
    before = fit.apply([(mark.x_mm, mark.y_mm) for mark in job.marks])
    off = float(np.hypot(*(np.array([(f.x_mm, f.y_mm) for f in there]) - before).T).max())
    return off if off > MOVED_MM else None


def _there(fit: Registration, x: float, y: float) -> tuple[float, float]:
    ((u, v),) = fit.apply([(x, y)]).tolist()
    return u, v
