"""The shop as a whole: long lists, large jobs, crowds, and more workers than one."""

import io
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor

import httpx
import numpy as np
import psycopg
from PIL import Image

from bench.art import picture
from bench.figure import Figure, seconds
from bench.server import api

JOBS = 5000
DESIGNS, COPIES = 60, 2000
CROWD = 200
READINGS = 24
NESTS, NEST_S = 8, 3


def jobs_list_of_five_thousand() -> Iterator[Figure]:
    """The first page of the list of jobs, against a row read by its key."""
    with api() as server, httpx.Client(base_url=server.client.base_url, timeout=60) as client:
        first = client.post("/api/jobs", json={"title": "Luggage tags"}).json()["id"]
        with psycopg.connect(server.database) as database:
            skip = ("id", "created_at", "updated_at")
            names = [
                column.name
                for column in database.execute("select * from job limit 0").description or ()
                if column.name not in skip
            ]
            listed = ", ".join(names)
            database.execute(
                f"insert into job ({listed}) select {listed} from job, generate_series(2, {JOBS}) where id = {first}"
            )
            database.execute(
                "insert into step (job_id, number, label, recipe, aside) select job.id, step.number, step.label, "
                f"step.recipe, false from job, step where step.job_id = {first} and job.id <> {first}"
            )
            database.commit()
            base = seconds(lambda: database.execute("select * from job where id = 7").fetchone())
        listed_jobs = client.get("/api/jobs").json()
        assert len(listed_jobs) > 50, listed_jobs
        ours = seconds(lambda: client.get("/api/jobs"), 15)
        yield Figure(f"first page of {JOBS} jobs", ours, base, "s", "a row by key ", 0.06)
        found = seconds(lambda: client.get("/api/jobs", params={"named": "luggage tags"}), 15)
        yield Figure(f"search of {JOBS} jobs", found, base, "s", "a row by key ", 0.1)
        due = seconds(lambda: client.get("/api/jobs", params={"sort": "due", "stage": "empty"}), 15)
        yield Figure(f"those at a station of {JOBS}, by day", due, base, "s", "a row by key ", 0.1)


def _sixty(client: httpx.Client, copies: int) -> dict:
    """A recipe of sixty designs, each of its own picture."""
    designs = []
    for number in range(DESIGNS):
        png = picture(300, 5 + number % 12, 0.02 + 0.0005 * number, noise=False)
        sha256 = client.post("/api/artwork", files={"file": png}).raise_for_status().json()["sha256"]
        designs.append(
            {
                "id": f"d{number}",
                "name": f"Art {number}",
                "artwork": sha256,
                "longest_mm": 30,
                "peel_mm": 2,
                "copies": copies,
            }
        )
    return {"designs": designs, "sheet": {"fill": False}}


def job_of_sixty_designs() -> Iterator[Figure]:
    """Opening a job of sixty designs, a change kept in it, its print file; the largest legal one is answered or
    refused while others read."""
    with api() as server:
        client = server.client
        job = client.post("/api/jobs", json={"title": "Sixty"}).json()
        recipe = _sixty(client, 2)

        def keep(label: str) -> float:
            nonlocal job
            body = {"revision": job["revision"], "recipe": recipe, "label": label}
            began = time.perf_counter()
            job = client.put(f"/api/jobs/{job['id']}/recipe", json=body).raise_for_status().json()
            return time.perf_counter() - began

        keep("Sixty pictures")
        path = f"/api/jobs/{job['id']}"
        base = seconds(lambda: client.get("/api/jobs"))
        yield Figure(
            "opening a job of 60 designs", seconds(lambda: client.get(path)), base, "s", "the list     ", 0.3
        )
        kept = []
        for number in range(9):
            recipe["designs"][number]["border_mm"] = 2.5
            kept.append(keep(f"Border {number}"))
        yield Figure("a change kept in a job of 60", float(np.median(kept)), base, "s", "the list     ", 0.5)
        print_file = f"{path}/sheets/1/print.pdf"
        client.get(print_file).raise_for_status()
        yield Figure(
            "print file after plan, again",
            seconds(lambda: client.get(print_file), 5),
            base,
            "s",
            "the list     ",
        )
        yield from _largest(client, recipe, base)


