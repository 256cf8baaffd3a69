"""A whole shop under kills and pauses while two people work in it, and what must hold at the end.

`bench chaos MINUTES SEED` prints what was done and every violation.
"""

import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

import httpx

from bench.art import picture
from bench.figure import Figure
from perisect.up.cluster import free_port
from perisect.up.supervisor import wait_until_up

OVER = ("printed", "failed", "cancelled", "done", "stopped")
QUIET_S = 120.0
"""How long what was begun may take to end once nothing is killed any more."""
SLIP_MM = 0.2


@contextmanager
def _shop() -> Iterator[tuple[str, int, Path]]:
    """The address, the supervisor's process and the folder of a whole shop with two workers."""
    folder = Path(tempfile.mkdtemp(prefix="perisect-chaos-"))
    folder.chmod(0o755)
    port = free_port()
    command = [
        sys.executable,
        "-m",
        "perisect.cli",
        "up",
        "--port",
        str(port),
        "--local",
        str(folder),
        "--no-demo",
    ]
    shop = subprocess.Popen([*command, "--workers", "2", "--time-factor", "50"], stdout=subprocess.DEVNULL)
    url = f"http://127.0.0.1:{port}"
    try:
        wait_until_up(url, seconds=60)
        yield url, shop.pid, folder
    finally:
        shop.send_signal(signal.SIGINT)
        try:
            shop.wait(40)
        except subprocess.TimeoutExpired:
            shop.kill()
        shutil.rmtree((folder / "pg").resolve(), ignore_errors=True)
        shutil.rmtree(folder, ignore_errors=True)


def _children(parent: int) -> dict[int, str]:
    """Processes of a parent with their command lines."""
    found = {}
    for each in Path("/proc").glob("[0-9]*"):
        try:
            if int((each / "stat").read_text().rsplit(")", 1)[1].split()[1]) == parent:
                found[int(each.name)] = (each / "cmdline").read_text().replace("\0", " ")
        except OSError:
            continue
    return found


@dataclass
class _Person:
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
                    self._job(client, chance, over)
                except (httpx.HTTPError, KeyError):
                    self.answers["lost"] += 1
                    time.sleep(0.3)

    def _ask(self, client: httpx.Client, method: str, path: str, **more: object) -> dict:
        answer = client.request(method, path, **more)  # type: ignore[arg-type]
        self.answers[str(answer.status_code)] += 1
        if answer.status_code >= 500 and answer.status_code != 503:
            self.surprises.append(f"{method} {path}: {answer.status_code} {answer.text[:200]}")
        if answer.status_code >= 400:
            time.sleep(0.2)
            raise KeyError(answer.status_code)
        found: dict = answer.json()
        return found

    def _job(self, client: httpx.Client, chance: random.Random, over: threading.Event) -> None:
        job = self._ask(client, "POST", "/api/jobs", json={"title": f"Of {self.seed}"})["id"]
        self.steps[job] = set()
        png = picture(240, 5 + chance.randrange(9), 0.03, noise=False)
        sent = {
            "params": {"batch": "b"},
            "files": {"file": ("art.png", png)},
            "headers": {"Prefer": "wait=20"},
        }
        self._ask(client, "POST", f"/api/jobs/{job}/pictures", **sent)
        for number in range(chance.randrange(2, 6)):
            now = self._ask(client, "GET", f"/api/jobs/{job}")
            if not now["recipe"]["designs"]:
                time.sleep(1)
                continue
            now["recipe"]["designs"][0] |= {"border_mm": 1 + 0.5 * number, "copies": 1 + chance.randrange(3)}
            now["recipe"]["sheet"] |= {"fill": False}
            label = f"Change {number} {chance.random():.6f}"
            body = {"revision": now["revision"], "recipe": now["recipe"], "label": label}
            before = now["step"]
            if self._ask(client, "PUT", f"/api/jobs/{job}/recipe", json=body)["step"] != before:
                self.steps[job].add(label)
        printed = self._ask(client, "POST", f"/api/jobs/{job}/prints", json={"sheet": 1})["id"]
        if self._until_over(client, f"/api/prints/{printed}", over) == "printed":
            run = self._ask(client, "POST", f"/api/prints/{printed}/cuts")["id"]
            self._until_over(client, f"/api/runs/{run}", over)

    def _until_over(self, client: httpx.Client, path: str, over: threading.Event) -> str:
        state = ""
        while state not in OVER and not over.is_set():
            time.sleep(0.3)
            try:
                state = self._ask(client, "GET", path)["state"]
            except (httpx.HTTPError, KeyError):
                self.answers["lost"] += 1
        return state


