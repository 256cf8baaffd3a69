"""The tasks, each a call of a service."""

from contextlib import suppress

import procrastinate
from procrastinate import RetryStrategy
from procrastinate.exceptions import UniqueViolation

from perisect.services import cutting, head_check, ladders, operations, printing, sweeps, vernier
from perisect.services.device_task import TryLater
from perisect.store.queue_entry import DEVICES, WORK
from perisect.store.settings import settings

SWEEPS = "sweeps"
AGAIN = RetryStrategy(max_attempts=1000, wait=1, retry_exceptions=[TryLater])
"""A device that is taken, or a database that was away, is tried again after a second."""


def queue_app(connector: procrastinate.BaseConnector) -> procrastinate.App:
    """The application of the queue on a connection to it."""
    app = procrastinate.App(connector=connector)

    @app.task(name="print_sheet", queue=DEVICES, retry=AGAIN)
    def print_sheet(print_id: int) -> None:
        printing.do_print(print_id)

    @app.task(name="print_pattern", queue=DEVICES, retry=AGAIN)
    def print_pattern(check_id: int) -> None:
        head_check.do_pattern(check_id)

    @app.task(name="print_vernier", queue=DEVICES, retry=AGAIN)
    def print_vernier(page_id: int) -> None:
        vernier.do_print(page_id)

    @app.task(name="cut_vernier", queue=DEVICES, retry=AGAIN)
    def cut_vernier(page_id: int) -> None:
        vernier.do_cut(page_id)

    @app.task(name="cut_sheet", queue=DEVICES, retry=AGAIN)
    def cut_sheet(run_id: int) -> None:
        cutting.do_cut(run_id)

    @app.task(name="cut_ladder", queue=DEVICES, retry=AGAIN)
    def cut_ladder(ladder_id: int) -> None:
        ladders.do_ladder(ladder_id)

    @app.task(name="operate", queue=WORK, retry=AGAIN)
    def operate(operation_id: int) -> None:
        operations.perform(operation_id)

    @app.periodic(cron="* * * * * */3")
    @app.task(name="sweep_quiet", queue=SWEEPS, queueing_lock="sweep_quiet", pass_context=False)
    def sweep_quiet(timestamp: int) -> None:
        sweeps.sweep_quiet()

    @app.periodic(cron="* * * * * */3")
    @app.task(name="sweep_queue", queue=SWEEPS, queueing_lock="sweep_queue", pass_context=True)
    async def sweep_queue(context: procrastinate.JobContext, timestamp: int) -> None:
        await give_stalled_on(context.app)

    @app.periodic(cron="*/10 * * * *")
    @app.task(name="sweep_left_overs", queue=SWEEPS, queueing_lock="sweep_left_overs")
    def sweep_left_overs(timestamp: int) -> None:
        sweeps.sweep_left_overs()

    return app


STALLED_S = 4.0


async def give_stalled_on(app: procrastinate.App) -> None:
    """Tasks of workers that died go back into the queue.

    What a task is about says whether there is still something to do: a print or a run that was begun is not begun
    again, for whether the sheet came out nobody knows.
    """
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_S):
        # Beside a sweep that died another one of its kind may wait already, and two may not.
        with suppress(UniqueViolation):
            await app.job_manager.retry_job(job)
    await app.job_manager.delete_old_jobs(
        nb_hours=2, include_failed=True, include_cancelled=True, include_aborted=True
    )


def worker_app() -> procrastinate.App:
    """The queue as a worker uses it: to take work out."""
    return queue_app(procrastinate.PsycopgConnector(conninfo=settings().libpq_url))
