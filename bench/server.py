"""The API on a throwaway database, as figures over HTTP need it."""

import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import httpx

from perisect.up.cluster import Cluster, free_port
from perisect.up.supervisor import wait_until_up


@dataclass(frozen=True)
class Server:
    """A running API: a client for it, its process, and how its database is reached."""

    client: httpx.Client
    process: int
    database: str


@contextmanager
def api(workers: int = 0) -> Iterator[Server]:
    """An API of its own, with so many workers, each kept to a core of its own so that one worker is one core's work;
    it is stopped and its folder removed at the end."""
    cores = sorted(os.sched_getaffinity(0))
    folder = Path(tempfile.mkdtemp(prefix="perisect-bench-"))
    folder.chmod(0o755)
    cluster = Cluster(folder)
    environment = {
        **os.environ,
        "PERISECT_DATABASE_URL": cluster.start(),
        "PERISECT_BLOBS": f"file://{folder}/blobs",
    }
    port = free_port()
    running: list[subprocess.Popen[bytes]] = []
    try:
        perisect = [sys.executable, "-m", "perisect.cli"]
        subprocess.run([*perisect, "migrate"], env=environment, check=True)
        for number in range(workers):
            core = str(cores[number % len(cores)])
            command = ["taskset", "-c", core, *perisect, "worker"]
            running.append(subprocess.Popen(command, env=environment))
        server = subprocess.Popen([*perisect, "api", "--port", str(port)], env=environment)
        running.append(server)
        wait_until_up(f"http://127.0.0.1:{port}")
        with httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=60) as client:
            yield Server(client, server.pid, environment["PERISECT_DATABASE_URL"])
    finally:
        for process in running:
            process.terminate()
        for process in running:
            process.wait()
        cluster.stop()
        shutil.rmtree((folder / "pg").resolve(), ignore_errors=True)
        shutil.rmtree(folder, ignore_errors=True)
