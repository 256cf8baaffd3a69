"""The queue: Procrastinate on the database that everything else is in."""

from functools import lru_cache

import procrastinate

from perisect.store.settings import settings

tasks = procrastinate.Blueprint()


@tasks.task(name="print_sheet", queue="shop")
def print_sheet(print_id: int) -> None:
    """Print one sheet."""
    from perisect.tasks.shop import do_print

    do_print(print_id)


@tasks.task(name="cut_sheet", queue="shop")
def cut_sheet(run_id: int) -> None:
    """Cut one printed sheet."""
    from perisect.tasks.shop import do_cut

    do_cut(run_id)


@lru_cache
def defer_app() -> procrastinate.App:
    """The queue as the API uses it: to put work in."""
    app = procrastinate.App(
        connector=procrastinate.SyncPsycopgConnector(conninfo=settings().libpq_url, min_size=1, max_size=4)
    )
    app.add_tasks_from(tasks, namespace="perisect")
    app.open()
    return app


def worker_app() -> procrastinate.App:
    """The queue as a worker uses it: to take work out."""
    app = procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=settings().libpq_url))
    app.add_tasks_from(tasks, namespace="perisect")
    return app


def defer(name: str, **arguments: int) -> None:
    """Put a task in the queue by its name."""
    defer_app().configure_task(f"perisect:{name}", queue="shop").defer(**arguments)


def run_worker() -> None:
    """Work until stopped."""
    worker_app().run_worker(queues=["shop"], concurrency=2, install_signal_handlers=True)
