"""The queue: Procrastinate on the database that everything else is in."""

from functools import lru_cache

import procrastinate

from perisect.store.settings import settings
from perisect.tasks import shop

QUEUE = "shop"


def _app(connector: procrastinate.BaseConnector) -> procrastinate.App:
    app = procrastinate.App(connector=connector)

    @app.task(name="print_sheet", queue=QUEUE)
    def print_sheet(print_id: int) -> None:
        shop.do_print(print_id)

    @app.task(name="cut_sheet", queue=QUEUE)
    def cut_sheet(run_id: int) -> None:
        shop.do_cut(run_id)

    return app


def worker_app() -> procrastinate.App:
    """The queue as a worker uses it: to take work out."""
    return _app(procrastinate.PsycopgConnector(conninfo=settings().libpq_url))


@lru_cache
def defer_app() -> procrastinate.App:
    """The queue as the API uses it: to put work in."""
    app = _app(procrastinate.SyncPsycopgConnector(conninfo=settings().libpq_url, min_size=1, max_size=4))
    app.open()
    return app


def defer(name: str, **arguments: int) -> None:
    """Put a task in the queue by its name."""
    defer_app().configure_task(name, queue=QUEUE).defer(**arguments)


def run_worker() -> None:
    """Work until stopped."""
    worker_app().run_worker(queues=[QUEUE], concurrency=2, install_signal_handlers=True)
