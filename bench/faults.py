"""Cuts that are broken off at a random line, by a random fault, and go on: what is cut twice, forgotten or stuck."""

import json
import tempfile
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from tests.core import drawings

from bench.figure import Figure
from perisect.offline.make import make
from perisect.offline.rehearse import Drill, RehearsalError, rehearse

FAULTS = ("power-cut", "cable", "lost-bytes", "stall", "cancel")
CUTS = 200


def cuts_that_are_broken_off() -> Iterator[Figure]:
    """Of 200 sheets: those that were not finished, and lines that were not cut exactly once, but for the one that was
    in the blade and is cut again or asked about. Nothing is allowed of either; the baseline is all of them."""
    rng, stuck, wrong, lines, kinds = np.random.default_rng(11), 0, 0, 0, Counter[str]()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        art = folder / "star.png"
        art.write_bytes(drawings.png(drawings.coverage(drawings.star(300, 130))[0]))
        make([art], folder / "out", 45, 2, 3, "a4", 6, 2)
        report = json.loads((folder / "out/report.json").read_text())
        count = sum(total["count"] for total in report["sheets"][0]["lines"].values())
        for seed in range(CUTS):
            kind = str(rng.choice(FAULTS))
            drill = Drill(resume_after=int(rng.integers(1, count))) if kind == "cancel" else Drill(kind)
            kinds[kind] += 1
            try:
                told = rehearse(folder / "out", seed, drill)
            except RehearsalError:
                stuck += 1
                continue
            stuck += not told["finished"]
            in_blade = {line for sheet in told["sheets"] for line in sheet["in_blade"]}
            lines += len(told["lines_cut"])
            wrong += sum(
                cut not in ((1, 2) if line in in_blade else (1,))
                for line, cut in enumerate(told["lines_cut"])
            )
    told_kinds = ", ".join(f"{n} {kind}" for kind, n in sorted(kinds.items()))
    yield Figure(f"sheets stuck: {told_kinds}", stuck, CUTS, "", "of", 0.0)
    yield Figure("lines not cut exactly once", wrong, lines, "", "of", 0.0)
