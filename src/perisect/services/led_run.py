"""A run as the worker that leads it sees it: what it writes, and what a person asks of it."""

import threading
from contextlib import suppress
from typing import Any

from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from perisect.core.artwork import ToneRecipe
from perisect.core.cutting.run_request import (
    AtMark,
    Cancel,
    CutAgain,
    CutByMarks,
    GoOn,
    Jog,
    MarkRequest,
    Pause,
    Unload,
)
from perisect.core.cutting.run_state import OVER
from perisect.core.job import JobRecipe
from perisect.services import stockroom
from perisect.services.heartbeat import Heartbeat
from perisect.store import run_requests, runs
from perisect.store.database import transaction
from perisect.store.models import Print, Run


class LedRun:
    """A run that this worker has claimed.

    Attributes:
        run_id: its number.
        print_id: the print that it cuts.
        plotter_id: the shop's plotter.
        recipe: the job as it was printed.
        number: the sheet, from 0.
        tone: the print's tone.
        hold: whether the sheet stays in after its last line.
        ask: whether somebody is by, to set marks that the sensor does not find.
        first: the line that it begins with, from 0.
        left_out: whether the line before that was left as it was in the blade.
        laid_in_before: whether the sheet had been laid in anew before this run.
        lines_done: lines that are cut.
        lines_total: lines of the sheet; 0 until they are counted.
        stop: how it is asked to stop: "cancel", "pause" or "".
        is_lost: whether another worker has it, or it was closed.
    """

    def __init__(self, run: Run, sheet: Print, claim: str) -> None:
        self.run_id, self.print_id, self.plotter_id = run.id, sheet.id, run.plotter
        self.recipe, self.number = JobRecipe.model_validate(sheet.recipe), sheet.sheet
        self.tone = ToneRecipe.model_validate(sheet.tone)
        self.hold, self.ask, self.first = run.hold, run.ask, run.first_line
        self.left_out, self.laid_in_before = run.left_out, run.laid_in_before
        self.lines_done, self.lines_total = run.first_line, 0
        self.stop, self.is_lost = "", False
        self._claim, self._state = claim, run.state
        self._beat: Heartbeat | None = None
        self._marks: list[MarkRequest] = []
        self._held: list[CutAgain | Unload] = []
        self._seen = 0
        self._hearing = threading.Lock()

    def tell_by(self, beat: Heartbeat) -> None:
        """Have what is told from now on written by a heartbeat."""
        self._beat = beat

    def tell(self, **values: Any) -> None:
        """Have columns of the run written soon."""
        assert self._beat is not None
        self._beat.tell(**values)

    def tell_now(self, **values: Any) -> None:
        """Have columns of the run written at once: somebody waits for them at the screen."""
        self.tell(**values)
        assert self._beat is not None
        self._beat.now()

    def say(self, values: dict[str, Any]) -> str | None:
        """Write what has changed, and hear what is asked.

        Returns:
            How the run is asked to stop, "" for not at all; None if another worker has it, or it is over.
        """
        with transaction() as session:
            self.is_lost = self.write(session, values) is None
        if self.is_lost:
            return None
        self._state = values.get("state", self._state)
        self._hear()
        return self.stop

    def write(self, session: Session, values: dict[str, Any]) -> Run | None:
        """Write columns of the run, and deduct it from the stockroom once it is over.

        Returns:
            The run; None if another worker has it, or it is over.
        """
        # What the next beat writes changes only once this is in the database: a beat that came in between would end
        # the run without its values.
        state = values.get("state", self._state)
        now = runs.change(session, self.run_id, self._claim, **values | {"state": state})
        if now is not None and state in OVER:
            stockroom.sheet_cut(session, now)
        return now

    def mark_requests(self) -> list[MarkRequest]:
        """Take what was asked of the marks, in its order; nothing while the database is away."""
        self._try_to_hear()
        with self._hearing:
            taken, self._marks = self._marks, []
        return taken

    def held_requests(self) -> list[CutAgain | Unload]:
        """Take what was asked of the sheet that lies there, in its order; nothing while the database is away."""
        self._try_to_hear()
        with self._hearing:
            taken, self._held = self._held, []
        return taken

    def _try_to_hear(self) -> None:
        # The sheet lies there; the database comes back.
        with suppress(SQLAlchemyError):
            self._hear()

    def _hear(self) -> None:
        with self._hearing:
            with transaction() as session:
                new, seen = run_requests.take(session, self.run_id, self._seen)
            self._seen = seen
            for request in new:
                match request:
                    case Cancel():
                        self.stop = "cancel"
                    case Pause() if not self.stop:
                        self.stop = "pause"
                    case GoOn() if self.stop == "pause":
                        self.stop = ""
                    case Pause() | GoOn():
                        pass
                    case CutAgain() | Unload():
                        self._held.append(request)
                    case Jog() | AtMark() | CutByMarks():
                        self._marks.append(request)
