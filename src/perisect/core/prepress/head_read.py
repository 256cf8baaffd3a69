"""Read a scan or a photo of the head pattern: which dashes are missing.

The targets are nests of contours about one middle, whatever the scale, turn and tilt of the picture; five of them give
the plane map (a homography) to the page. A dash is there when it takes as much light away in its ink's own colour as
most dashes of that ink do.
"""

from dataclasses import dataclass
from itertools import permutations

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.prepress.head_pattern import TARGET_MM, dashes, targets
from perisect.core.prepress.print_head import INKS
from perisect.core.sheet.stock import Stock

PX_PER_MM = 12.0
DARKENED = {"cyan": 0, "magenta": 1, "yellow": 2, "black": 1}
"""Which of red, green, blue each ink takes away."""
PRESENT = 0.45
"""Of the usual dash of its ink."""
LEAST_LEVELS = 14.0
"""An ink whose dashes take less than this is not there at all."""
ROUND = 0.35
"""How far a target's width and height may differ, and its middles stand apart, of its radius."""
LEAST_PX = 3.0
APART_PX = 8.0
"""Targets nearer than this are the same one."""
CLOSED_PX = ((1, 1), *((n, 1) for n in (3, 5, 7, 9, 12, 15)), *((1, n) for n in (3, 5, 7, 9, 12, 15)))
"""Gaps of the black ink run through the targets too: dark parts so near each other down the picture, or across it where
the page lies on its side, are taken for one. Rows and columns, tried in turn."""
FIT_MM = 0.6
"""What may be left over at a target of a page that is ours."""


class NotThePattern(ValueError):
    """The picture does not show the pattern whole; the text says what to do."""


@dataclass(frozen=True)
class Gap:
    """A group that does not fire."""

    ink: str
    group: int


def read_head(rgb: NDArray[np.uint8], stock: Stock) -> list[Gap]:
    """Gaps on an (h, w, 3) picture of the page.

    Raises:
        NotThePattern: its targets are not found.
    """
    page = _flattened(rgb, stock)
    found = []
    for ink in INKS:
        depth = np.array([_depth(page, dash.box, DARKENED[ink]) for dash in dashes() if dash.ink == ink])
        # Of a head that has lost half its groups the upper quarter still shows what a dash is.
        usual = float(np.quantile(depth, 0.75))
        missing = depth < PRESENT * usual if usual >= LEAST_LEVELS else np.full(len(depth), True)
        found += [Gap(ink, int(group)) for group in np.flatnonzero(missing)]
    return found


def _depth(page: NDArray[np.float32], box: tuple[float, float, float, float], channel: int) -> float:
    """How much darker a dash's rows are than the paper above and below it, levels."""
    left, top, right, bottom = (side * PX_PER_MM for side in box)
    inset, beside = PX_PER_MM * 1.0, PX_PER_MM * 1.1
    columns = slice(round(left + inset), round(right - inset))
    rows = page[round(top - beside) : round(bottom + beside), columns, channel].mean(axis=1)
    smooth = np.convolve(rows, np.ones(3) / 3, "valid")
    near = slice(round(beside * 0.55), len(smooth) - round(beside * 0.55))
    return float(np.quantile(rows, 0.8) - smooth[near].min())


def _flattened(rgb: NDArray[np.uint8], stock: Stock) -> NDArray[np.float32]:
    wanted = np.array(targets(stock))
    seen: list[tuple[float, float]] = []
    for closed_px in CLOSED_PX:
        # A target that is whole by now stays so: each may need another step.
        new = [
            place
            for place in _targets(rgb, closed_px)
            if all(np.hypot(place[0] - x, place[1] - y) > APART_PX for x, y in seen)
        ]
        seen += new
        places = _named(seen, wanted) if new else None
        if places is not None:
            break
    else:
        if len(seen) >= 5:
            raise NotThePattern(
                f"This is not a page of the head pattern for {stock.name}: its targets stand otherwise. If it was "
                "printed on another stock, choose a job with that stock."
            )
        raise NotThePattern(
            f"Of the five targets of the head pattern {len(seen)} are seen. Lay the page flat, take all of it into the "
            "picture, and scan it at 150 ppi or more."
        )
    matrix, _ = cv2.findHomography(places, wanted * PX_PER_MM)
    size = round(stock.width_mm * PX_PER_MM), round((wanted[:, 1].max() + TARGET_MM) * PX_PER_MM)
    flat = cv2.warpPerspective(rgb, matrix, size, flags=cv2.INTER_AREA, borderValue=(255, 255, 255))
    return np.asarray(flat, np.float32)


