"""The shop's ledger under random events from several hands, with kills between them."""

import os
import random
import signal
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from decimal import Decimal
from functools import partial
from typing import TypeVar

import httpx

from bench.figure import Figure
from bench.whole_shop import Shop, whole_shop

EVENTS, HANDS = 10_000, 8
EVERY_S = 15.0
"""Something is killed about so often."""
PATIENCE_S = 120.0

T = TypeVar("T")


def ledger_under_kills() -> Iterator[Figure]:
    """Levels after 10,000 deliveries, losses and counts beside those that whoever sent them reckons; each was sent
    until it was answered, and half of them once more."""
    over, killed = threading.Event(), Counter[str]()
    with whole_shop() as shop:
        with httpx.Client(base_url=shop.url, timeout=30) as client:
            items = [each["item"] for each in client.get("/api/stockroom").json()][:HANDS]
        trouble = threading.Thread(target=_kill, args=(shop, over, killed))
        trouble.start()
        with ThreadPoolExecutor(HANDS) as pool:
            hands = [pool.submit(_hand, shop.url, seed, items[seed]) for seed in range(HANDS)]
            told = [hand.result() for hand in hands]
        over.set()
        trouble.join()
        with httpx.Client(base_url=shop.url, timeout=30) as client:
            after = _until(lambda: _levels(client))
    sent = sum(each for _, _, each in told)
    off = [item for item, level, _ in told if abs(after[item] - level) > Decimal("0.0005")]
    print(f"killed: {dict(killed)}; sent {sent} times", flush=True)
    yield Figure(f"levels that are off after {EVENTS} events", len(off), len(told), "", "items", 0)


def _hand(url: str, seed: int, item: str) -> tuple[str, Decimal, int]:
    """One hand's events, all of an item of its own, a count first; the item, its level as reckoned, and how often was
    sent."""
    chance, level, sent = random.Random(seed), Decimal(0), 0
    with httpx.Client(base_url=url, timeout=10) as client:
        for number in range(EVENTS // HANDS):
            what = chance.choice(["delivery", "delivery", "waste", "waste", "count"]) if number else "count"
            quantity = Decimal(chance.randrange(1, 500_000)) / 1000
            level = quantity if what == "count" else level + quantity * (1 if what == "delivery" else -1)
            move = {
                "item": item,
                "what": what,
                "quantity": float(quantity),
                "key": f"hand-{seed}-{number:06d}",
            }
            for _ in range(chance.choice([1, 2])):
                sent += 1
                answer = _until(partial(client.post, "/api/stockroom/moves", json=move))
                assert answer.status_code == 201, answer.text
    return item, level, sent


def _levels(client: httpx.Client) -> dict[str, Decimal]:
    items = client.get("/api/stockroom").raise_for_status().json()
    return {each["item"]: Decimal(str(each["level"])) for each in items if each["level"] is not None}


def _until(ask: Callable[[], T]) -> T:
    """What is answered once the shop is there again."""
    end = time.monotonic() + PATIENCE_S
    while True:
        try:
            answer = ask()
            if not isinstance(answer, httpx.Response) or answer.status_code < 500:
                return answer
        except (httpx.HTTPError, KeyError):
            pass
        if time.monotonic() > end:
            raise TimeoutError("the shop did not come back")
        time.sleep(0.2)


def _kill(shop: Shop, over: threading.Event, killed: Counter[str]) -> None:
    chance = random.Random(5)
    while not over.wait(chance.uniform(0.5, 1.5) * EVERY_S):
        what = chance.choice(["api", "postgres", "worker", "connections"])
        try:
            if what == "postgres":
                os.kill(shop.database(), signal.SIGKILL)
            elif what == "connections":
                for pid, line in shop.database_children().items():
                    if "127.0.0.1(" in line:
                        os.kill(pid, signal.SIGTERM)
            else:
                os.kill(
                    next(pid for pid, line in shop.children().items() if f" {what}" in line), signal.SIGKILL
                )
        except (OSError, ValueError, IndexError, StopIteration):
            continue
        killed[what] += 1
