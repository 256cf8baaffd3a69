"""What can go wrong at a printer, each as it is seen on the sheet or told by the machine."""

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.prepress.print_head import GROUPS, INKS, SWATH_MM

Page = NDArray[np.uint8]
Draw = Callable[[Page, float, np.random.Generator], Page]

REFUSALS = {"jam": "jam", "out-of-paper": "out of paper", "offline": "offline"}
"""Faults that leave no printed sheet, and what the machine then says."""


def lacking_nozzles(page: Page, px_per_mm: float, gaps: set[tuple[str, int]]) -> Page:
    """The page as a head prints it whose groups of nozzles (ink, group) do not fire.

    Colours are taken apart into inks with as much black as can be; a group prints every row of its place in a swath.
    """
    if not gaps:
        return page
    light = page.astype(np.float32) / 255
    black = 1 - light.max(axis=2, keepdims=True)
    colour = 1 - light - black
    inks = np.concatenate([colour, black], axis=2)
    rows = (np.arange(len(page)) + 0.5) / px_per_mm
    group = ((rows % SWATH_MM) / SWATH_MM * GROUPS).astype(int)
    for number, ink in enumerate(INKS):
        dead = np.isin(group, [g for name, g in gaps if name == ink])
        inks[dead, :, number] = 0
    printed = 1 - inks[..., :3] - inks[..., 3:]
    return np.asarray(np.clip(printed * 255, 0, 255), np.uint8)


def _pale(page: Page, px_per_mm: float, rng: np.random.Generator) -> Page:
    left = rng.uniform(0.22, 0.34)
    return np.asarray(255 - (255 - page.astype(np.float32)) * left, np.uint8)


def _wrong_side(page: Page, px_per_mm: float, rng: np.random.Generator) -> Page:
    """Ink beads up on the liner: specks of it stay."""
    dots = cv2.GaussianBlur(rng.normal(0, 1, page.shape[:2]).astype(np.float32), (0, 0), 0.25 * px_per_mm)
    stays = (dots > 1.1 * dots.std()).astype(np.float32)[..., None] * 0.5
    return np.asarray(255 - (255 - page.astype(np.float32)) * stays, np.uint8)


def mark_place(page: Page, px_per_mm: float, rng: np.random.Generator, lowest: bool) -> tuple[float, float]:
    """Middle of a mark, px: of a corner's darkest disc; a lower corner where asked."""
    height, width = page.shape[:2]
    side = round(28 * px_per_mm)
    left = bool(rng.integers(2))
    x0 = 0 if left else width - side
    y0 = height - side if lowest or rng.integers(2) else 0
    grey = page[y0 : y0 + side, x0 : x0 + side].min(axis=2).astype(np.float32)
    dark = cv2.GaussianBlur(255 - grey, (0, 0), 2.0 * px_per_mm)
    _, _, _, (x, y) = cv2.minMaxLoc(dark)
    return float(x0 + x), float(y0 + y)


def _smear(page: Page, px_per_mm: float, rng: np.random.Generator) -> Page:
    """Wet ink of a mark is drawn along the way of the sheet."""
    x, y = mark_place(page, px_per_mm, rng, False)
    reach = round(5 * px_per_mm)
    top, left = max(0, round(y) - reach), max(0, round(x) - reach)
    part = page[top : round(y) + reach, left : round(x) + reach].astype(np.float32)
    long = round(rng.uniform(5, 8) * px_per_mm)
    drawn = cv2.blur(part, (max(1, round(0.3 * px_per_mm)), long), borderType=cv2.BORDER_REPLICATE)
    smeared = page.copy()
    smeared[top : round(y) + reach, left : round(x) + reach] = np.clip(
        np.minimum(drawn, part * 0.3 + drawn * 0.7), 0, 255
    )
    return smeared


def _lost_mark(page: Page, px_per_mm: float, rng: np.random.Generator) -> Page:
    """The foot of the page does not come out, and the lower marks with it."""
    cut = page.copy()
    _, y = mark_place(page, px_per_mm, rng, True)
    cut[round(y - 5 * px_per_mm) :] = 255
    return cut


DRAWN: dict[str, Draw] = {
    "pale": _pale,
    "wrong-side": _wrong_side,
    "smear": _smear,
    "lost-mark": _lost_mark,
}
"""Faults that are seen on the page as it is drawn."""

MOVED = {"print-scale": "scale", "print-turn": "turn", "print-shift": "shift"}
"""Faults of how the paper is fed: much more of what every sheet has a little of."""
NOZZLES = "dropped-nozzles"
PRINTER_FAULTS = (*MOVED, NOZZLES, *DRAWN, *REFUSALS)


def dropped(rng: np.random.Generator) -> set[tuple[str, int]]:
    """Some groups of some inks, black always among them."""
    gaps: set[tuple[str, int]] = set()
    for ink in INKS:
        many = int(rng.integers(1, 6)) if ink == "black" or rng.random() < 0.5 else 0
        gaps |= {(ink, int(group)) for group in rng.choice(GROUPS, many, replace=False)}
    return gaps
