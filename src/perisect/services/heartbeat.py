"""Show that a worker lives, and hear what is asked of it, beside its work.

A thread of its own speaks to the database; while that is away it remembers what it has to say and says it later, so
that no cut waits for a database.
"""

import threading
import time
from collections.abc import Callable
from types import TracebackType
from typing import Any, Self

import structlog
from sqlalchemy.exc import SQLAlchemyError

BEAT_S = 0.25
AGAIN_S = 1.0
PATIENCE_S = 900.0
"""How long the end of some work waits for a database that is away, s. Chosen: longer than a restart of the machine."""

log = structlog.get_logger()


def write_with_retry(write: Callable[[], None]) -> None:
    """Run `write`, retrying for 15 minutes while the database is unreachable.

    Raises:
        SQLAlchemyError: it stayed unreachable.
    """
    end = time.monotonic() + PATIENCE_S
    while True:
        try:
            return write()
        except SQLAlchemyError:
            if time.monotonic() > end:
                raise
            time.sleep(AGAIN_S)


Say = Callable[[dict[str, Any]], str | None]
"""Write what has changed; returns how one is asked to stop, None when the claim is lost."""


class Heartbeat:
    """What a worker has to say of its work, and whether it is asked to stop.

    Args:
        say: writes values and returns how one is asked to stop ("" for not at all), None for a lost claim.
    """

    def __init__(self, say: Say) -> None:
        self._say = say
        self._values: dict[str, Any] = {}
        self._lock = threading.Lock()
        self._saying = threading.Lock()
        self._over = threading.Event()
        self._wake = threading.Event()
        self._asked: str | None = ""
        self._thread = threading.Thread(target=self._beat, daemon=True)

    @property
    def asked(self) -> str | None:
        """How one is asked to stop, as last heard; None for a lost claim."""
        return self._asked

    def tell(self, **values: Any) -> None:
        """Say something soon; what is told twice is said once, with its latest value."""
        with self._lock:
            self._values.update(values)

    def now(self) -> None:
        """Say at once what there is to say: somebody waits for it at the screen."""
        self._once()

    def __enter__(self) -> Self:
        self._thread.start()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._over.set()
        self._wake.set()
        self._thread.join()

    def take_untold(self) -> dict[str, Any]:
        """Return what was told and is not written yet; it is not written here any more."""
        # Not in the middle of a beat: one that fails puts back what it took.
        with self._saying, self._lock:
            values, self._values = self._values, {}
        return values

    def _beat(self) -> None:
        while not self._over.is_set():
            self._once()
            self._wake.wait(BEAT_S)

    def _once(self) -> None:
        # One at a time, so that what was told later is not overwritten by what was told before.
        with self._saying:
            with self._lock:
                values, self._values = self._values, {}
            try:
                self._asked = self._say(values)
            except SQLAlchemyError as error:
                log.warning("database away", reason=type(error).__name__)
                with self._lock:
                    self._values = values | self._values
