"""Put a task in the queue in the same transaction as what it is about: either both are there or neither is."""

import json

from sqlalchemy import text
from sqlalchemy.orm import Session

_DEFER = text(
    "SELECT procrastinate_defer_jobs_v1(ARRAY[ROW("
    ":queue, :task, :priority, :lock, NULL, CAST(:arguments AS jsonb), NULL::timestamptz"
    ")]::procrastinate_job_to_defer_v1[])"
)

DEVICES, WORK, FIRST_WORK = "devices", "work", "first work"
"""Queues: what waits for a device, what needs a processor, and of that the first that a job asks for."""
WORK_QUEUES = (WORK, FIRST_WORK)


def enqueue(
    session: Session, queue: str, task: str, lock: str | None = None, priority: int = 0, **arguments: int
) -> None:
    """Defer a task by its name.

    Args:
        session: the transaction that it is deferred in.
        queue: one of the queues above.
        task: its name.
        lock: tasks of one lock are done one at a time, in the order they came.
        priority: tasks of a higher one come first.
        **arguments: what the task is called with.
    """
    values = {
        "queue": queue,
        "task": task,
        "lock": lock,
        "priority": priority,
        "arguments": json.dumps(arguments),
    }
    session.execute(_DEFER, values)
