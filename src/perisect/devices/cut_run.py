"""One cut from loading to unloading, without a database: what a worker and `rehearse` both run."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from perisect.core.cutting.knife import KnifeSettings
from perisect.core.cutting.order import CutLine
from perisect.core.cutting.program import cut_program
from perisect.core.cutting.registration import TOLERANCE_MM, Registration, register
from perisect.core.cutting.sensing import MarkNotFound, SheetTurned, sense_marks
from perisect.core.cutting.setting import CutSetting
from perisect.core.sheet import Mark, MarkSettings
from perisect.devices.protocols import PlotterDriver, PrintedSheet, Unloaded


class CutStopped(Exception):
    """The run stopped for a reason the person can do something about."""


@dataclass(frozen=True)
class Progress:
    """What the caller wants to hear and may stop."""

    stage: Callable[[str], None] = lambda _: None
    registered: Callable[[Registration], None] = lambda _: None
    line_done: Callable[[int], None] = lambda _: None
    cancelled: Callable[[], bool] = lambda: False


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


SILENT = Progress()


@dataclass(frozen=True)
class CutResult:
    """Registration, what the knife did, and how many of the lines it cut before it was cancelled."""

    fit: Registration
    unloaded: Unloaded
    lines_done: int


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
    marks = job.marks
    try:
        found = sense_marks(marks, job.mark_settings, nominal(job.height_mm, job.corner_mm), plotter.look)
    except MarkNotFound as error:
        raise CutStopped(
            f"The {error.where} mark was not found. Check that it printed, that no tape or shine "
            "lies on it and that the sheet lies against the guide, then load it again."
        ) from error
    except SheetTurned as error:
        where = f"at the {error.where}" if error.where else "nowhere"
        raise CutStopped(
            f"The sheet is turned: the ringed mark was found {where}, not at the {marks[0].name}. "
            "Take the sheet out, turn it and load it again."
        ) from error
    fit = register([(m.x_mm, m.y_mm) for m in marks], [(f.x_mm, f.y_mm) for f in found])
    if not fit.within_tolerance:
        raise CutStopped(
            f"The marks do not fit together: {fit.residual_mm:.2f} mm are left over at the "
            f"{marks[fit.worst].name} mark and {TOLERANCE_MM} mm are allowed. It may be smeared, covered or "
            "badly lit. Clean it or print a new sheet."
        )
    return fit


def cut_loaded(
    plotter: PlotterDriver, sheet: PrintedSheet, job: CutJob, progress: Progress = SILENT
) -> CutResult:
    """Load, sense, cut the lines in the order given until done or cancelled, unload.

    Raises:
        CutStopped, DeviceError.
    """
    progress.stage("loading")
    plotter.load(sheet)
    progress.stage("sensing")
    fit = sense(plotter, job)
    progress.registered(fit)
    progress.stage("cutting")
    done = 0
    for step in cut_program(job.lines, fit, job.knife, job.settings):
        if progress.cancelled():
            break
        plotter.carry_out(step.motions)
        if step.line is not None:
            done = step.line + 1
            progress.line_done(done)
    plotter.park()
    progress.stage("unloading")
    return CutResult(fit, plotter.unload(), done)
