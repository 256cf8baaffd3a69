"""A sheet that waits in the plotter: between two lines of its cut, or at its end for another pass."""

import time
from collections.abc import Mapping

from perisect.core.cutting.order import CutLine
from perisect.core.cutting.run_request import CutAgain, Unload
from perisect.core.cutting.run_state import RunState
from perisect.core.cutting.setting import CutSetting
from perisect.core.formats import CutSheet
from perisect.core.sheet.force import ForceScale
from perisect.devices.cut_run import OnceMore
from perisect.services.led_run import LedRun

HELD_LOOK_S = 0.3
"""How often a waiting sheet looks for requests, s."""
HELD_FOR_S = 1800.0
"""How long a sheet waits in the plotter before it is taken out, s. Chosen: others want the plotter by then."""
FORCE_SHARE = 0.08
"""Share of the largest force by which another pass is deeper; a step of the plotter at least. Chosen: 2 steps of 33."""


def cancelled_or_waited(run: LedRun) -> bool:
    """Return whether a run is to end before its next line.

    A run that is asked to pause waits here until somebody says go on, half an hour at most.
    """
    if run.stop == "pause":
        run.tell_now(state=RunState.PAUSED)
        end = time.monotonic() + HELD_FOR_S
        while run.stop == "pause" and not run.is_lost:
            if time.monotonic() > end:
                return True
            time.sleep(HELD_LOOK_S)
        if not run.stop and not run.is_lost:
            run.tell(state=RunState.CUTTING)
    return run.stop == "cancel"


class Held:
    """A sheet that a run keeps in the plotter after its last line.

    Args:
        run: the run.
        scale: forces of the plotter.
    """

    def __init__(self, run: LedRun, scale: ForceScale) -> None:
        self._run, self._scale = run, scale
        self._comes_out = False

    def wait(
        self, cut: CutSheet, order: list[CutLine], settings: Mapping[str, CutSetting]
    ) -> OnceMore | None:
        """Wait for what is to be cut once more; return None if the sheet is to be taken out."""
        if self._comes_out:
            return None
        self._run.tell(state=RunState.HELD)
        end = time.monotonic() + HELD_FOR_S
        while time.monotonic() < end and self._run.stop != "cancel":
            asked = self._run.held_requests()
            if asked:
                self._run.tell(state=RunState.CUTTING)
                self._comes_out = any(isinstance(each, Unload) for each in asked)
                again = next((each for each in asked if isinstance(each, CutAgain)), None)
                if again is None:
                    return None
                more = harder(settings, self._scale) if again.harder else None
                return OnceMore(lines_again(cut, order, again), more)
            time.sleep(HELD_LOOK_S)
        return None


def harder(settings: Mapping[str, CutSetting], scale: ForceScale) -> dict[str, CutSetting]:
    """The settings with a good step more of force, as far as the plotter goes, and one pass: it is one more."""
    more = max(scale.step, FORCE_SHARE * scale.most)
    return {
        process: each.model_copy(update={"force": scale.nearest(each.force + more), "passes": 1})
        for process, each in settings.items()
    }


def lines_again(cut: CutSheet, order: list[CutLine], asked: CutAgain) -> list[int]:
    """Return the numbers of the lines that are cut again, in the order of the cut."""
    stickers = set(asked.stickers)
    return [
        number
        for number, line in enumerate(order)
        if (asked.process is None or line.process == asked.process)
        and (not stickers or cut.owners[line.process][line.index] in stickers)
    ]
