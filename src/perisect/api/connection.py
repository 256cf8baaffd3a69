"""One HTTP connection with clocks: a caller who neither sends nor reads keeps only that connection, and loses it."""

import asyncio

from uvicorn.protocols.http.h11_impl import H11Protocol

TICK_S = 2.0
"""How often a connection looks at its clocks."""
MAX_IDLE_S = 15.0
"""Longest time between two requests, s. Chosen: three times the five seconds that uvicorn keeps an idle connection,
which a caller who sends a byte now and then would renew for ever."""
MAX_UNREAD_S = 30.0
"""Longest time in which a caller may take nothing of an answer, s. Chosen above the 22 s that a caller at the least
pace needs until Linux opens a full receive buffer of 6 MB again."""
MIN_READ_BYTES_PER_S = 1_000_000 / 60
"""Least pace at which an answer is read, after the first `MAX_UNREAD_S`: a megabyte a minute, as for bodies."""


class WatchedConnection(H11Protocol):
    """uvicorn's HTTP/1.1 connection, ended when its caller sends no request or does not read the answer."""

    _clock: asyncio.TimerHandle | None = None
    _idle_since = 0.0
    _blocked_since: float | None = None
    _moved_at = 0.0
    _unread = 0
    _read = 0

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """Start the clocks with the connection."""
        super().connection_made(transport)
        self._idle_since = self.loop.time()
        self._clock = self.loop.call_later(TICK_S, self._tick)

    def connection_lost(self, exc: Exception | None) -> None:
        """Stop the clocks with the connection."""
        if self._clock is not None:
            self._clock.cancel()
        super().connection_lost(exc)

    def on_response_complete(self) -> None:
        """Count idle time from the end of an answer."""
        self._idle_since = self.loop.time()
        super().on_response_complete()

    def _tick(self) -> None:
        now = self.loop.time()
        if self._is_idle_for(now) > MAX_IDLE_S or self._reads_too_slowly(now):
            # Not close(): that would wait until the caller has read the rest.
            self.transport.abort()
            return
        self._clock = self.loop.call_later(TICK_S, self._tick)

    def _is_idle_for(self, now: float) -> float:
        answering = self.cycle is not None and not self.cycle.response_complete
        return 0.0 if answering or self.transport.get_write_buffer_size() else now - self._idle_since

    def _reads_too_slowly(self, now: float) -> bool:
        unread = self.transport.get_write_buffer_size()
        if unread == 0:
            self._blocked_since, self._unread = None, 0
            return False
        if self._blocked_since is None:
            self._blocked_since = self._moved_at = now
            self._read = 0
        elif unread < self._unread:
            self._read += self._unread - unread
            self._moved_at = now
        self._unread = unread
        least = (now - self._blocked_since - MAX_UNREAD_S) * MIN_READ_BYTES_PER_S
        return now - self._moved_at > MAX_UNREAD_S or self._read < least
