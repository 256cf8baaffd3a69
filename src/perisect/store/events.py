"""What changed in the database, as it changes: PostgreSQL's NOTIFY, sent by triggers, heard by LISTEN."""

import asyncio
import json
from collections.abc import AsyncIterator
from dataclasses import dataclass

import psycopg
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from perisect.store.settings import settings

CHANNEL = "perisect"
AGAIN_S = 0.5
QUIET_S = 20.0
"""A listener that hears nothing for so long asks whether its connection still lives."""


SIGN_INS = "sign_in"
"""The table whose rows are nobody's to be told; that some have gone is."""


def notify(session: Session, what: str) -> None:
    """Tell all who listen that rows of a table changed, once this transaction is committed."""
    payload = json.dumps({"what": what, "id": 0, "job": None})
    session.execute(select(func.pg_notify(CHANNEL, payload)))


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
