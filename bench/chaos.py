"""A whole shop under kills, pauses, stalls, full disks and dropped connections while two people work in it, and what
must hold at the end.

`bench chaos MINUTES SEED` prints what was done and every violation.
"""

import os
import random
import signal
import socket
import subprocess
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path

import httpx

from bench.art import picture
from bench.figure import Figure
from bench.whole_shop import OVER, Person, Shop, whole_shop

QUIET_S = 120.0
"""How long what was begun may take to end once nothing is killed any more."""
SLIP_MM = 0.2
GROWTH = 1.25
"""How much more memory the shop may use at the end than after its first minute, and it is no leak."""
NURSERY = "-c from multiprocessing.forkserver"
"""The process that all others are forked from."""
TROUBLES = [
    "worker",
    "worker",
    "worker",
    "api",
    "stand-in",
    "postgres",
    "pause",
    "stall",
    "drop",
    "full",
    "half-sent",
    "slow readers",
    "drip",
    NURSERY,
    NURSERY,
]
STARTS = ("worker", "api", "stand-in", "postgres", "stall", "pause", "drop", NURSERY)
"""Troubles after which processes are started, or stand still, for a while: health is not held to its time then."""
HEALTH_S = 2.0
SETTLES_S = 12.0
ROOM = "3g"


def _own_disk(folder: Path) -> Callable[[], None]:
    """A small file system for the pictures, which can be filled; nothing where that is not allowed."""
    blobs = folder / "blobs"
    blobs.mkdir()
    mount = ["mount", "-t", "tmpfs", "-o", f"size={ROOM}", "tmpfs", str(blobs)]
    if subprocess.run(mount, capture_output=True, check=False).returncode != 0:
        return lambda: None

    def undo() -> None:
        subprocess.run(["umount", "-l", str(blobs)], check=True)

    return undo


def _fill(folder: Path, seconds: float) -> str:
    """No room is left on the disk for a while."""
    blobs = folder / "blobs"
    if not blobs.is_mount():
        return "nothing"
    room = os.statvfs(blobs)
    used = (room.f_blocks - room.f_bfree) * room.f_frsize + room.f_frsize
    resize = ["mount", "-o"]
    subprocess.run([*resize, f"remount,size={used}", str(blobs)], check=True, capture_output=True)
    time.sleep(seconds)
    subprocess.run([*resize, f"remount,size={ROOM}", str(blobs)], check=True, capture_output=True)
    return "full"


def _pause(pids: list[int], seconds: float) -> None:
    for number in (signal.SIGSTOP, signal.SIGCONT):
        for pid in pids:
            try:
                os.kill(pid, number)
            except ProcessLookupError:
                continue
        if number == signal.SIGSTOP:
            time.sleep(seconds)


def _trouble(shop: Shop, kind: str, chance: random.Random) -> str:
    """Do harm once; what was done."""
    try:
        if kind == "postgres":
            os.kill(shop.database(), signal.SIGKILL)
            return kind
        if kind == "stall":  # As a disk does that is slow: nothing of the database moves.
            _pause([shop.database(), *shop.database_children()], chance.uniform(0.5, 4))
            return kind
        if kind == "drop":
            for pid, line in shop.database_children().items():
                if "127.0.0.1(" in line:
                    os.kill(pid, signal.SIGTERM)
            return kind
    except (OSError, ValueError, IndexError):
        return "nothing"
    if kind == "full":
        return _fill(shop.folder, chance.uniform(1, 6))
    if kind in ("half-sent", "slow readers"):
        return _strangers(shop, kind, chance)
    if kind == "drip":
        return _drip(shop)
    wanted = "worker" if kind == "pause" else kind
    those = [pid for pid, line in shop.children().items() if f" {wanted}" in line]
    if not those:
        return "nothing"
    pid = chance.choice(sorted(those))
    if kind == "pause":
        _pause([pid], chance.uniform(1, 9))
    else:
        os.kill(pid, signal.SIGKILL)
    return kind


def _strangers(shop: Shop, kind: str, chance: random.Random) -> str:
    """Thirty callers who do not end what they say, or do not read what they are told."""
    host, port = shop.url.removeprefix("http://").split(":")
    half = f"PUT /api/jobs/101/recipe HTTP/1.1\r\nHost: {host}:{port}\r\nContent-Length: 999\r\n\r\n{{"
    whole = f"GET /api/openapi.json HTTP/1.1\r\nHost: {host}:{port}\r\n\r\n" * 20
    peers = []
    for _ in range(30):
        with suppress(OSError):
            peers.append(socket.create_connection((host, int(port)), timeout=5))
            peers[-1].sendall((half if kind == "half-sent" else whole).encode())
    time.sleep(chance.uniform(2, 8))
    for peer in peers:
        peer.close()
    return kind


