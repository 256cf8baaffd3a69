"""Marks that a person sets: the blade is jogged over them, one that was found badly is sensed again or left out."""

import time
from dataclasses import asdict, dataclass

import numpy as np

from perisect.core.cutting.by_hand import MarkPlaces, Place
from perisect.core.cutting.program import Move
from perisect.core.cutting.registration import Registration
from perisect.core.cutting.run_request import FARTHEST_MM, AtMark, CutByMarks, Jog, MarkRequest
from perisect.core.cutting.run_state import RunState
from perisect.core.cutting.sensing import MarkNotFound, find_mark
from perisect.core.ledger.cut_picture import sheet_png
from perisect.devices.cut_run import CutJob, CutStopped, nominal
from perisect.devices.errors import DeviceError
from perisect.devices.protocols import PlotterDriver
from perisect.services.led_run import LedRun
from perisect.store import blobs

LOOK_S = 0.04
WAITS_S = 1800.0
"""A plotter for which nobody sets marks is let go by then, for others wait for it."""
UNMOVED_MM = 0.02
"""A blade that lies nearer to where a mark was guessed was not jogged: the least step of the arrow keys is 0.025 mm."""


class NotBegun(Exception):
    """Somebody cancelled while the marks were set."""


def close_up_name(run_id: int) -> str:
    """Where the picture of the place under the blade is kept."""
    return f"runs/{run_id}/close-up.png"


@dataclass
class _Told:
    """What the screen shows beside the marks."""

    mark: int = 0
    at_mm: tuple[float, float] = (0.0, 0.0)
    said: str | None = None
    pictures: int = 0


