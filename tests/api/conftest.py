"""The API on a real database; devices are served by hand, other work by a worker of its own."""

import threading
from collections.abc import Callable, Iterator
from pathlib import Path

import httpx
import pytest
from fastapi.testclient import TestClient

from tests.core import drawings

DISC = drawings.png(drawings.coverage(drawings.disc(300))[0])
STAR = drawings.png(drawings.coverage(drawings.star(300, 120))[0], (150, 60, 40))
HERE = "http://127.0.0.1"
PATIENT = {"Prefer": "wait=60"}
"""Long work is waited for, as somebody at a prompt would."""


@pytest.fixture(scope="session")
def operating(shop: Path) -> Iterator[None]:
    """A worker that does operations, in a thread of this process."""
    import asyncio

    from perisect.queue.tasks import worker_app
    from perisect.store.queue_entry import WORK_QUEUES

    loop = asyncio.new_event_loop()

    async def work() -> None:
        app = worker_app()
        async with app.open_async():
            await app.run_worker_async(queues=list(WORK_QUEUES), concurrency=2, install_signal_handlers=False)

    def run() -> None:
        asyncio.set_event_loop(loop)
        try:
            loop.run_until_complete(task)
        except asyncio.CancelledError:
            pass

    task = loop.create_task(work())
    thread = threading.Thread(target=run)
    thread.start()
    yield
    loop.call_soon_threadsafe(task.cancel)
    thread.join(10)


@pytest.fixture(scope="session")
def api(shop: Path, operating: None) -> Iterator[httpx.Client]:
    from perisect.api.app import create_app

    app = create_app()
    with TestClient(app, base_url=HERE, raise_server_exceptions=False, headers=PATIENT) as client:
        yield client


@pytest.fixture(autouse=True)
def _nothing_learned(shop: Path) -> None:
    """What the shop learned of its machines in one test is no other test's business."""
    from sqlalchemy import text

    from perisect.store.database import transaction

    with transaction() as session:
        for table in ("print_scale", "setup_card", "head_check", "cut_book", "ladder_cut", "tone"):
            session.execute(text(f"DELETE FROM {table}"))


@pytest.fixture
def drop(api: httpx.Client) -> Callable[[bytes], httpx.Response]:
    return lambda data: api.post("/api/artwork", files={"file": ("art.png", data, "image/png")})


@pytest.fixture(scope="session")
def work(shop: Path) -> Callable[[], None]:
    """Do everything that waits for a device."""
    import asyncio

    from perisect.queue.tasks import worker_app
    from perisect.store.queue_entry import DEVICES

    async def serve() -> None:
        app = worker_app()
        async with app.open_async():
            while await app.job_manager.list_jobs_async(queue=DEVICES, status="todo"):
                await app.run_worker_async(
                    queues=[DEVICES], concurrency=8, wait=False, install_signal_handlers=False
                )
                await asyncio.sleep(0.05)

    return lambda: asyncio.run(serve())


@pytest.fixture
def job(api: httpx.Client, drop: Callable[[bytes], httpx.Response]) -> dict:
    """A job with a disc, two copies on A4."""
    made = api.post("/api/jobs", json={"title": "Test"}).json()
    design = {
        "id": "d1",
        "name": "Disc",
        "artwork": drop(DISC).json()["sha256"],
        "longest_mm": 40,
        "copies": 2,
    }
    recipe = {"designs": [design], "sheet": {"fill": False}}
    body = {"revision": made["revision"], "recipe": recipe, "label": "Add disc"}
    changed = api.put(f"/api/jobs/{made['id']}/recipe", json=body)
    assert changed.status_code == 200, changed.text
    return changed.json()
