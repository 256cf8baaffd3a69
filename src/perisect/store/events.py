"""What changed in the database, as it changes: PostgreSQL's NOTIFY, sent by triggers, heard by LISTEN."""

import asyncio
import json
from collections.abc import AsyncIterator
from dataclasses import dataclass

import psycopg

from perisect.store.settings import settings

CHANNEL = "perisect"
AGAIN_S = 0.5
QUIET_S = 20.0
"""A listener that hears nothing for so long asks whether its connection still lives."""


@dataclass(frozen=True)
class Change:
    """A row of a table that changed; `what` is the table, or `resync` when changes may have been missed."""

    what: str
    id: int = 0
    job: int | None = None


async def changes() -> AsyncIterator[Change]:
    """Changes without an end; the first one, and the first after every lost connection, is `resync`."""
    while True:
        try:
            connection = await psycopg.AsyncConnection.connect(
                settings().libpq_url, autocommit=True, connect_timeout=5
            )
            async with connection:
                await connection.execute(f"LISTEN {CHANNEL}")
                yield Change("resync")
                while True:
                    async for notice in connection.notifies(timeout=QUIET_S):
                        payload = json.loads(notice.payload)
                        yield Change(payload["what"], payload["id"], payload["job"])
                    await connection.execute("SELECT 1")
        except (psycopg.Error, OSError):
            await asyncio.sleep(AGAIN_S)