class Placing:
    """The marks of one run, set by a person. `register` is called by the worker that holds the plotter."""

    def __init__(self, run: LedRun, has_sensor: bool) -> None:
        self._run, self._has_sensor = run, has_sensor

    def register(
        self, plotter: PlotterDriver, job: CutJob, stopped: CutStopped | None = None
    ) -> Registration:
        """Wait until the marks are set, and somebody says cut.

        Args:
            stopped: why sensing alone did not do, where the plotter senses.

        Raises:
            NotBegun: somebody cancelled.
            CutStopped: the sheet lies the wrong way round, or nobody came.
            DeviceError.
        """
        if (
            stopped is not None
            and stopped.cause is not None
            and stopped.cause.name in ("turned", "wrong sheet")
        ):
            raise stopped
        marks = MarkPlaces(job.marks, nominal(job.height_mm, job.corner_mm))
        told = _Told(said=None if stopped is None else str(stopped))
        if self._has_sensor:
            for number in range(len(job.marks)):
                self._sense(plotter, job, marks, number)
        left = [n for n in range(len(job.marks)) if n not in marks.places]
        self._go(plotter, marks, told, left[0] if left else self._worst(marks))
        end = time.monotonic() + WAITS_S
        self._show(plotter, marks, told)
        while time.monotonic() < end:
            if self._run.stop or self._run.is_lost:
                raise NotBegun
            requests = self._run.mark_requests()
            for request in requests:
                end = time.monotonic() + WAITS_S
                told.said = None
                try:
                    fit = self._do(plotter, job, marks, told, request)
                except DeviceError as error:
                    if error.cause != "line lost":
                        raise
                    # Beyond its plate it does not go, and stays where it is.
                    told.said, fit = f"The blade does not go there. {error}", None
                if fit is not None:
                    self._run.tell(state=RunState.CUTTING, marking=None)
                    return fit
            if requests:
                self._show(plotter, marks, told)
            else:
                time.sleep(LOOK_S)
        raise CutStopped(
            "Nobody set the marks for half an hour, so the plotter was let go. Begin the cut again."
        )

    def _do(
        self, plotter: PlotterDriver, job: CutJob, marks: MarkPlaces, told: _Told, request: MarkRequest
    ) -> Registration | None:
        """Do what is asked; the fit when it is to be cut by it."""
        match request:
            case Jog():
                x, y = plotter.where()
                self._move(plotter, x + request.dx_mm, y + request.dy_mm)
            case AtMark() if request.mark >= len(marks.marks):
                told.said = f"There is no mark {request.mark + 1}."
            case AtMark(do="go"):
                self._go(plotter, marks, told, request.mark)
            case AtMark(do="take"):
                at = plotter.where()
                self._note_unmoved(marks, request.mark, at)
                marks.places[request.mark] = Place(*at, "hand")
                marks.left_out.discard(request.mark)
                left = [
                    n for n in range(len(marks.marks)) if n not in marks.places and n not in marks.left_out
                ]
                if left:
                    self._go(plotter, marks, told, left[0])
            case AtMark(do="sense"):
                if not self._has_sensor:
                    told.said = "This plotter has no sensor."
                elif not self._sense(plotter, job, marks, request.mark):
                    told.said = f"The {marks.marks[request.mark].name} mark is not found by the sensor."
            case AtMark(do="leave"):
                marks.left_out.add(request.mark)
            case AtMark(do="use"):
                marks.left_out.discard(request.mark)
            case CutByMarks():
                doubt = None if request.sure else next(iter(marks.doubts), None)
                told.said = marks.trouble or doubt
                return marks.fit() if told.said is None else None
        return None

    @staticmethod
    def _note_unmoved(marks: MarkPlaces, mark: int, at: tuple[float, float]) -> None:
        """Note whether a mark is taken where the others say that it lies: nobody moved the blade there."""
        guessed = mark not in marks.places and np.abs(np.subtract(at, marks.guess(mark))).max() < UNMOVED_MM
        if guessed:
            marks.unmoved.add(mark)
        elif mark not in marks.places or marks.places[mark] != Place(*at, "hand"):
            marks.unmoved.discard(mark)

    def _go(self, plotter: PlotterDriver, marks: MarkPlaces, told: _Told, mark: int) -> None:
        told.mark = mark
        known = marks.places.get(mark)
        self._move(plotter, *((known.x_mm, known.y_mm) if known else marks.guess(mark)))

    def _move(self, plotter: PlotterDriver, x: float, y: float) -> None:
        plotter.carry_out([Move((min(max(x, 0.0), FARTHEST_MM), min(max(y, 0.0), FARTHEST_MM)))])

    def _sense(self, plotter: PlotterDriver, job: CutJob, marks: MarkPlaces, mark: int) -> bool:
        try:
            found = find_mark(job.marks, mark, marks.guess(mark), job.mark_settings, plotter.look)
        except MarkNotFound:
            marks.places.pop(mark, None)
            return False
        marks.unmoved.discard(mark)
        marks.places[mark] = Place(found.x_mm, found.y_mm, "sensor")
        return True

    def _worst(self, marks: MarkPlaces) -> int:
        off = marks.off_mm()
        return max(off, key=lambda n: off[n]) if off else 0

    def _show(self, plotter: PlotterDriver, marks: MarkPlaces, told: _Told) -> None:
        told.at_mm = plotter.where()
        if plotter.can_look:
            try:
                grey = plotter.look(*told.at_mm).grey
                blobs.put(close_up_name(self._run.run_id), sheet_png(np.stack([grey] * 3, axis=2)))
                told.pictures += 1
            except blobs.DiskFull:
                pass
        off = marks.off_mm() if marks.spare_readings > 0 else {}
        self._run.tell_now(
            state=RunState.PLACING,
            marking={
                **asdict(told),
                "trouble": marks.trouble,
                "doubts": marks.doubts,
                "has_sensor": self._has_sensor,
                "marks": [
                    {
                        "name": mark.name,
                        "by": marks.places[n].by if n in marks.places else None,
                        "left_out": n in marks.left_out,
                        "off_mm": off.get(n),
                    }
                    for n, mark in enumerate(marks.marks)
                ],
            },
        )
