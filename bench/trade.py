"""The shop's trade against the best there is: plans of the day, subjects out of photos, fonts as nobody made them."""

import time
from collections.abc import Iterator
from unittest.mock import patch

import cv2
import numpy as np
from tests.core.photos import as_jpeg, furry_photo, iou, marked, photo

from bench.figure import Figure
from perisect.core.artwork.subject import TRIAL_PX, subject_alpha, subject_trial
from perisect.core.fonts import FOLDER
from perisect.core.fonts.own import FontRefused, read_font
from perisect.core.ledger.plan_check import broken_rules
from perisect.core.ledger.planner import make_plan
from perisect.core.ledger.schedule import Order, Shop, Step

CASES, PHOTOS, FONTS = 20, 100, 2000
BEST_S = 60.0
QUALITIES = 95, 85, 75
"""Of JPEGs."""


def _case(seed: int) -> tuple[list[Order], Shop]:
    """5 to 40 orders for one to three printers and plotters, due on the days ahead so that some may be late."""
    rng = np.random.default_rng(seed)
    machines = int(rng.integers(1, 4))
    printers = tuple(f"printer {n}" for n in range(machines))
    plotters = tuple(f"plotter {n}" for n in range(machines))
    openings = tuple((1440 * day + 540, 1440 * day + 1020) for day in range(14))
    orders = []
    many = int(rng.integers(5, 41))
    load = many * 60 / machines
    for n in range(many):
        stock = ("film", "paper", "vinyl")[int(rng.integers(3))]
        some = tuple(sorted(rng.choice(printers, int(rng.integers(1, machines + 1)), replace=False)))
        cutters = tuple(sorted(rng.choice(plotters, int(rng.integers(1, machines + 1)), replace=False)))
        due = 540 + float(rng.uniform(0.3, 1.2)) * load * 1440 / 480
        orders.append(
            Order(
                f"o{n}",
                (
                    Step("print", some, int(rng.integers(10, 60)), stock),
                    Step("cut", cutters, int(rng.integers(10, 60)), stock, wait=int(rng.integers(10, 120))),
                    Step("finish", ("hands",), int(rng.integers(5, 30))),
                ),
                round(due),
            )
        )
    return orders, Shop(openings, 8, many={"hands": machines} if machines > 1 else {})


def plans_of_the_day() -> Iterator[Figure]:
    """How late a plan of four seconds is beside the best of sixty, and how many rules 20 plans break."""
    ours, best, proven, broken, slowest = 0, 0, 0, 0, 0.0
    for seed in range(CASES):
        orders, shop = _case(seed)
        start = time.perf_counter()
        plan = make_plan(orders, shop, seconds=4.0, clock=time.monotonic)
        slowest = max(slowest, time.perf_counter() - start)
        broken += len(broken_rules(plan, orders, shop))
        long = (
            make_plan(orders, shop, seconds=BEST_S, before=plan, clock=time.monotonic)
            if plan.lateness > plan.least
            else plan
        )
        ours, best, proven = ours + plan.lateness, best + long.lateness, proven + max(plan.least, long.least)
    yield Figure("lateness of 20 plans, 4 s", ours, max(best, 1), "min", "60 s", 1.02 * max(best, 1))
    yield Figure("lateness of 20 plans, 60 s", best, max(proven, 1), "min", "proven least")
    yield Figure("slowest of 20 plans", slowest, 5.0, "s", "asked for", 5.0)
    yield Figure("rules that 20 plans break", broken, 1, "", "one", 0)
    orders, shop = _case(3)
    first = make_plan(orders, shop, seconds=4.0, clock=time.monotonic)
    start = time.perf_counter()
    make_plan(orders, shop, seconds=1.6, before=first, clock=time.monotonic)
    yield Figure("a plan made anew", time.perf_counter() - start, 2.0, "s", "asked for", 2.0)


