"""The API on a real database, with a worker that is run by hand."""

from collections.abc import Callable, Iterator
from pathlib import Path

import httpx
import pytest
from fastapi.testclient import TestClient

from tests.core import drawings

DISC = drawings.png(drawings.coverage(drawings.disc(300))[0])
STAR = drawings.png(drawings.coverage(drawings.star(300, 120))[0], (150, 60, 40))


@pytest.fixture(scope="session")
def api(shop: Path) -> Iterator[httpx.Client]:
    from perisect.api.app import create_app

    with TestClient(create_app(), raise_server_exceptions=False) as client:
        yield client


@pytest.fixture
def drop(api: httpx.Client) -> Callable[[bytes], httpx.Response]:
    return lambda data: api.post("/api/artwork", files={"file": ("art.png", data, "image/png")})


@pytest.fixture(scope="session")
def work(shop: Path) -> Callable[[], None]:
    """Do everything that is in the queue."""
    from perisect.tasks.queue import worker_app

    def do() -> None:
        worker_app().run_worker(queues=["shop"], wait=False, install_signal_handlers=False)

    return do


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
