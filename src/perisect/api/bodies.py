"""Bodies of requests: how fast and how large they come, and how one is kept until its work has a place."""

import asyncio
import tempfile
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from fastapi.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.types import Message, Receive, Scope

MAX_STILL_S = 10.0
"""Longest time without a byte, s."""
S_PER_MB = 60.0
"""Time that each megabyte of a body may take, s; a body has the time of one megabyte at least."""
IN_MEMORY_BYTES = 1 << 20
"""A body larger than this is kept on disk while it arrives."""
MAX_ARRIVING_BYTES = 2 << 30
"""Bytes of all bodies that are kept for their places at a time. Chosen: thirty of the largest uploads."""
BLOCK = 1 << 18


class BodyTooLarge(Exception):
    """More of a body came than its path takes."""


class BodyStalled(Exception):
    """A body stopped arriving, or arrives too slowly."""


class TooManyArrive(Exception):
    """The bodies that are arriving take more room than all may have together."""


def announces_body(scope: Scope) -> bool:
    """Return whether the head of a request says that a body follows."""
    headers = Headers(scope=scope)
    return "transfer-encoding" in headers or headers.get("content-length", "0") != "0"


class MeteredBody:
    """The receiving side of a request whose body has a largest size and a least pace.

    Args:
        receive: where the messages of the request come from.
        most: bytes that the body may have.
    """

    def __init__(self, receive: Receive, most: int) -> None:
        self._receive, self._left = receive, most
        self._came, self._began, self._ended = 0, 0.0, False
        self.failure: BodyTooLarge | BodyStalled | None = None

    async def receive(self) -> Message:
        """Receive the next message.

        Raises:
            BodyTooLarge: the body is larger than `most`.
            BodyStalled: no byte came for `MAX_STILL_S`, or fewer than a megabyte each `S_PER_MB`.
        """
        if self._ended:
            # What follows a body is the end of the connection, which may be hours away.
            return await self._receive()
        if self.failure is not None:
            raise self.failure
        now = asyncio.get_running_loop().time()
        self._began = self._began or now
        left_s = self._began + S_PER_MB * (1 + self._came / 1_000_000) - now
        try:
            async with asyncio.timeout(min(MAX_STILL_S, max(0.0, left_s))):
                message = await self._receive()
        except TimeoutError:
            self.failure = BodyStalled()
            raise self.failure from None
        self._came += len(message.get("body", b""))
        self._ended = not message.get("more_body", False)
        if self._came > self._left:
            self.failure = BodyTooLarge()
            raise self.failure
        return message


class BodyStore:
    """Keeps bodies until their requests have a place, all together no more than `MAX_ARRIVING_BYTES`."""

    def __init__(self, most: int = MAX_ARRIVING_BYTES) -> None:
        self._free = most

    @asynccontextmanager
    async def arrived(self, receive: Receive) -> AsyncIterator[Receive]:
        """Wait for a whole body, then yield what replays it.

        Raises:
            TooManyArrive: there is no room for it.
            BodyTooLarge, BodyStalled: as `MeteredBody.receive` does.
        """
        kept = 0
        # A large one goes to a file without a name, of which a kill leaves nothing.
        with tempfile.SpooledTemporaryFile(IN_MEMORY_BYTES) as file:
            try:
                more = True
                while more:
                    message = await receive()
                    if message["type"] != "http.request":
                        yield _replaying([message])
                        return
                    block, more = message.get("body", b""), message.get("more_body", False)
                    if len(block) > self._free:
                        raise TooManyArrive
                    self._free -= len(block)
                    kept += len(block)
                    if kept > IN_MEMORY_BYTES:
                        await run_in_threadpool(file.write, block)
                    else:
                        file.write(block)
                file.seek(0)
                yield _replaying_file(file, kept, receive)
            finally:
                self._free += kept


def _replaying(messages: list[Message]) -> Receive:
    async def receive() -> Message:
        return messages[0]

    return receive


def _replaying_file(file: "tempfile.SpooledTemporaryFile[bytes]", size: int, then: Receive) -> Receive:
    left, ended = size, False

    async def receive() -> Message:
        nonlocal left, ended
        if ended:
            return await then()
        block = await run_in_threadpool(file.read, BLOCK) if size > IN_MEMORY_BYTES else file.read(size)
        left -= len(block)
        ended = left <= 0
        return {"type": "http.request", "body": block, "more_body": not ended}

    return receive
