"""A line of those who wait for one of a few places, first come first served, its length bounded."""

import threading
from collections import deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from perisect.sandbox.errors import TooBusy

LOOK_S = 0.1


class Line:
    """Places and those who wait for them.

    Args:
        places: how many may be served at a time.
        most_waiting: how many may wait.
        seconds_each: about how long one takes, to tell those who are sent away when to come back.
    """

    def __init__(self, places: int, most_waiting: int, seconds_each: float) -> None:
        self._free, self._most, self._seconds = places, most_waiting, seconds_each
        self._places = places
        self._changed = threading.Condition()
        self._waiting: deque[object] = deque()

    @contextmanager
    def place(
        self, ahead: Callable[[int], None] = lambda _: None, leave: Callable[[], bool] = lambda: False
    ) -> Iterator[bool]:
        """Wait for a place and have it; yields False, without one, when `leave` says so.

        Args:
            ahead: hears how many are before this one, whenever that changes.

        Raises:
            TooBusy: too many wait already.
        """
        if not self._enter(ahead, leave):
            yield False
            return
        try:
            yield True
        finally:
            with self._changed:
                self._free += 1
                self._changed.notify_all()

    def _enter(self, ahead: Callable[[int], None], leave: Callable[[], bool]) -> bool:
        me, reported = object(), -1
        with self._changed:
            if self._free > 0 and not self._waiting:
                self._free -= 1
                return True
            if len(self._waiting) >= self._most:
                raise TooBusy(max(1, round(len(self._waiting) * self._seconds / self._places)))
            self._waiting.append(me)
        try:
            while True:
                with self._changed:
                    at = self._waiting.index(me)
                    if at == 0 and self._free > 0:
                        self._free -= 1
                        return True
                    if at == reported:
                        self._changed.wait(LOOK_S)
                if at != reported:
                    reported = at
                    ahead(at)
                if leave():
                    return False
        finally:
            with self._changed:
                self._waiting.remove(me)
                self._changed.notify_all()
