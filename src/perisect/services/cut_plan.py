"""What a sheet is going to be cut with and how long that takes, told before the blade moves."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from perisect.core.cutting.carriage import Carriage
from perisect.core.cutting.duration import duration, duration_by_step
from perisect.core.cutting.knife import knife_of
from perisect.core.cutting.order import CutLine
from perisect.core.cutting.program import Step, cut_program
from perisect.core.cutting.registration import Registration
from perisect.core.cutting.setting import CutSetting
from perisect.core.sheet.shop_records import PlotterRecord
from perisect.services.devices import plotter_at
from perisect.services.laminating import is_laminated
from perisect.services.printing import nested_with_sheet
from perisect.store import book
from perisect.store.database import transaction


@dataclass(frozen=True)
class ProcessPlan:
    """Lines of one process: how many, how long (mm, all passes), with which setting, and seconds with the ways
    between."""

    process: str
    count: int
    length_mm: float
    setting: CutSetting
    seconds: float


@dataclass(frozen=True)
class SheetPlan:
    """By process in the order of the cut, and the seconds of it all."""

    processes: list[ProcessPlan]
    seconds: float


def cut_plan(job_id: int, number: int, print_id: int | None = None) -> SheetPlan:
    """Of sheet `number` (from 1) of a job; under film where its print is.

    Raises:
        UnknownJob, NoSuchSheet.
        DeviceError: the shop no longer has the plotter.
    """
    planned = nested_with_sheet(job_id, number)
    sheet = planned.plan.recipe.sheet
    plotter = plotter_at(sheet.cut_by.id).record
    with transaction() as session:
        laminated = print_id is not None and is_laminated(session, print_id)
        settings = book.settings_of(session, sheet, plotter, laminated)
    cut = planned.cut_files.sheet(number - 1)
    order = planned.cut_files.order(number - 1)
    steps = steps_of(order, plotter, settings, cut.height_mm)
    each = duration_by_step(steps, Carriage())
    found = []
    for process in dict.fromkeys(line.process for line in order):
        mine = [n for n, line in enumerate(order) if line.process == process]
        # The opening comes before the first line.
        taken = [each[n + 1] for n in mine]
        found.append(
            ProcessPlan(
                process,
                len(mine),
                sum(one.draw_mm for one in taken),
                settings[process],
                sum(one.seconds for one in taken),
            )
        )
    whole = duration([motion for step in steps for motion in step.motions], Carriage())
    return SheetPlan(found, whole.seconds)


def steps_of(
    order: Sequence[CutLine], plotter: PlotterRecord, settings: Mapping[str, CutSetting], height_mm: float
) -> list[Step]:
    """The motions of a sheet that lies perfectly against the guide."""
    as_drawn = np.array([[1, 0, plotter.corner_x_mm], [0, -1, plotter.corner_y_mm + height_mm]], float)
    knife = knife_of(plotter)
    return list(cut_program(order, Registration(as_drawn, np.zeros(1)), knife, settings))


@dataclass(frozen=True)
class Course:
    """How a cut goes on: the share of its time and the metres that are behind it when so many lines are cut (0 to all),
    and the seconds of all."""

    shares: list[float]
    metres: list[float]
    seconds: float


def course_of(
    order: Sequence[CutLine], plotter: PlotterRecord, settings: Mapping[str, CutSetting], height_mm: float
) -> Course:
    """The course of a whole sheet."""
    each = duration_by_step(steps_of(order, plotter, settings, height_mm), Carriage())
    passed = np.cumsum([one.seconds for one in each])
    total = float(passed[-1]) if len(passed) else 0.0
    shares = [float(p / total) if total else 0.0 for p in passed]
    # The opening comes before the first line.
    metres = np.cumsum([0.0, *(one.draw_mm / 1000 for one in each[1:])])
    return Course(shares, metres.tolist(), total)
