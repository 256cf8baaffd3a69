"""A whole shop as `bin/start` runs it, and people who make stickers in it."""

import random
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

import httpx

from bench.art import picture
from bench.processes import commands, megabytes, pids_under
from perisect.up.cluster import free_port
from perisect.up.supervisor import wait_until_up

OVER = ("printed", "failed", "unknown", "cancelled", "done", "stopped")


@dataclass(frozen=True)
class Shop:
    """Its address, the supervisor's process and its folder."""

    url: str
    process: int
    folder: Path

    def children(self) -> dict[int, str]:
        """The supervisor's processes with their command lines, and the one that they are forked from."""
        below = pids_under(self.process, deep=False)
        return commands([*below, *(pid for each in below for pid in pids_under(each, deep=False))])

    def database(self) -> int:
        """The process of its database server."""
        return int((self.folder / "pg").resolve().joinpath("postmaster.pid").read_text().split()[0])

    def database_children(self) -> dict[int, str]:
        """The processes of the database server with what they say they do."""
        return commands(pids_under(self.database(), deep=False))

    def megabytes(self, of: str = "") -> float:
        """Memory of its processes, and all below them, whose command holds `of`; shared pages in their shares."""
        roots = [pid for pid, line in self.children().items() if of in line]
        return sum(
            megabytes(each, "Pss") for each in {*roots, *(pid for root in roots for pid in pids_under(root))}
        )


@contextmanager
def whole_shop(prepare: Callable[[Path], Callable[[], None]] | None = None) -> Iterator[Shop]:
    """A whole shop without the demo: two workers, machines at 50 times their speed.

    Args:
        prepare: what is done to the folder before; returns what undoes it.
    """
    folder = Path(tempfile.mkdtemp(prefix="perisect-shop-"))
    folder.chmod(0o755)
    undo = prepare(folder) if prepare else None
    port = free_port()
    perisect = [sys.executable, "-m", "perisect.cli", "up", "--port", str(port), "--local", str(folder)]
    options = ["--no-demo", "--workers", "2", "--time-factor", "50"]
    running = subprocess.Popen([*perisect, *options], stdout=subprocess.DEVNULL)
    url = f"http://127.0.0.1:{port}"
    try:
        wait_until_up(url)
        yield Shop(url, running.pid, folder)
    finally:
        running.send_signal(signal.SIGINT)
        try:
            running.wait(40)
        except subprocess.TimeoutExpired:
            running.kill()
        if undo:
            undo()
        shutil.rmtree((folder / "pg").resolve(), ignore_errors=True)
        shutil.rmtree(folder, ignore_errors=True)


@dataclass
class Person:
    """Somebody who makes stickers and remembers what was promised."""

    url: str
    seed: int
    steps: dict[int, set[str]] = field(default_factory=dict)
    answers: Counter[str] = field(default_factory=Counter)
    surprises: list[str] = field(default_factory=list)

    def work(self, over: threading.Event) -> None:
        """Job after job, until it is over."""
        chance = random.Random(self.seed)
        with httpx.Client(base_url=self.url, timeout=30) as client:
            while not over.is_set():
                try:
                    self.job(client, chance, over)
                except (httpx.HTTPError, KeyError):
                    self.answers["lost"] += 1
                    time.sleep(0.3)

    def ask(self, client: httpx.Client, method: str, path: str, **more: object) -> dict:
        """The answer; what must never be answered is remembered.

        Raises:
            KeyError: it is no answer.
        """
        answer = client.request(method, path, **more)  # type: ignore[arg-type]
        self.answers[str(answer.status_code)] += 1
        # Nothing is ever removed here; only a picture that is not read yet leaves a job without its sheet.
        lost = answer.status_code == 404 and not path.endswith("/prints")
        if lost or (answer.status_code >= 500 and answer.status_code not in (503, 507)):
            self.surprises.append(f"{method} {path}: {answer.status_code} {answer.text[:200]}")
        if answer.status_code >= 400:
            time.sleep(0.2)
            raise KeyError(answer.status_code)
        found: dict = answer.json()
        return found

    def job(self, client: httpx.Client, chance: random.Random, over: threading.Event) -> None:
        """A picture, some changes, a print and a cut."""
        job = self.ask(client, "POST", "/api/jobs", json={"title": f"Of {self.seed}"})["id"]
        self.steps[job] = set()
        png = picture(240, 5 + chance.randrange(9), 0.03, noise=False)
        sent = {
            "params": {"batch": "b"},
            "files": {"file": ("art.png", png)},
            "headers": {"Prefer": "wait=20"},
        }
        self.ask(client, "POST", f"/api/jobs/{job}/pictures", **sent)
        for number in range(chance.randrange(2, 6)):
            now = self.ask(client, "GET", f"/api/jobs/{job}")
            if not now["recipe"]["designs"]:
                time.sleep(1)
                continue
            now["recipe"]["designs"][0] |= {"border_mm": 1 + 0.5 * number, "copies": 1 + chance.randrange(3)}
            now["recipe"]["sheet"] |= {"fill": False}
            label = f"Change {number} {chance.random():.6f}"
            body = {"revision": now["revision"], "recipe": now["recipe"], "label": label}
            before = now["step"]
            if self.ask(client, "PUT", f"/api/jobs/{job}/recipe", json=body)["step"] != before:
                self.steps[job].add(label)
        printed = self.ask(client, "POST", f"/api/jobs/{job}/prints", json={"sheet": 1})["id"]
        if self._until_over(client, f"/api/prints/{printed}", over) == "printed":
            run = self.ask(client, "POST", f"/api/prints/{printed}/cuts")["id"]
            self._until_over(client, f"/api/runs/{run}", over)

    def _until_over(self, client: httpx.Client, path: str, over: threading.Event) -> str:
        state = ""
        while state not in OVER and not over.is_set():
            time.sleep(0.3)
            try:
                state = self.ask(client, "GET", path)["state"]
            except (httpx.HTTPError, KeyError):
                self.answers["lost"] += 1
        return state