def subjects_out_of_photos() -> Iterator[Figure]:
    """How well 100 subjects, every second of them as a camera keeps it, are cut out by a box and three strokes at most,
    and how soon a stroke is answered."""
    found, trials, strokes = [], [], []
    for seed in range(PHOTOS):
        picture, truth = photo(seed)
        if seed % 2:
            picture = as_jpeg(picture, QUALITIES[seed % len(QUALITIES)])
        recipe = marked(picture, truth)
        found.append(iou(subject_alpha(picture, recipe), truth))
        strokes.append(len(recipe.keep) + len(recipe.drop))
        shrink = TRIAL_PX / max(picture.shape)
        small = np.ascontiguousarray(picture[:: round(1 / shrink), :: round(1 / shrink)])
        start = time.perf_counter()
        subject_trial(small, recipe, small.shape[1] / picture.shape[1])
        trials.append(time.perf_counter() - start)
    yield Figure("subject, IoU in the middle", float(np.median(found)), 0.97, "", "asked for")
    yield Figure("subject, IoU at 5 of 100", float(np.percentile(found, 5)), 0.90, "", "asked for")
    yield Figure("strokes for a subject", float(np.mean(strokes)), 3, "", "at most")
    yield Figure("answer to a stroke", float(np.percentile(trials, 95)), 0.3, "s", "asked for", 0.3)


def hair_out_of_photos() -> Iterator[Figure]:
    """How much of what a graph cut gets wrong of 40 subjects with hair is right, a quarter of them hardly differing
    from their ground; what becomes of 40 without hair; and how much of any is lost that is no hair."""
    plain, found, smooth, lost = [], [], [], [0]
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (31, 31))
    for seed in range(40):
        for strands in (0, 25 + 5 * seed):
            contrast = (22.0, 60.0) if seed % 4 == 3 else (45.0, 110.0)
            picture, truth = furry_photo(seed, strands, 0 if seed % 2 else 150, contrast)
            if seed % 4 > 1:
                picture = as_jpeg(picture, QUALITIES[seed % len(QUALITIES)])
            recipe = marked(picture, truth, 0)
            alpha = subject_alpha(picture, recipe)
            with patch("perisect.core.artwork.subject.with_hair", return_value=None):
                before = subject_alpha(picture, recipe)
            wrong = [float(np.abs(each / 255 - truth).sum()) for each in (alpha, before)]
            body = cv2.morphologyEx((truth > 0.99).astype(np.uint8), cv2.MORPH_OPEN, disc)
            inner = cv2.erode(body, np.ones((5, 5), np.uint8)) > 0
            lost.append(int(((alpha < 128) & (before >= 128) & inner).sum()))
            if strands:
                found.append(wrong[0])
                plain.append(wrong[1])
            else:
                smooth.append(wrong[0] / wrong[1])
    yield Figure(
        "px wrong about a subject with hair",
        float(np.mean(found)),
        float(np.mean(plain)),
        "px",
        "a graph cut",
    )
    yield Figure("px wrong about a smooth one, worst", max(smooth), 1.0, "times", "a graph cut", 1.02)
    yield Figure("px of a body taken for gaps, worst", max(lost), 1.0, "px", "one", 0)


def mutated_fonts() -> Iterator[Figure]:
    """2,000 fonts with bytes changed, cut off or exchanged: all read or refused, none with an error of ours."""
    rng = np.random.default_rng(1)
    plain = [(FOLDER / f"{name}.ttf").read_bytes() for name in ("text", "script", "stencil", "noto-hebrew")]
    faults = taken = 0
    for _ in range(FONTS):
        spoiled = bytearray(plain[int(rng.integers(len(plain)))])
        for at in rng.integers(
            0, min(len(spoiled), int(rng.choice([400, 4000, len(spoiled)]))), int(rng.integers(1, 60))
        ):
            spoiled[at] = int(rng.integers(256))
        if rng.random() < 0.2:
            spoiled = spoiled[: int(rng.integers(1, len(spoiled)))]
        try:
            read_font(bytes(spoiled))
            taken += 1
        except FontRefused:
            pass
        except Exception:
            faults += 1
    yield Figure("faults over 2,000 mutated fonts", faults, 1, "", "one", 0)
    yield Figure("mutated fonts that are still read", taken, FONTS, "", "all")
