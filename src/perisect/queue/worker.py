"""A worker: takes work out of the queue until it is stopped."""

import asyncio
import os
import signal

import structlog

from perisect.queue.tasks import STALLED_S, SWEEPS, worker_app
from perisect.store.queue_entry import DEVICES, FIRST_WORK, WORK_QUEUES

log = structlog.get_logger()

DEVICES_AT_ONCE = 12
"""Prints and cuts wait for their devices, not for a processor."""
AGAIN_S = 1.0
BEAT_S = 1.0


def run_worker(wait: bool = True) -> None:
    """Work until stopped; without `wait` until the queue is empty.

    Sweeps, devices and computation are served side by side, so that none of them waits for another.
    """
    asyncio.run(_work(wait))


async def _work(wait: bool) -> None:
    stopping = asyncio.Event()
    if wait:
        for number in (signal.SIGINT, signal.SIGTERM):
            asyncio.get_running_loop().add_signal_handler(number, stopping.set)
    while not stopping.is_set():
        try:
            await _serve(wait, stopping)
        except Exception as error:
            if not wait:
                raise
            log.warning("worker begins again", reason=type(error).__name__)
            await asyncio.sleep(AGAIN_S)
        if not wait:
            return


async def _serve(wait: bool, stopping: asyncio.Event) -> None:
    app = worker_app()
    computing = max(1, len(os.sched_getaffinity(0)))
    places: dict[tuple[str, ...], int] = {(DEVICES,): DEVICES_AT_ONCE, WORK_QUEUES: computing}
    if wait:
        # What a job asks for first has a place that no job's further work takes.
        places |= {(FIRST_WORK,): 1, (SWEEPS,): 1}
    async with app.open_async():
        workers = [
            asyncio.ensure_future(
                app.run_worker_async(
                    queues=list(queues),
                    name=f"{' and '.join(queues)} {os.getpid()}",
                    concurrency=count,
                    wait=wait,
                    install_signal_handlers=False,
                    update_heartbeat_interval=BEAT_S,
                    stalled_worker_timeout=STALLED_S,
                    fetch_job_polling_interval=2.0,
                    shutdown_graceful_timeout=6.0,
                )
            )
            for queues, count in places.items()
        ]
        stop = asyncio.ensure_future(stopping.wait())
        try:
            if not wait:
                await asyncio.gather(*workers)
                return
            done, _ = await asyncio.wait([*workers, stop], return_when=asyncio.FIRST_COMPLETED)
            for each in done - {stop}:
                each.result()
        finally:
            stop.cancel()
            for each in workers:
                each.cancel()
            await asyncio.gather(*workers, return_exceptions=True)
