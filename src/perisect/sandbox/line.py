"""A line of those who wait for one of a few places: fair by owner, first come first served for each."""

import threading
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from perisect.sandbox.errors import TooBusy

LOOK_S = 0.1


@dataclass(eq=False)
class _Waiting:
    owner: str


class Line:
    """Places and those who wait for them.

    Owners take turns, so that one who asks for much is served beside others and not before them.

    Args:
        places: how many may be served at a time.
        most_waiting: how many may wait.
        seconds_each: about how long one takes, to tell those who are sent away when to come back.
        most_each: places that one owner may have; all of them when it is left out.
    """

    def __init__(
        self, places: int, most_waiting: int, seconds_each: float, most_each: int | None = None
    ) -> None:
        self._places, self._most, self._seconds = places, most_waiting, seconds_each
        self._most_each = places if most_each is None else most_each
        self._changed = threading.Condition()
        self._waiting: list[_Waiting] = []
        self._held: Counter[str] = Counter()

    @contextmanager
    def place(
        self,
        ahead: Callable[[int], None] = lambda _: None,
        leave: Callable[[], bool] = lambda: False,
        owner: str = "",
    ) -> Iterator[bool]:
        """Wait for a place and have it; yields False, without one, when `leave` says so.

        Args:
            ahead: hears how many are before this one, whenever that changes.
            leave: asked again and again whether nobody wants the place any more.
            owner: whose turn it uses up.

        Raises:
            TooBusy: too many wait already.
        """
        if not self._enter(ahead, leave, owner):
            yield False
            return
        try:
            yield True
        finally:
            with self._changed:
                self._held[owner] -= 1
                if not self._held[owner]:
                    del self._held[owner]
                self._changed.notify_all()

    def _enter(self, ahead: Callable[[int], None], leave: Callable[[], bool], owner: str) -> bool:
        me, reported = _Waiting(owner), -1
        with self._changed:
            if len(self._waiting) >= self._most and not self._has_room(owner):
                raise TooBusy(max(1, round(len(self._waiting) * self._seconds / self._places)))
            self._waiting.append(me)
        try:
            while True:
                with self._changed:
                    at = self._position(me)
                    if at == 0 and self._has_room(owner):
                        self._held[owner] += 1
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

    def _has_room(self, owner: str) -> bool:
        return self._held.total() < self._places and self._held[owner] < self._most_each

    def _position(self, me: _Waiting) -> int:
        """Return the number of waiting requests that are served before this one."""
        turns: Counter[str] = Counter()
        order = []
        for number, each in enumerate(self._waiting):
            turn = self._held[each.owner] + turns[each.owner]
            turns[each.owner] += 1
            # Whose owner has all that it may have waits for its own, and holds up nobody.
            order.append((self._held[each.owner] >= self._most_each, turn, number, each))
        return next(n for n, (*_, each) in enumerate(sorted(order, key=lambda o: o[:3])) if each is me)