def _trouble(shop: int, folder: Path, chance: random.Random) -> str:
    """Kill or pause one process; what was done."""
    kind = chance.choice(["worker", "worker", "worker", "api", "stand-in", "postgres", "pause"])
    if kind == "postgres":
        pid = int((folder / "pg").resolve().joinpath("postmaster.pid").read_text().split()[0])
        os.kill(pid, signal.SIGKILL)
        return kind
    wanted = "worker" if kind == "pause" else kind
    those = [pid for pid, line in _children(shop).items() if f" {wanted}" in line]
    if not those:
        return "nothing"
    pid = chance.choice(sorted(those))
    if kind != "pause":
        os.kill(pid, signal.SIGKILL)
        return kind
    os.kill(pid, signal.SIGSTOP)
    time.sleep(chance.uniform(1, 9))
    os.kill(pid, signal.SIGCONT)
    return kind


def _violations(url: str, people: list[_Person]) -> list[str]:
    """What does not hold, a sentence each."""
    found = [surprise for person in people for surprise in person.surprises]
    with httpx.Client(base_url=url, timeout=30) as client:
        jobs = [(job, labels) for person in people for job, labels in person.steps.items()]
        end = time.monotonic() + QUIET_S
        stuck = [job for job, _ in jobs]
        while stuck and time.monotonic() < end:
            try:
                stuck = [job for job in stuck if _open(client.get(f"/api/jobs/{job}").json())]
            except (httpx.HTTPError, KeyError):
                time.sleep(1)
            time.sleep(0.5)
        found += [f"job {job} is stuck: {_open(client.get(f'/api/jobs/{job}').json())}" for job in stuck]
        for job, labels in jobs:
            kept = {step["label"] for step in client.get(f"/api/jobs/{job}/steps").json()}
            found += [f"job {job} lost the step {label}" for label in labels - kept]
            found += _ledger(client, job)
    return found


def _open(job: dict) -> list[str]:
    rows = [(f"print {each['id']}", each["state"]) for each in job["prints"]]
    rows += [(f"run {each['id']}", each["state"]) for each in job["runs"]]
    rows += [(f"operation {each['id']}", each["state"]) for each in job.get("operations", [])]
    return [f"{name} {state}" for name, state in rows if state not in OVER]


def _ledger(client: httpx.Client, job: int) -> list[str]:
    """What a job's prints and runs say that cannot be."""
    found, now = [], client.get(f"/api/jobs/{job}").json()
    done: Counter[int] = Counter()
    for run in now["runs"]:
        name = f"run {run['id']} of job {job}"
        if run["state"] == "done":
            done[run["print_id"]] += 1
            if run["lines_done"] != run["lines_total"]:
                found.append(f"{name} is done at line {run['lines_done']} of {run['lines_total']}")
            if (run["slip_largest_mm"] or 0) > SLIP_MM:
                found.append(f"{name} slipped {run['slip_largest_mm']} mm")
        elif not run["message"]:
            found.append(f"{name} is {run['state']} and does not say why")
    found += [f"print {each} of job {job} was cut {times} times" for each, times in done.items() if times > 1]
    for each in now["prints"]:
        there = client.get(f"/api/prints/{each['id']}/printed.png").status_code == 200
        if there != (each["state"] == "printed"):
            found.append(
                f"print {each['id']} is {each['state']}, its picture {'there' if there else 'missing'}"
            )
    return found


def chaos(minutes: float = 1.0, seed: int = 1) -> Iterator[Figure]:
    """Violations after so many minutes of trouble."""
    chance, over, done = random.Random(seed), threading.Event(), Counter[str]()
    with _shop() as (url, shop, folder):
        people = [_Person(url, seed * 10 + number) for number in range(2)]
        threads = [threading.Thread(target=person.work, args=(over,)) for person in people]
        for thread in threads:
            thread.start()
        end = time.monotonic() + 60 * minutes
        while time.monotonic() < end:
            time.sleep(chance.uniform(2, 8))
            done[_trouble(shop, folder, chance)] += 1
        time.sleep(10)
        over.set()
        for thread in threads:
            thread.join()
        found = _violations(url, people)
        for line in found:
            print("violation:", line, flush=True)
        print(
            "done:",
            dict(done),
            "answers:",
            dict(sum((p.answers for p in people), Counter[str]())),
            flush=True,
        )
        yield Figure(
            f"chaos, {minutes:g} min, seed {seed}",
            len(found),
            max(1, sum(map(len, (p.steps for p in people)))),
            "",
            "jobs         ",
            0.0,
        )
