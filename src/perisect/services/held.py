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


def wait_while_held(
    run_id: int, claim: str, beat: Heartbeat, cut: CutSheet, order: list[CutLine]
) -> list[int] | None:
    """Lines that somebody wants cut once more while the sheet lies there; None to take it out."""
    beat.tell(state="held")
    end = time.monotonic() + HELD_FOR_S
    while time.monotonic() < end and beat.asked != "cancel":
        try:
            with transaction() as session:
                asked = runs.take_asked(session, run_id, claim)
        except SQLAlchemyError:
            asked = None  # The sheet lies there; the database comes back.
        if asked is not None:
            beat.tell(state="cutting")
            return None if asked.get("unload") else lines_again(cut, order, asked)
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
