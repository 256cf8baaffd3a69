"""Work at an even pace for long: what the shop needs and how fast it answers, at the end beside the beginning.

`bench soak HOURS` are hours of the shop, whose machines run at 50 times their speed: twenty jobs in each.
"""

import random
import threading
import time
from collections.abc import Callable, Iterator

import httpx
import numpy as np

from bench.figure import Figure
from bench.whole_shop import Person, whole_shop

SPEED, JOBS_AN_HOUR = 50, 20
WARM = 8
"""Jobs after which the caches of every process are as full as they get."""
ASKED = 40
GROWTH = 1.1


def soak(hours: float = 2.0) -> Iterator[Figure]:
    """Memory and answers of the last jobs beside the first ones after the caches are warm."""
    jobs, pace_s = round(hours * JOBS_AN_HOUR), 3600 / SPEED / JOBS_AN_HOUR
    never, chance = threading.Event(), random.Random(5)
    taken: dict[str, list[float]] = {"list of jobs": [], "open a job": [], "a kept change": []}
    memory: list[float] = []
    with whole_shop() as shop, httpx.Client(base_url=shop.url, timeout=60) as client:
        person = Person(shop.url, 1)
        begun, late = time.monotonic(), 0
        for number in range(WARM + jobs):
            person.job(client, chance, never)
            job = max(person.steps)
            _ask(client, job, taken)
            memory.append(shop.megabytes())
            ahead = begun + (number + 1) * pace_s - time.monotonic()
            late += ahead < 0
            time.sleep(max(0.0, ahead))
    for surprise in person.surprises:
        print("surprise:", surprise, flush=True)
    print(f"{jobs} jobs, {late} later than their pace, answers {dict(person.answers)}", flush=True)
    part = max(4, jobs // 4)
    first, last = slice(WARM, WARM + part), slice(-part, None)
    early, end = float(np.median(memory[first])), float(np.median(memory[last]))
    yield Figure("memory of the whole shop at the end", end, early, "MB", "beginning    ", GROWTH * early)
    for name, each in taken.items():
        middles = np.array(each).reshape(WARM + jobs, -1)
        early, end = float(np.median(middles[first])), float(np.median(middles[last]))
        yield Figure(f"{name}, median, at the end", end, early, "s ", "beginning    ", GROWTH * early)


def _ask(client: httpx.Client, job: int, taken: dict[str, list[float]]) -> None:
    """How long answers take now that nothing else is under way."""
    path = f"/api/jobs/{job}"

    def change() -> None:
        now = client.get(path).json()
        now["recipe"]["designs"][0]["border_mm"] = 2.5 if now["recipe"]["designs"][0]["border_mm"] == 2 else 2
        body = {"revision": now["revision"], "recipe": now["recipe"], "label": "Border"}
        began = time.perf_counter()
        client.put(f"{path}/recipe", json=body).raise_for_status()
        taken["a kept change"].append(time.perf_counter() - began)

    def timed(name: str, ask: Callable[[], object]) -> None:
        began = time.perf_counter()
        ask()
        taken[name].append(time.perf_counter() - began)

    for _ in range(ASKED):
        timed("list of jobs", lambda: client.get("/api/jobs", params={"most": WARM}))
        timed("open a job", lambda: client.get(path))
    for _ in range(ASKED // 8):
        change()
