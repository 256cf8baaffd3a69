"""A whole shop under kills, pauses, stalls, full disks and dropped connections while two people work in it, and what
must hold at the end.

`bench chaos MINUTES SEED` prints what was done and every violation.
"""

import os
import random
import signal
import subprocess
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path

import httpx

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
    NURSERY,
]
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


def _trouble(shop: Shop, chance: random.Random) -> str:
    """Do harm once; what was done."""
    kind = chance.choice(TROUBLES)
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
        while time.monotonic() < begun + 60 * minutes:
            time.sleep(chance.uniform(2, 8))
            done[_trouble(shop, chance)] += 1
            if early is None and time.monotonic() > begun + 60:
                early = _settled_megabytes(shop)
        late = _settled_megabytes(shop)
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
        if early is not None:
            yield Figure("memory of the whole shop", late, early, "MB", "first minute ", GROWTH * early)