def _named(seen: list[tuple[float, float]], wanted: NDArray[np.float64]) -> NDArray[np.float64] | None:
    """Five of the targets seen in the order of those wanted; None where they do not stand so."""
    best: tuple[float, NDArray[np.float64]] | None = None
    for some in permutations(seen[:7], 5):
        places = np.array(some)
        a, b, c, d = places[:4]
        # Right of the first is the second and below it the third, in a picture that is not mirrored.
        if _cross(b - a, c - a) <= 0 or _cross(c - d, b - d) <= 0:
            continue
        matrix = cv2.getPerspectiveTransform(places[:4].astype(np.float32), wanted[:4].astype(np.float32))
        fifth = matrix @ np.array([*places[4], 1.0])
        off = float(np.hypot(*(fifth[:2] / fifth[2] - wanted[4])))
        if best is None or off < best[0]:
            best = off, places
    return None if best is None or best[0] > FIT_MM else best[1]


def _cross(a: NDArray[np.float64], b: NDArray[np.float64]) -> float:
    return float(a[0] * b[1] - a[1] * b[0])


def _targets(rgb: NDArray[np.uint8], closed_px: tuple[int, int]) -> list[tuple[float, float]]:
    """Middles of black discs with a bare ring and a black middle, the most alike in size first, px."""
    grey = cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY)
    _, dark = cv2.threshold(
        cv2.GaussianBlur(grey, (0, 0), 1), 0, 255, cv2.THRESH_BINARY_INV | cv2.THRESH_OTSU
    )
    dark = cv2.morphologyEx(dark, cv2.MORPH_CLOSE, np.ones(closed_px, np.uint8))
    contours, tree = cv2.findContours(dark, cv2.RETR_TREE, cv2.CHAIN_APPROX_NONE)
    found = []
    for outer, (_, _, ring, _) in enumerate(tree[0] if tree is not None else ()):
        if ring < 0 or tree[0][ring][0] >= 0 or tree[0][ring][2] < 0:
            continue
        middle = tree[0][ring][2]
        rounds = [_round(np.asarray(contours[n], np.int32)) for n in (outer, ring, middle)]
        if any(each is None for each in rounds):
            continue
        (x, y, big), (u, v, _), (s, t, small) = (each for each in rounds if each is not None)
        if max(np.hypot(x - u, y - v), np.hypot(x - s, y - t)) < ROUND * big and 0.15 < small / big < 0.6:
            found.append((big, ((x + u + s) / 3, (y + v + t) / 3)))
    if not found:
        return []
    usual = float(np.median([size for size, _ in found]))
    found.sort(key=lambda each: abs(np.log(each[0] / usual)))
    return [place for _, place in found]


def _round(contour: NDArray[np.int32]) -> tuple[float, float, float] | None:
    """Middle and radius of a contour that is about round."""
    _, _, width, height = cv2.boundingRect(contour)
    moments = cv2.moments(contour)
    radius = (width + height) / 4
    if radius < LEAST_PX / 3 or moments["m00"] <= 0 or abs(width - height) > 2 * ROUND * radius:
        return None
    if not 0.6 < moments["m00"] / (np.pi * width * height / 4) < 1.2:
        return None
    return moments["m10"] / moments["m00"], moments["m01"] / moments["m00"], radius
