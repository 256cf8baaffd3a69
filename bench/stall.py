"""Requests that do not come to their end, and callers who do not read: what they cost everybody else.

`bench stall SECONDS` and `bench slow_reader SECONDS`.
"""

import socket
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import suppress

import httpx
import numpy as np

from bench.art import picture
from bench.figure import Figure
from bench.whole_shop import Shop, whole_shop

ATTACKERS = 200
SLOWEST_S = 2.0
"""Nobody waits longer for a small answer, whatever strangers leave half done."""
ENDED_S = 50.0
"""By then the last of them has lost its connection."""
HALVES = (
    "PUT /api/jobs/{job}/recipe", "POST /api/lines", "POST /api/sheets", "POST /api/artwork", "POST /api/jobs",
    "POST /api/jobs/{job}/undo", "POST /api/labels/tables", "GET /api/jobs/{job}", "POST /api/shop/restore",
)  # fmt: skip


def stall(seconds: float = 40) -> Iterator[Figure]:
    """The slowest answers while hundreds of requests are half-sent."""

    def begin(shop: Shop, job: int, number: int) -> socket.socket:
        peer = _peer(shop)
        method = HALVES[number % len(HALVES)].format(job=job)
        told = [f"Host: {_place(shop)}", "Content-Type: application/json", "Content-Length: 900"]
        whole = "\r\n".join([f"{method} HTTP/1.1", *told, "", ""])
        half = whole + '{"revision": 1, ' if number % 3 else whole[: number % len(whole)]
        peer.sendall(half.encode())
        return peer

    yield from _attacked("half-sent requests", begin, seconds)


def slow_reader(seconds: float = 40) -> Iterator[Figure]:
    """The slowest answers while hundreds of callers do not read theirs."""

    def begin(shop: Shop, job: int, number: int) -> socket.socket:
        peer = _peer(shop, 4096)
        for path in (*["/api/openapi.json"] * 12, f"/api/jobs/{job}"):
            peer.sendall(f"GET {path} HTTP/1.1\r\nHost: {_place(shop)}\r\n\r\n".encode())
        return peer

    yield from _attacked("callers who do not read", begin, seconds)


def _place(shop: Shop) -> str:
    return shop.url.removeprefix("http://")


def _peer(shop: Shop, receive_buffer: int | None = None) -> socket.socket:
    host, port = _place(shop).split(":")
    peer = socket.socket()
    if receive_buffer:
        peer.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, receive_buffer)
    peer.settimeout(60)
    peer.connect((host, int(port)))
    return peer


def _attacked(
    what: str, begin: Callable[[Shop, int, int], socket.socket], seconds: float
) -> Iterator[Figure]:
    with whole_shop() as shop:
        job = httpx.post(f"{shop.url}/api/jobs", json={"title": "Stall"}, timeout=60).json()["id"]
        sent = {"file": picture(300, 7, 0.03, noise=False)}
        httpx.post(
            f"{shop.url}/api/jobs/{job}/pictures?batch=b",
            files=sent,
            headers={"Prefer": "wait=30"},
            timeout=60,
        )
        quiet = _slowest(shop, job, min(seconds, 10))
        peers: list[socket.socket] = []
        over = threading.Event()

        def attack() -> None:
            number = 0
            while not over.is_set():
                with suppress(OSError):
                    peers.append(begin(shop, job, number))
                number += 1
                # A connection that was ended is followed by another one.
                if len(peers) > ATTACKERS:
                    peers.pop(0).close()
                time.sleep(seconds / ATTACKERS / 2)

        attacker = threading.Thread(target=attack)
        attacker.start()
        attacked = _slowest(shop, job, seconds)
        over.set()
        attacker.join()
        yield Figure(
            f"slowest answer beside {ATTACKERS} {what}", attacked, quiet, "s ", "alone        ", SLOWEST_S
        )
        ended = _ended_after(peers)
        yield Figure(
            f"until the last of {len(peers)} is ended", ended, ENDED_S, "s ", "may take     ", ENDED_S
        )


def _slowest(shop: Shop, job: int, seconds: float) -> float:
    """The 99th percentile is not enough: one who waits is one too many."""
    taken, end = [], time.monotonic() + seconds
    with httpx.Client(base_url=shop.url, timeout=120) as client:
        recipe = client.get(f"/api/jobs/{job}").json()["recipe"]
        design = recipe["designs"][0]
        lines = {"artwork": design["artwork"], "longest_mm": design["longest_mm"], "border_mm": 2}
        while time.monotonic() < end:
            for ask in (
                lambda: client.get("/api/health"),
                lambda: client.get(f"/api/jobs/{job}"),
                lambda: client.post("/api/lines", json=lines),
            ):
                began = time.monotonic()
                assert ask().status_code == 200
                taken.append(time.monotonic() - began)
    print(f"{len(taken)} answers, median {np.median(taken):.3f} s", flush=True)
    return max(taken)


def _ended_after(peers: list[socket.socket]) -> float:
    """How long until every connection is at its end, s."""
    began = time.monotonic()
    for peer in peers:
        peer.settimeout(max(0.1, began + ENDED_S + 10 - time.monotonic()))
        with suppress(ConnectionError):
            try:
                while peer.recv(1 << 20):
                    pass
            except TimeoutError:
                return ENDED_S + 10
    return time.monotonic() - began
