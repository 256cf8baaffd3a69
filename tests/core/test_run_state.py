"""The life of a run: which state follows which, and what may be asked when."""

import pytest

from perisect.core.cutting.run_request import Cancel, CutAgain, GoOn, Jog, Pause, RunNow, Unload
from perisect.core.cutting.run_state import NEXT, OVER, REACHABLE, RunState, may_follow

JOG = Jog(do="jog", dx_mm=1.0, dy_mm=0.0)


def now(state: str, done: int = 3, total: int = 8, holds: bool = True, waiting: tuple = ()) -> RunNow:
    return RunNow(RunState(state), holds, done, total, waiting)


def test_every_run_begins_queued_and_can_end_in_each_way() -> None:
    assert {"done", "stopped", "cancelled"} == OVER
    assert REACHABLE[RunState.QUEUED] == set(RunState) - {RunState.QUEUED}
    for state in set(RunState) - OVER:
        assert REACHABLE[state] >= OVER
        assert RunState.STOPPED in NEXT[state], "its worker may go quiet at any time"


def test_a_run_never_goes_back_to_before_its_first_line() -> None:
    for later in ("cutting", "paused", "held", "unloading", "measuring"):
        for earlier in ("queued", "loading", "sensing", "placing"):
            assert not may_follow(RunState(later), RunState(earlier))
    assert may_follow(RunState.HELD, RunState.CUTTING), "it is cut once more"
    assert not may_follow(RunState.UNLOADING, RunState.CUTTING), "the sheet is out"
    assert not any(may_follow(over, state) for over in OVER for state in RunState if state != over)


@pytest.mark.parametrize(
    ("run", "taken"),
    [
        (now("queued"), {Cancel}),
        (now("placing", 0), {Cancel, Jog}),
        (now("cutting"), {Cancel, Pause, GoOn}),
        (now("paused"), {Cancel, Pause, GoOn}),
        (now("cutting", 8), {Cancel, Unload}),
        (now("cutting", 8, holds=False), {Cancel}),
        (now("held", 8), {Cancel, CutAgain, Unload}),
        (now("held", 8, waiting=(CutAgain(),)), {Cancel, Unload}),
        (now("held", 8, waiting=(Unload(),)), {Cancel, Unload}),
        (now("measuring", 8), {Cancel}),
        (now("done", 8), set()),
    ],
)
def test_what_a_run_takes_follows_from_how_it_stands(run: RunNow, taken: set[type]) -> None:
    every = (Cancel(), Pause(), GoOn(), CutAgain(), Unload(), JOG)
    assert {type(request) for request in every if run.takes(request)} == taken


def test_a_jog_is_refused_when_two_hundred_wait() -> None:
    assert now("placing", waiting=(JOG,) * 199).takes(JOG)
    assert not now("placing", waiting=(JOG,) * 200).takes(JOG)
