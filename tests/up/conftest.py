"""Several processes of the application on one database, as on several machines."""

import os
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

import httpx

from perisect.up.cluster import free_port
from perisect.up.supervisor import wait_until_up

Doors = tuple[httpx.Client, ...]


@contextmanager
def processes(
    shop: Path, apis: int, workers: int, **environment: str
) -> Iterator[tuple[Doors, list[subprocess.Popen]]]:
    """A client for each API process, and the processes of the workers."""
    ports = [free_port() for _ in range(apis)]
    urls = [f"http://127.0.0.1:{port}" for port in ports]
    commands = [["worker"]] * workers + [["api", "--port", str(port)] for port in ports]
    with (shop / "several.log").open("a") as log, ExitStack() as stack:
        running = [
            subprocess.Popen(
                [sys.executable, "-m", "perisect.cli", *command],
                env=os.environ | environment,
                stdout=log,
                stderr=log,
            )
            for command in commands
        ]
        try:
            for url in urls:
                wait_until_up(url)
            clients = [stack.enter_context(httpx.Client(base_url=url, timeout=60)) for url in urls]
            yield tuple(clients), running[:workers]
        finally:
            for process in running:
                process.terminate()
            for process in running:
                process.wait(20)


def soon(true: Callable[[], object], seconds: float = 40) -> None:
    """Wait for something to come true."""
    end = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < end, "it did not come true"
        time.sleep(0.1)


def new_job(at: httpx.Client) -> int:
    return at.post("/api/jobs", json={"title": "Two of each"}).json()["id"]


def send(at: httpx.Client, job: int, name: str, data: bytes, batch: str, position: int = 0) -> httpx.Response:
    return at.post(
        f"/api/jobs/{job}/pictures",
        params={"batch": batch, "position": position},
        files={"file": (name, data, "image/png")},
    )
