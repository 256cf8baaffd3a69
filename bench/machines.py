"""What is named and proposed at the machines, against what is true: nozzles, causes, test cuts."""

from collections.abc import Iterator

import numpy as np
from tests.core.test_causes import NAMED, named
from tests.core.test_head_check import scanned

from bench.figure import Figure
from perisect.core.cutting.belief import MAX_LADDERS, STEPS, Tried, believe, next_ladder, prior_of, propose
from perisect.core.prepress.head_pattern import head_pattern_pdf
from perisect.core.prepress.head_read import NotThePattern, read_head
from perisect.core.prepress.print_head import GROUPS, INKS
from perisect.core.process import process
from perisect.core.sheet import A4
from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS, EXAMPLE_STOCKS
from perisect.stand_ins.bite import Bite
from perisect.stand_ins.printer import Printer

BLADES, HEADS, SHEETS = 500, 200, 20


def proposals_of_test_cuts() -> Iterator[Figure]:
    """Proposals that are truly clean, of 500 blades and stocks for each of two processes; the baseline is asked for."""
    stocks = [stock for stock in EXAMPLE_STOCKS if stock.liner_um > 0]
    for cut in ("kiss", "through"):
        clean, ladders, told = [], [], []
        for seed in range(BLADES):
            stock, scale = stocks[seed % len(stocks)], EXAMPLE_PLOTTERS[seed % len(EXAMPLE_PLOTTERS)].force
            bite, eye = (
                Bite(seed, stock.face_um, stock.liner_um, scale, cut),
                np.random.default_rng([seed, 9]),
            )
            prior = prior_of(process(cut), stock.face_um, stock.liner_um, scale)
            tried: list[Tried] = []
            for _ in range(MAX_LADDERS):
                tried += [Tried(f, bite.look(f, eye)) for f in next_ladder(believe(prior, tried), scale)]
                proposal = propose(believe(prior, tried), scale)
                if proposal.is_sure:
                    break
            clean.append(bite.nominal(proposal.force) == "clean")
            ladders.append(len(tried) // STEPS)
            told.append(proposal.probability_clean)
        right, sure = np.array(clean), (np.array(told) >= 0.9) & (np.array(told) < 0.99)
        yield Figure(f"{cut}: truly clean, {BLADES} blades", 100 * right.mean(), 95.0, "%", "asked for")
        yield Figure(
            f"{cut}: in two ladders", 100 * float(np.mean(np.array(ladders) <= 2)), 90.0, "%", "asked for"
        )
        yield Figure(
            f"{cut}: clean of {sure.sum()} told 90 to 99 %", 100 * right[sure].mean(), 90.0, "%", "asked for"
        )


def nozzles_on_scans_and_photos() -> Iterator[Figure]:
    """Dropped groups that are found on 200 scans and photos of the pattern, and what is found and is none."""
    pattern, there, found, false, well = head_pattern_pdf(A4, "Desk printer"), 0, 0, 0, 0
    for seed in range(HEADS):
        printer = Printer(seed, fault="dropped-nozzles")
        page, _, _ = printer.print_page(pattern)
        try:
            seen = read_head(scanned(page, np.random.default_rng(seed), float(seed % 2)), A4)
        except NotThePattern:
            seen = []
        told = {(gap.ink, gap.group) for gap in seen}
        there, found = there + len(printer.gaps), found + len(told & printer.gaps)
        false += len(told - printer.gaps)
        well += len(INKS) * GROUPS - len(printer.gaps)
    yield Figure(f"dropped groups found, {there}", 100 * found / there, 95.0, "%", "asked for")
    yield Figure(f"false gaps, of {well} groups", 100 * false / well, 1.0, "%", "allowed", 1.0)


def causes_that_are_named() -> Iterator[Figure]:
    """Causes named as they are, of 20 sheets for each of fifteen kinds of trouble, none among them."""
    right = [named(fault, seed) == cause for fault, cause in NAMED.items() for seed in range(SHEETS)]
    yield Figure(
        f"causes named truly, {len(right)} sheets", 100 * float(np.mean(right)), 90.0, "%", "asked for"
    )
