"""Wait for long work that was asked for, as long as the caller wants to (RFC 7240, `Prefer: wait=n`)."""

import asyncio
import re
from collections.abc import Callable
from contextvars import ContextVar
from typing import Annotated

from fastapi import Depends, Header
from fastapi.concurrency import run_in_threadpool

from perisect.api.hub import hub
from perisect.store import operations
from perisect.store.database import transaction
from perisect.store.models import Operation

leave_place: ContextVar[Callable[[], None]] = ContextVar("leave_place", default=lambda: None)
"""Gives the place of the request at hand to whoever waits for one: who only waits for a worker needs none."""

MOST_WAIT_S = 60.0
LOOK_S = 0.5
"""Whoever waits looks so often, should a change not be heard of."""


def _wait_s(prefer: Annotated[str, Header(max_length=100)] = "") -> float:
    found = re.search(r"\bwait=(\d{1,3})\b", prefer)
    return min(MOST_WAIT_S, float(found[1])) if found else 0.0


WaitS = Annotated[float, Depends(_wait_s)]
"""How long the caller wants to wait, s."""


def _read(operation_id: int) -> Operation | None:
    with transaction() as session:
        return session.get(Operation, operation_id)


async def ended(operation: Operation, wait_s: float) -> Operation:
    """The operation once it is over, or as it is when the time is up."""
    leave_place.get()()
    deadline = asyncio.get_running_loop().time() + wait_s
    with hub.ear() as ear:
        while operation.state not in operations.OVER:
            left = deadline - asyncio.get_running_loop().time()
            if left <= 0:
                break
            try:
                change = await asyncio.wait_for(ear.get(), min(left, LOOK_S))
                if change.what != "resync" and (change.what, change.id) != ("operation", operation.id):
                    continue
            except TimeoutError:
                pass
            found = await run_in_threadpool(_read, operation.id)
            operation = found if found is not None else operation
    return operation