def _drip(shop: Shop) -> str:
    """A printer that drips a byte a second has a sheet, which a person gives up."""
    with (
        socket.create_server(("127.0.0.1", 0)) as server,
        httpx.Client(base_url=shop.url, timeout=30) as client,
    ):
        over = threading.Event()

        def serve() -> None:
            with suppress(OSError):
                peer, _ = server.accept()
                while not over.wait(1):
                    peer.sendall(b"\0")

        threading.Thread(target=serve, daemon=True).start()
        try:
            there = client.get("/api/shop").json()["printers"]
            roll = next(each for each in there if each["id"] == "roll-printer")
            dripping = {**roll, "address": f"wire://127.0.0.1:{server.getsockname()[1]}"}
            client.put("/api/shop/printer", json=dripping).raise_for_status()
            job = client.post("/api/jobs", json={"title": "Drip"}).json()
            png = picture(120, 5, 0.03, noise=False)
            sent = {"params": {"batch": "b"}, "files": {"file": png}, "headers": {"Prefer": "wait=20"}}
            client.post(f"/api/jobs/{job['id']}/pictures", **sent).raise_for_status()  # type: ignore[arg-type]
            now = client.get(f"/api/jobs/{job['id']}").json()
            body = {"revision": now["revision"], "printer": "roll-printer", "take_numbers": False}
            client.post(f"/api/jobs/{job['id']}/equipment", json=body).raise_for_status()
            sheet = client.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1}).raise_for_status().json()
            time.sleep(3)
            given_up = client.post(f"/api/prints/{sheet['id']}/give-up")
            return "drip" if given_up.status_code == 200 else "drip, not begun"
        except (httpx.HTTPError, KeyError, StopIteration):
            return "drip, not begun"
        finally:
            over.set()


class Health:
    """Asks again and again whether the shop is well, and remembers the slowest answer while nothing is started."""

    def __init__(self, url: str) -> None:
        self._url, self._excused, self.slowest, self.asked = url, time.monotonic() + SETTLES_S, 0.0, 0
        self.last, self.since = "the start", time.monotonic()
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._ask, daemon=True)
        self._thread.start()

    def excuse(self, seconds: float = SETTLES_S) -> None:
        """Hold no answer to its time for so long."""
        self._excused = max(self._excused, time.monotonic() + seconds)

    def until_settled(self) -> None:
        """Hold answers to their time again once what was just started has had its time."""
        self._excused = time.monotonic() + SETTLES_S

    def stop(self) -> None:
        """Ask no more."""
        self._over.set()
        self._thread.join()

    def _ask(self) -> None:
        with httpx.Client(base_url=self._url, timeout=60) as client:
            while not self._over.wait(0.3):
                began = time.monotonic()
                try:
                    client.get("/api/health")
                except httpx.HTTPError:
                    self.excuse()
                    continue
                taken = time.monotonic() - began
                if time.monotonic() > self._excused and began > self._excused:
                    self.asked += 1
                    self.slowest = max(self.slowest, taken)
                    if taken > HEALTH_S / 2:
                        load = os.getloadavg()[0]
                        print(
                            f"health took {taken:.2f} s, {began - self.since:.1f} s after {self.last}, load {load:.1f}",
                            flush=True,
                        )


def _violations(url: str, people: list[Person]) -> list[str]:
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


def _settled_megabytes(shop: Shop) -> float:
    """Memory of a shop whose processes are all there."""
    time.sleep(10)
    return shop.megabytes()


def chaos(minutes: float = 1.0, seed: float = 1) -> Iterator[Figure]:
    """Violations after so many minutes of trouble, and memory."""
    chance, over, done = random.Random(int(seed)), threading.Event(), Counter[str]()
    with whole_shop(_own_disk) as shop:
        people = [Person(shop.url, int(seed) * 10 + number) for number in range(2)]
        threads = [threading.Thread(target=person.work, args=(over,)) for person in people]
        for thread in threads:
            thread.start()
        begun, early = time.monotonic(), None
        health = Health(shop.url)
        while time.monotonic() < begun + 60 * minutes:
            time.sleep(chance.uniform(2, 8))
            # What is to be done is chosen first: an answer that is under way when it happens is not held to its time.
            kind = chance.choice(TROUBLES)
            if kind in STARTS:
                health.excuse(60)
            health.last, health.since = kind, time.monotonic()
            done[_trouble(shop, kind, chance)] += 1
            if kind in STARTS:
                health.until_settled()
            if early is None and time.monotonic() > begun + 60:
                early = _settled_megabytes(shop)
        late = _settled_megabytes(shop)
        health.stop()
        over.set()
        for thread in threads:
            thread.join()
        found = _violations(shop.url, people)
        for line in found:
            print("violation:", line, flush=True)
        answers = dict(sum((person.answers for person in people), Counter[str]()))
        print("done:", dict(done), "answers:", answers, flush=True)
        jobs = sum(len(person.steps) for person in people)
        yield Figure(
            f"chaos, {minutes:g} min, seed {seed:g}", len(found), max(1, jobs), "  ", "jobs         ", 0
        )
        print(f"health asked {health.asked} times while nothing was started", flush=True)
        yield Figure("slowest answer of health", health.slowest, HEALTH_S, "s ", "may take     ", HEALTH_S)
        if early is not None:
            yield Figure("memory of the whole shop", late, early, "MB", "first minute ", GROWTH * early)
