"""Changes in the database, told to everybody in this process who waits for some."""

import asyncio
from collections.abc import AsyncIterator, Iterator
from contextlib import asynccontextmanager, contextmanager

from perisect.services.sign_in import forget_seen
from perisect.store.events import SIGN_INS, Change, changes

MOST_UNHEARD = 400
"""Who falls so far behind is told to look at everything anew."""


class Hub:
    """One listener, many who hear it. All of it runs in the event loop."""

    def __init__(self) -> None:
        self._ears: set[asyncio.Queue[Change]] = set()

    @asynccontextmanager
    async def listening(self) -> AsyncIterator[None]:
        """Listen for as long as the application runs."""
        task = asyncio.create_task(self._listen())
        try:
            yield
        finally:
            task.cancel()
            await asyncio.gather(task, return_exceptions=True)

    @contextmanager
    def ear(self) -> Iterator[asyncio.Queue[Change]]:
        """A queue of all changes from now on."""
        queue: asyncio.Queue[Change] = asyncio.Queue()
        self._ears.add(queue)
        try:
            yield queue
        finally:
            self._ears.discard(queue)

    async def _listen(self) -> None:
        async for change in changes():
            if change.what in (SIGN_INS, "resync"):
                forget_seen()
            for ear in self._ears:
                if ear.qsize() >= MOST_UNHEARD:
                    while not ear.empty():
                        ear.get_nowait()
                    ear.put_nowait(Change("resync"))
                ear.put_nowait(change)


hub = Hub()
