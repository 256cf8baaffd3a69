"""One cut from loading to unloading, without a database: what the worker and `rehearse` both run."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from perisect.core.cutting.knife import KnifeSettings
from perisect.core.cutting.order import CutLine
from perisect.core.cutting.registration import TOLERANCE_MM, Registration, register
from perisect.core.cutting.sensing import MarkNotFound, SheetTurned, sense_marks
from perisect.core.cutting.stream import closing, commands
from perisect.core.sheet import Mark, MarkSettings
from perisect.tasks.devices import SHEET_AT_MM, PlotterLink, Printed, Unloaded


class CutStopped(Exception):
    """The run stopped for a reason the person can do something about."""


@dataclass(frozen=True)
class CutSteps:
    """What the caller wants to hear and may stop."""

    stage: Callable[[str], None]
    registered: Callable[[Registration], None]
    line_done: Callable[[int], None]
    cancelled: Callable[[], bool]


KNIFE = KnifeSettings()
SILENT = CutSteps(lambda _: None, lambda _: None, lambda _: None, lambda: False)


@dataclass(frozen=True)
class CutResult:
    """Registration, what the knife did, and how many of the lines it cut before it was cancelled."""

    fit: Registration
    unloaded: Unloaded
    lines_done: int


def nominal(height_mm: float) -> Callable[[float, float], tuple[float, float]]:
    """Sheet mm to plate mm for a sheet that lies perfectly against the guide."""
    return lambda x, y: (SHEET_AT_MM[0] + x, SHEET_AT_MM[1] + height_mm - y)


def sense(
    plotter: PlotterLink, marks: Sequence[Mark], settings: MarkSettings, height_mm: float
) -> Registration:
    """Find the marks and solve the registration.

    Raises:
        CutStopped: a mark is missing, the sheet is turned, or the fit is worse than the tolerance.
    """
    try:
        found = sense_marks(marks, settings, nominal(height_mm), plotter.look)
    except MarkNotFound as error:
        raise CutStopped(
            f"The {error.where} mark was not found. Check that it printed, that no tape or shine "
            "lies on it and that the sheet lies against the guide, then load it again."
        ) from error
    except SheetTurned as error:
        where = f"at the {error.where}" if error.where else "nowhere"
        raise CutStopped(
            f"The sheet is turned: the ringed mark was found {where}, not at the top left. "
            "Take the sheet out, turn it and load it again."
        ) from error
    fit = register([(m.x_mm, m.y_mm) for m in marks], [(f.x_mm, f.y_mm) for f in found])
    if not fit.within_tolerance:
        raise CutStopped(
            f"The marks do not fit together: {fit.residual_mm:.2f} mm are left over at the {fit.worst} mark "
            f"and {TOLERANCE_MM} mm are allowed. It may be smeared, covered or badly lit. "
            "Clean it or print a new sheet."
        )
    return fit


def cut_loaded(
    plotter: PlotterLink,
    sheet: Printed,
    marks: Sequence[Mark],
    settings: MarkSettings,
    height_mm: float,
    lines: Sequence[CutLine],
    steps: CutSteps = SILENT,
    knife: KnifeSettings = KNIFE,
) -> CutResult:
    """Load, sense, cut the lines in the order given until done or cancelled, unload.

    Raises:
        CutStopped, DeviceError.
    """
    steps.stage("loading")
    plotter.load(sheet)
    steps.stage("sensing")
    fit = sense(plotter, marks, settings, height_mm)
    steps.registered(fit)
    steps.stage("cutting")
    done = 0
    for command in commands(lines, fit, knife):
        if steps.cancelled():
            break
        plotter.send(command.text)
        if command.line is not None:
            done = command.line + 1
            steps.line_done(done)
    plotter.send(closing())
    steps.stage("unloading")
    return CutResult(fit, plotter.unload(), done)
