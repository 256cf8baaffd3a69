"""States of a run: which there are, which may follow which, and which are the end.

The one table of a run's life. The database refuses every other change (migration 0017), the API's document and the
screen take their types from it.
"""

from collections.abc import Mapping
from enum import StrEnum


class RunState(StrEnum):
    """State of a run, from the moment that it has its plotter."""

    QUEUED = "queued"
    LOADING = "loading"
    SENSING = "sensing"
    PLACING = "placing"
    """A person sets the marks."""
    CUTTING = "cutting"
    PAUSED = "paused"
    """The blade waits above the sheet, between two lines."""
    HELD = "held"
    """All lines are cut and the sheet stays in the plotter."""
    UNLOADING = "unloading"
    MEASURING = "measuring"
    DONE = "done"
    STOPPED = "stopped"
    """The run broke off: a fault, or its worker went quiet."""
    CANCELLED = "cancelled"


NEXT: Mapping[RunState, frozenset[RunState]] = {
    RunState.QUEUED: frozenset({RunState.LOADING, RunState.CANCELLED, RunState.STOPPED}),
    RunState.LOADING: frozenset({RunState.SENSING, RunState.STOPPED}),
    RunState.SENSING: frozenset({RunState.PLACING, RunState.CUTTING, RunState.STOPPED}),
    RunState.PLACING: frozenset({RunState.CUTTING, RunState.CANCELLED, RunState.STOPPED}),
    RunState.CUTTING: frozenset({RunState.PAUSED, RunState.HELD, RunState.UNLOADING, RunState.STOPPED}),
    RunState.PAUSED: frozenset({RunState.CUTTING, RunState.UNLOADING, RunState.STOPPED}),
    RunState.HELD: frozenset({RunState.CUTTING, RunState.UNLOADING, RunState.STOPPED}),
    RunState.UNLOADING: frozenset({RunState.MEASURING, RunState.STOPPED}),
    RunState.MEASURING: frozenset({RunState.DONE, RunState.CANCELLED, RunState.STOPPED}),
    RunState.DONE: frozenset(),
    RunState.STOPPED: frozenset(),
    RunState.CANCELLED: frozenset(),
}
"""The states that may come straight after each state."""
OVER = frozenset(state for state, following in NEXT.items() if not following)
"""States of a run that has ended and has given its plotter back."""
AT_ITS_LINES = frozenset({RunState.CUTTING, RunState.PAUSED})
"""States of a run between its first line and its last one."""


def _reachable() -> Mapping[RunState, frozenset[RunState]]:
    found = {state: set(following) for state, following in NEXT.items()}
    for between in NEXT:
        for state in NEXT:
            if between in found[state]:
                found[state] |= found[between]
    return {state: frozenset(following) for state, following in found.items()}


REACHABLE = _reachable()
"""The states that may be written after each state. A worker writes the latest state four times a second, so that those
between may be passed over."""


def may_follow(before: RunState, after: RunState) -> bool:
    """Return whether a run in state `before` may be written as `after`, itself included."""
    return after == before or after in REACHABLE[before]
