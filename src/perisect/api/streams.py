"""Answers that are made while they are sent."""

from collections.abc import AsyncIterator, Generator

import anyio
from fastapi.concurrency import iterate_in_threadpool, run_in_threadpool


async def closing(first: bytes, blocks: Generator[bytes, None, None]) -> AsyncIterator[bytes]:
    """Yield blocks from a thread, and close what makes them however the answer ends: what it holds is let go of."""
    try:
        yield first
        async for block in iterate_in_threadpool(blocks):
            yield block
    finally:
        with anyio.CancelScope(shield=True):
            await run_in_threadpool(blocks.close)
