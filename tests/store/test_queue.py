"""Tasks of workers that died go back into the queue, whatever else waits there."""

import asyncio
from pathlib import Path

import sqlalchemy as sa

from perisect.core.job import JobRecipe
from perisect.queue.tasks import SWEEPS, give_stalled_on, worker_app
from perisect.store import jobs, operations
from perisect.store.database import transaction
from perisect.store.queue_entry import DEVICES, FIRST_WORK, WORK

TASK = """INSERT INTO procrastinate_jobs (queue_name, task_name, queueing_lock, status, args)
          VALUES (:queue, :task, :once, CAST(:status AS procrastinate_job_status), '{}') RETURNING id"""


def put(queue: str, task: str, status: str, once: str | None = None) -> int:
    with transaction() as session:
        row = {"queue": queue, "task": task, "status": status, "once": once}
        return int(session.scalar(sa.text(TASK), row) or 0)


def status_of(task: int) -> str:
    with transaction() as session:
        found = session.scalar(
            sa.text("SELECT status FROM procrastinate_jobs WHERE id = :task"), {"task": task}
        )
    return str(found)


async def swept() -> None:
    app = worker_app()
    async with app.open_async():
        await give_stalled_on(app)


def test_a_sweep_that_died_beside_one_that_waits_holds_up_no_other_task(shop: Path) -> None:
    with transaction() as session:
        # A worker of another test may have left one waiting.
        session.execute(sa.text("DELETE FROM procrastinate_jobs WHERE queueing_lock = 'sweep_queue'"))
    died = put(SWEEPS, "sweep_queue", "doing", "sweep_queue")
    waits = put(SWEEPS, "sweep_queue", "todo", "sweep_queue")
    cut = put(DEVICES, "no_task_of_ours", "doing")
    try:
        asyncio.run(swept())
        assert (status_of(waits), status_of(cut)) == ("todo", "todo")
        assert status_of(died) == "doing"  # it has its turn when none waits
        with transaction() as session:
            session.execute(sa.text("DELETE FROM procrastinate_jobs WHERE id = :task"), {"task": waits})
        asyncio.run(swept())
        assert status_of(died) == "todo"
    finally:
        with transaction() as session:
            gone = {"died": died, "waits": waits, "cut": cut}
            session.execute(sa.text("DELETE FROM procrastinate_jobs WHERE id IN (:died, :waits, :cut)"), gone)


def test_jobs_take_turns_though_one_asks_for_much(shop: Path) -> None:
    with transaction() as session:
        greedy, modest = (jobs.create(session, title, JobRecipe()).id for title in ("Greedy", "Modest"))
        # Nothing of this test is begun by a worker beside it: all of it is taken back.
        mine = [operations.ask(session, "nest", f"turn {n}", {}, greedy).id for n in range(6)]
        last = operations.ask(session, "nest", "turn of another", {}, modest).id
        queued = sa.text(
            "SELECT queue_name, (args->>'operation_id')::int FROM procrastinate_jobs "
            "WHERE status = 'todo' AND task_name = 'operate' AND (args->>'operation_id')::int = ANY(:these) "
            "ORDER BY priority DESC, id"
        )
        rows = [tuple(row) for row in session.execute(queued, {"these": [*mine, last]})]
        assert [operation for _, operation in rows] == [mine[0], last, *mine[1:]]
        # The first of each has places that nothing else takes.
        assert [queue for queue, _ in rows] == [FIRST_WORK, FIRST_WORK, *[WORK] * 5]
        session.rollback()
