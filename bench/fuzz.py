"""Requests that nobody would send, to what exists: made from the API's own document, with its links.

`bench fuzz REQUESTS FILES` goes on until there were so many requests, then sends so many mutated files.
"""

import json
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx
import numpy as np
from tests.api.test_fuzz import mutated, whole

from bench.figure import Figure
from bench.hostile import KINDS
from bench.whole_shop import Shop, whole_shop

EXAMPLES = 25
"""Cases of an operation in one round."""
SLOWEST_S = 60.0
"""A request that takes longer hangs."""
AT_ONCE = 4


def fuzz(requests: float = 20_000, files: float = 20_000) -> Iterator[Figure]:
    """Answers of 500 and above, and requests without an answer."""
    with whole_shop() as shop:
        sent, faults, round_ = 0, 0, 0
        while sent < requests:
            round_ += 1
            more, wrong = _round(shop, round_)
            sent, faults = sent + more, faults + wrong
            print(f"round {round_}: {sent} requests, {faults} faults", flush=True)
        yield Figure(
            "faults of requests made from the document", faults, max(1, sent), "  ", "requests     ", 0
        )
        faults = _mutated(shop, int(files))
        yield Figure("faults of mutated files", faults, files, "  ", "files        ", 0)
        alive = httpx.get(f"{shop.url}/api/health", timeout=60).json()["status"] == "up"
        yield Figure("the shop is not up after all", float(not alive), 1, "  ", "of           ", 0)


def _round(shop: Shop, seed: int) -> tuple[int, int]:
    """Requests sent and faults found."""
    with tempfile.TemporaryDirectory() as folder:
        report = Path(folder) / "report.ndjson"
        command = [
            str(Path(sys.executable).parent / "schemathesis"),
            *("run", "web/openapi.json", "--url", shop.url, "--seed", str(seed), "--workers", str(AT_ONCE)),
            *("--phases", "fuzzing,stateful", "--max-examples", str(EXAMPLES), "--continue-on-failure"),
            *("--checks", "not_a_server_error", "--request-timeout", str(SLOWEST_S), "--no-shrink"),
            # A stream that never ends by itself is no request to wait for.
            *("--exclude-path-regex", "/events$", "--suppress-health-check", "all", "--warnings", "off"),
            *("--report-ndjson-path", str(report)),
        ]
        done = subprocess.run(command, capture_output=True, text=True, check=False)
        sent, faults = _counted(report)
        # Errors of the generator itself are printed, and are no requests.
        faults += done.stdout.count("Network Error")
        if done.returncode or not sent:
            print(done.stdout, done.stderr, flush=True)
        return sent, faults


def _counted(report: Path) -> tuple[int, int]:
    """Cases in a report of events, a line each, and those that failed."""
    sent = faults = 0
    for line in report.read_text(encoding="utf-8").splitlines():
        event = json.loads(line)
        if "ScenarioFinished" in event:
            recorder = event["ScenarioFinished"]["recorder"]
            sent += len(recorder.get("cases", ()))
            checks = [check for case in recorder.get("checks", {}).values() for check in case]
            faults += sum(check["status"] != "success" for check in checks)
    return sent, faults


def _mutated(shop: Shop, files: int) -> int:
    """Faults over so many files, sent by some at once; one without an answer is a fault."""
    originals = {kind: whole(kind) for kind in KINDS}

    def some(number: int) -> int:
        rng, faults = np.random.default_rng([2, number]), 0
        with httpx.Client(base_url=shop.url, timeout=SLOWEST_S) as client:
            for n in range(files // AT_ONCE):
                data = mutated(originals[KINDS[n % len(KINDS)]], rng)
                try:
                    faults += client.post("/api/artwork", files={"file": ("a", data)}).status_code >= 500
                except httpx.HTTPError:
                    faults += 1
        return faults

    with ThreadPoolExecutor(AT_ONCE) as crowd:
        return sum(crowd.map(some, range(AT_ONCE)))
