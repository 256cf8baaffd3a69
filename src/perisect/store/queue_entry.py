"""Put a task in the queue in the same transaction as what it is about: either both are there or neither is."""

import json

from sqlalchemy import text
from sqlalchemy.orm import Session

_DEFER = text(
    "SELECT procrastinate_defer_jobs_v1(ARRAY[ROW("
    ":queue, :task, 0, :lock, NULL, CAST(:arguments AS jsonb), NULL::timestamptz"
    ")]::procrastinate_job_to_defer_v1[])"
)

DEVICES, WORK = "devices", "work"
"""Queues: what waits for a device, and what needs a processor."""


def enqueue(session: Session, queue: str, task: str, lock: str | None = None, **arguments: int) -> None:
    """Defer a task by its name.

    Args:
        lock: tasks of one lock are done one at a time, in the order they came.
    """
    values = {"queue": queue, "task": task, "lock": lock, "arguments": json.dumps(arguments)}
    session.execute(_DEFER, values)