def _largest(client: httpx.Client, recipe: dict, base: float) -> Iterator[Figure]:
    recipe["designs"] = [design | {"copies": COPIES} for design in recipe["designs"]]
    over, slowest = threading.Event(), 0.0

    def read() -> None:
        nonlocal slowest
        with httpx.Client(base_url=client.base_url, timeout=60) as other:
            while not over.is_set():
                began = time.perf_counter()
                other.get("/api/jobs")
                slowest = max(slowest, time.perf_counter() - began)
                time.sleep(0.02)

    reader = threading.Thread(target=read)
    reader.start()
    began = time.perf_counter()
    status = client.post("/api/sheets", json=recipe).status_code
    ours = time.perf_counter() - began
    over.set()
    reader.join()
    yield Figure(f"60 designs x 2000 (status {status})", ours, base, "s", "the list     ", 20.0)
    yield Figure("  slowest list of jobs meanwhile", slowest, base, "s", "the list     ", 0.2)


def crowd_of_uploads() -> Iterator[Figure]:
    """Two hundred small uploads at once, and how long the list of jobs takes meanwhile."""
    with api() as server, ThreadPoolExecutor(CROWD) as crowd:
        client = server.client
        base = seconds(lambda: client.get("/api/jobs"))

        def send(number: int) -> int:
            held = io.BytesIO()
            Image.new("RGBA", (40 + number, 60), (90, number, 40, 255)).save(held, "PNG")
            with httpx.Client(base_url=client.base_url, timeout=120) as page:
                return page.post("/api/artwork", files={"file": held.getvalue()}).status_code

        sent = [crowd.submit(send, number) for number in range(CROWD)]
        taken = []
        while not all(each.done() for each in sent):
            began = time.perf_counter()
            client.get("/api/jobs")
            taken.append(time.perf_counter() - began)
            time.sleep(0.05)
        codes = [each.result() for each in sent]
        assert set(codes) <= {200, 429}, set(codes)
        name = f"list of jobs p95 among {CROWD} uploads"
        yield Figure(name, float(np.percentile(taken, 95)), base, "s", "alone        ", 0.2)
        yield Figure("  uploads told to come again", codes.count(429), CROWD, "", "of           ")


def two_workers_beside_one() -> Iterator[Figure]:
    """The same pictures read, and the same nests searched, by one worker and by two."""
    pictures = [picture(1600, 7 + number, 0.03, noise=True) for number in range(READINGS)]
    read, nested = {}, {}
    for workers in (1, 2):
        with api(workers) as server:
            client = server.client
            job = client.post("/api/jobs", json={"title": "Many"}).json()["id"]
            path = f"/api/jobs/{job}/pictures"
            # The first ones warm the readers.
            for number in range(4):
                warm = picture(200, 3 + number, 0.02, noise=False)
                answer = client.post(path, params={"batch": f"w{number}"}, files={"file": warm})
                _ended(client, [answer.json()["id"]])
            recipe = client.get(f"/api/jobs/{job}").json()["recipe"]
            began = time.perf_counter()
            asked = [
                client.post(path, params={"batch": f"b{number}"}, files={"file": png}).json()["id"]
                for number, png in enumerate(pictures)
            ]
            _ended(client, asked)
            read[workers] = time.perf_counter() - began
            began = time.perf_counter()
            _ended(client, [_nest(client, recipe, number) for number in range(NESTS)])
            nested[workers] = time.perf_counter() - began
    for name, taken in ((f"{READINGS} readings", read), (f"{NESTS} nests of {NEST_S} s", nested)):
        yield Figure(f"{name}, two workers", taken[2], taken[1], "s", "one worker   ", taken[1] / 1.85)


def _nest(client: httpx.Client, recipe: dict, seed: int) -> int:
    """Ask for one; its operation."""
    sheet = recipe["sheet"] | {"method": "nest", "nest_s": NEST_S, "fill": True, "seed": seed + 1}
    asked = client.post("/api/sheets/nest", json=recipe | {"sheet": sheet})
    return int(asked.raise_for_status().json()["id"])


def _ended(client: httpx.Client, operations: list[int]) -> None:
    for number in operations:
        while True:
            headers = {"Prefer": "wait=30"}
            state = client.get(f"/api/operations/{number}", headers=headers).json()["state"]
            if state not in ("queued", "working", "running"):
                assert state == "done", state
                break
