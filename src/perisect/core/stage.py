"""Stages of long work: what is being done, and how far the whole is.

Shares are what the stages of a large picture take; the bench `trace_the_first_time` shows them.
"""

from collections.abc import Callable
from dataclasses import dataclass

from perisect.core.message import Message, says


@dataclass(frozen=True)
class Stage:
    """A stage of long work.

    Attributes:
        message: what is being done.
        share: how much of the whole is done when it begins, from 0 to 1.
    """

    message: Message
    share: float


Report = Callable[[Stage], None]
"""Hears each stage as it begins."""

OPENING = Stage(says("stage.opening"), 0.1)
BACKGROUND = Stage(says("stage.background"), 0.25)
SUBJECT = Stage(says("stage.subject"), 0.3)
REMOVING = Stage(says("stage.removing"), 0.35)
COLOUR = Stage(says("stage.colour"), 0.45)
SPECKS = Stage(says("stage.specks"), 0.55)
EXCHANGING = Stage(says("stage.exchanging"), 0.57)
FRAME = Stage(says("stage.frame"), 0.6)
ENLARGING = Stage(says("stage.enlarging"), 0.65)
TRACING = Stage(says("stage.tracing"), 0.75)
PREVIEW = Stage(says("stage.preview"), 0.92)


def drawing(number: int, count: int) -> Stage:
    """Return the stage that reads drawing `number` (from 1) of `count` on a page."""
    return Stage(says("stage.drawing", number=number, count=count), 0.4 + 0.6 * (number - 1) / count)


def nesting(left_s: int, seconds: int) -> Stage:
    """Return the stage of a nest's search that has `left_s` of its `seconds` before it."""
    return Stage(says("stage.nesting", left=left_s, seconds=seconds), 1 - left_s / max(1, seconds))


def waiting(ahead: int) -> Stage:
    """Return the stage of work that waits for a reader, with `ahead` others before it."""
    return Stage(says("stage.waiting", count=ahead), 0.02)
