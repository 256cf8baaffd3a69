"""Send hostile requests and files; count faults, lost places and the growth of memory.

`bench leak REQUESTS FILES` sends so many requests with hostile headers, and so many hostile files of all kinds.
"""

import socket
import time
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress

import httpx
import numpy as np

from bench.figure import Figure
from bench.processes import megabytes
from bench.strangers_bytes import SCAN, TAKES, hostile_file, hostile_headers
from bench.whole_shop import Shop, whole_shop

AT_ONCE = 4
SLOWEST_S = 90.0
FLAT_MB = 200.0
PATHS = ("/api/jobs", "/api/jobs/{job}", "/", "/api/health", "/api/shop", "/api/openapi.json", "/api/nothing",
         "/api/jobs/{job}/sheets/1/print.pdf", "/api/shop/backup.zip", "/api/jobs/%00", "/api/prints/1")  # fmt: skip
METHODS = ("GET", "POST", "PUT", "DELETE", "HEAD", "OPTIONS", "PATCH", "BREW")


def leak(requests: float = 20_000, files: float = 20_000) -> Iterator[Figure]:
    """Answers of 500, places that are lost, and how the API's memory grows."""
    with whole_shop() as shop:
        job = _new_job(shop)
        _files(shop, job, 400, seed=1)
        early = _megabytes(shop)
        answers = _requests(shop, job, int(requests))
        print("answers to hostile headers:", dict(answers), flush=True)
        yield Figure("faults of hostile headers", _faults(answers), requests, "  ", "requests     ", 0)
        # One of those requests may have deleted it.
        job = _new_job(shop)
        answers = _files(shop, job, int(files), seed=2)
        print("answers to hostile files:", dict(answers), flush=True)
        yield Figure("faults of hostile files", _faults(answers), files, "  ", "files        ", 0)
        late = _megabytes(shop)
        yield Figure("memory of the API's own process", late, early, "MB", "after 400    ", early + FLAT_MB)
        lost = _lost_places(shop, job)
        yield Figure("kinds of work that do not answer", lost, len(TAKES), "  ", "of           ", 0)


def _new_job(shop: Shop) -> int:
    """A job with a piece on a sheet, which scans can be of."""
    job = int(httpx.post(f"{shop.url}/api/jobs", json={"title": "Leak"}, timeout=60).json()["id"])
    pictures = f"{shop.url}/api/jobs/{job}/pictures?batch=first"
    httpx.post(pictures, files={"file": SCAN}, headers={"Prefer": "wait=30"}, timeout=60).raise_for_status()
    return job


def _faults(answers: Counter[str]) -> int:
    # 503 is a database that is busy for a moment, 507 a full disk; neither is seen here.
    return sum(count for code, count in answers.items() if code.startswith("5") or code == "none")


def _megabytes(shop: Shop) -> float:
    time.sleep(2)
    (api,) = (pid for pid, line in shop.children().items() if line.startswith("perisect api "))
    return megabytes(api, "VmRSS")


def _requests(shop: Shop, job: int, count: int) -> Counter[str]:
    host, port = shop.url.removeprefix("http://").split(":")

    def some(number: int) -> Counter[str]:
        rng, found = np.random.default_rng([3, number]), Counter[str]()
        for _ in range(count // AT_ONCE):
            path = str(rng.choice(PATHS)).format(job=job)
            told = dict(hostile_headers(rng))
            lines = [
                f"{rng.choice(METHODS)} {path} HTTP/1.1",
                *(f"{name}: {value}" for name, value in told.items()),
            ]
            if "Host" not in told:
                lines.append(f"Host: {host}:{port}")
            body = bytes(rng.integers(0, 256, int(rng.integers(0, 40)), dtype=np.uint8))
            if not {"Content-Length", "Transfer-Encoding"} & told.keys():
                lines.append(f"Content-Length: {len(body)}")
            sent = "\r\n".join([*lines, "Connection: close", "", ""]).encode("latin-1") + body
            found[_answer(host, int(port), sent)] += 1
        return found

    with ThreadPoolExecutor(AT_ONCE) as crowd:
        return sum(crowd.map(some, range(AT_ONCE)), Counter[str]())


def _answer(host: str, port: int, sent: bytes) -> str:
    """The status of the answer; `ended` where the connection was ended without one, as a body that does not come is."""
    with socket.create_connection((host, port), timeout=SLOWEST_S) as peer, suppress(ConnectionError):
        peer.sendall(sent)
        peer.shutdown(socket.SHUT_WR)
        first = peer.recv(4096)
        while peer.recv(1 << 20):
            pass
        return first.split(b" ", 2)[1].decode() if first else "ended"
    return "ended"


def _files(shop: Shop, job: int, count: int, seed: int) -> Counter[str]:
    def some(number: int) -> Counter[str]:
        rng, found = np.random.default_rng([seed, number]), Counter[str]()
        with httpx.Client(base_url=shop.url, timeout=SLOWEST_S) as client:
            for _ in range(count // AT_ONCE):
                method, path, data = hostile_file(rng)
                try:
                    answer = client.request(method, path.format(job=job), files={"file": ("a", data)})
                    if answer.status_code == 429:
                        time.sleep(0.5)
                    if answer.status_code >= 500:
                        print(f"{answer.status_code} {path} {answer.text[:200]}", flush=True)
                    found[str(answer.status_code)] += 1
                except httpx.HTTPError:
                    found["none"] += 1
        return found

    with ThreadPoolExecutor(AT_ONCE) as crowd:
        return sum(crowd.map(some, range(AT_ONCE)), Counter[str]())


def _lost_places(shop: Shop, job: int) -> int:
    """Kinds that a sound file is not answered for, twelve of them at once."""

    def ask(kind: str) -> bool:
        method, path, data = TAKES[kind]
        try:
            asked = httpx.request(
                method, f"{shop.url}{path.format(job=job)}", files={"file": ("a", data)}, timeout=40
            )
        except httpx.HTTPError:
            return False
        return asked.status_code < 500

    lost = 0
    for kind in TAKES:
        with ThreadPoolExecutor(12) as crowd:
            lost += not all(crowd.map(ask, [kind] * (2 if kind in ("backup", "font") else 12)))
    return lost
