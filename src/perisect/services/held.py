"""A sheet that is cut and lies in the plotter still: what somebody wants cut once more, until it is taken out."""

import time
from typing import Any

from sqlalchemy.exc import SQLAlchemyError

from perisect.core.cutting.order import CutLine
from perisect.core.formats import CutSheet
from perisect.services.heartbeat import Heartbeat
from perisect.store import runs
from perisect.store.database import transaction

HELD_LOOK_S = 0.3
HELD_FOR_S = 1800.0
"""A sheet that nobody unloads is taken out by then, for others wait for the plotter."""


class Held:
    """A sheet that a run keeps in the plotter."""

    def __init__(self, run_id: int, claim: str, beat: Heartbeat) -> None:
        self._run_id, self._claim, self._beat = run_id, claim, beat
        self._comes_out = False

    def wait(self, cut: CutSheet, order: list[CutLine]) -> list[int] | None:
        """Lines that somebody wants cut once more while the sheet lies there; None to take it out."""
        if self._comes_out:
            return None
        self._beat.tell(state="held")
        end = time.monotonic() + HELD_FOR_S
        while time.monotonic() < end and self._beat.asked != "cancel":
            try:
                with transaction() as session:
                    asked = runs.take_asked(session, self._run_id, self._claim)
            except SQLAlchemyError:
                asked = None  # The sheet lies there; the database comes back.
            if asked is not None:
                self._beat.tell(state="cutting")
                self._comes_out = bool(asked.get("unload"))
                return lines_again(cut, order, asked) if "stickers" in asked else None
            time.sleep(HELD_LOOK_S)
        return None


def lines_again(cut: CutSheet, order: list[CutLine], asked: dict[str, Any]) -> list[int]:
    """Numbers of the lines of some stickers and of one process, in the order they are cut; of all where none is
    named."""
    stickers, process = set(asked.get("stickers") or ()), asked.get("process")
    return [
        number
        for number, line in enumerate(order)
        if (process is None or line.process == process)
        and (not stickers or cut.owners[line.process][line.index] in stickers)
    ]
