"""A sheet that waits in the plotter: between two lines of its cut, or at its end for another pass."""

import time
from collections.abc import Mapping
from typing import Any

from sqlalchemy.exc import SQLAlchemyError

from perisect.core.cutting.order import CutLine
from perisect.core.cutting.setting import CutSetting
from perisect.core.formats import CutSheet
from perisect.core.sheet.force import ForceScale
from perisect.devices.cut_run import OnceMore
from perisect.services.heartbeat import Heartbeat
from perisect.store import runs
from perisect.store.database import transaction

HELD_LOOK_S = 0.3
HELD_FOR_S = 1800.0
"""A sheet that nobody unloads is taken out by then, for others wait for the plotter."""


FORCE_SHARE = 0.08
"""Of the force there is, as much more at another pass that is to cut deeper; a step at least."""


def cancelled_or_waited(beat: Heartbeat) -> bool:
    """Whether a run is cancelled; where it is asked to wait, only after somebody says go on, or after half an hour,
    when others want the plotter."""
    if beat.asked == "pause":
        beat.tell(state="paused")
        beat.now()
        end = time.monotonic() + HELD_FOR_S
        while beat.asked == "pause":
            if time.monotonic() > end:
                return True
            time.sleep(HELD_LOOK_S)
        if beat.asked == "":
            beat.tell(state="cutting")
    return beat.asked == "cancel"


class Held:
    """A sheet that a run keeps in the plotter, whose forces are those of `scale`."""

    def __init__(self, run_id: int, claim: str, beat: Heartbeat, scale: ForceScale) -> None:
        self._run_id, self._claim, self._beat, self._scale = run_id, claim, beat, scale
        self._comes_out = False

    def wait(
        self, cut: CutSheet, order: list[CutLine], settings: Mapping[str, CutSetting]
    ) -> OnceMore | None:
        """What somebody wants cut once more while the sheet lies there; None to take it out."""
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
                if "stickers" not in asked:
                    return None
                more = harder(settings, self._scale) if asked.get("harder") else None
                return OnceMore(lines_again(cut, order, asked), more)
            time.sleep(HELD_LOOK_S)
        return None


def harder(settings: Mapping[str, CutSetting], scale: ForceScale) -> dict[str, CutSetting]:
    """The settings with a good step more of force, as far as the plotter goes, and one pass: it is one more."""
    more = max(scale.step, FORCE_SHARE * scale.most)
    return {
        process: each.model_copy(update={"force": scale.nearest(each.force + more), "passes": 1})
        for process, each in settings.items()
    }


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
