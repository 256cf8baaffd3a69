"""Painted checkerboards: the picture of transparency that some tools bake into the pixels.

Two light greys alternate in squares. Along the picture's edge the pattern is mostly bare, so the
greys, the size of the squares and where they begin are read there, then held against every grey pixel
of the edge band.
"""

from dataclasses import dataclass
from math import ceil

import cv2
import numpy as np
from numpy.typing import NDArray

SQUARES_PX = (3, 80)
MOST_CHROMA = 14
LEAST_CONTRAST = 5
DARKEST = 60
"""Painted transparency is seldom darker; darker two-tone patterns are art."""

LEAST_AGREEMENT = 0.9
LEAST_SHARE = 0.55
"""Of the edge band that must be one of the two greys."""


@dataclass(frozen=True)
class Checker:
    """Squares of `square_px`, the first whole one starting at (`left_px`, `top_px`); it is light if `light_first`."""

    square_px: int
    left_px: int
    top_px: int
    light_first: bool
    light: tuple[int, int, int]
    dark: tuple[int, int, int]
    agreement: float

    @property
    def contrast(self) -> float:
        """Levels between the two greys."""
        return float(np.mean(self.light) - np.mean(self.dark))

    def inner(self, rows: slice, columns: slice) -> NDArray[np.bool_]:
        """Pixels of a window at least one away from a seam, where squares are large enough to have such."""
        if self.square_px < 5:
            return np.ones((rows.stop - rows.start, columns.stop - columns.start), bool)
        x = (np.arange(columns.start, columns.stop) - self.left_px) % self.square_px
        y = (np.arange(rows.start, rows.stop) - self.top_px) % self.square_px
        last = self.square_px - 1
        return ((x > 0) & (x < last))[None, :] & ((y > 0) & (y < last))[:, None]

    def is_light(self, rows: slice, columns: slice) -> NDArray[np.uint8]:
        """1 where a pixel of a window of the picture lies on a light square, else 0."""
        column = (np.arange(columns.start, columns.stop) - self.left_px) // self.square_px % 2
        row = (np.arange(rows.start, rows.stop) - self.top_px) // self.square_px % 2
        first = np.uint8(not self.light_first)
        return np.bitwise_xor(column.astype(np.uint8)[None, :] ^ first ^ 1, row.astype(np.uint8)[:, None])


def find_checker(rgb: NDArray[np.uint8]) -> Checker | None:
    """The checkerboard painted into an (h, w, 3) picture, or None."""
    height, width = rgb.shape[:2]
    if min(height, width) < 4 * SQUARES_PX[0]:
        return None
    # Corners, edges: a band wide enough to hold several squares of any size.
    band = min(ceil(2.2 * SQUARES_PX[1]), height // 2, width // 2)
    top, bottom, left, right = rgb[:band], rgb[-band:], rgb[:, :band], rgb[:, -band:]
    edge = np.concatenate(
        [side[::2, ::2].reshape(-1, 3) for side in (rgb[:6], rgb[-6:], rgb[:, :6], rgb[:, -6:])]
    )
    greys = _two_greys(edge)
    if greys is None:
        return None
    dark, light = greys
    best: Checker | None = None
    for strip, row, column in (
        (top, 0, 0),
        (bottom, height - band, 0),
        (left, 0, 0),
        (right, 0, width - band),
    ):
        found = _fit(strip, dark, light)
        if found is None:
            continue
        square, x, y, light_first = found
        moved = _from_corner(square, x + column, y + row, light_first)
        candidate = Checker(*moved, _colour(light), _colour(dark), 0.0)
        agreement = _agreement(rgb, candidate, dark, light)
        if best is None or agreement > best.agreement:
            best = Checker(*moved, _colour(light), _colour(dark), agreement)
        if best.agreement > 0.97:
            break
    return best if best is not None and best.agreement >= LEAST_AGREEMENT else None


def _colour(grey: NDArray[np.float64]) -> tuple[int, int, int]:
    r, g, b = (round(float(c)) for c in grey)
    return r, g, b


def _two_greys(edge: NDArray[np.uint8]) -> tuple[NDArray[np.float64], NDArray[np.float64]] | None:
    """The two commonest light, colourless levels along the edge, dark first."""
    level = edge.mean(axis=1)
    chroma = edge.max(axis=1).astype(int) - edge.min(axis=1)
    grey = (chroma <= MOST_CHROMA) & (level >= DARKEST)
    if grey.mean() < LEAST_SHARE:
        return None
    levels = level[grey].round().astype(np.uint8)
    split, _ = cv2.threshold(levels.reshape(1, -1), 0, 255, cv2.THRESH_BINARY | cv2.THRESH_OTSU)
    lower = levels <= split
    # Both greys must be common, well apart, and each close about its middle (JPEG spreads them a little).
    if not 0.2 <= lower.mean() <= 0.8:
        return None
    dark, light = (np.median(edge[grey][side], axis=0) for side in (lower, ~lower))
    contrast = float(light.mean() - dark.mean())
    spread = max(
        float(np.mean(np.abs(levels[side] - middle.mean())))
        for side, middle in ((lower, dark), (~lower, light))
    )
    if contrast < LEAST_CONTRAST or spread > 0.18 * contrast + 1:
        return None
    return dark.astype(float), light.astype(float)


def _signs(rgb: NDArray[np.uint8], dark: NDArray[np.float64], light: NDArray[np.float64]) -> NDArray[np.int8]:
    """+1 where a pixel is the light grey, -1 where it is the dark one, 0 where neither."""
    red, green, blue = cv2.split(np.ascontiguousarray(rgb))
    level = (red.astype(np.float32) + green + blue) / 3
    chroma = cv2.subtract(cv2.max(cv2.max(red, green), blue), cv2.min(cv2.min(red, green), blue))
    low, high = float(dark.mean()), float(light.mean())
    reach = (high - low) / 2
    known = (chroma <= MOST_CHROMA + 6) & (level > low - reach) & (level < high + reach)
    return np.where(known, np.where(level > (low + high) / 2, 1, -1), 0).astype(np.int8)


def _fit(
    strip: NDArray[np.uint8], dark: NDArray[np.float64], light: NDArray[np.float64]
) -> tuple[int, int, int, bool] | None:
    """Square size, left, top and whether (left, top) is light, read from where signs change."""
    signs = _signs(strip, dark, light)
    across = (signs[:, 1:] * signs[:, :-1] < 0).sum(axis=0).astype(float)
    down = (signs[1:] * signs[:-1] < 0).sum(axis=1).astype(float)
    best, size = 0.0, 0
    for square in range(SQUARES_PX[0], SQUARES_PX[1] + 1):
        score = _comb(across, square)[0] * _comb(down, square)[0]
        # A multiple of the true size explains the same changes half as well; prefer a clear win.
        if score > best * 1.15:
            best, size = score, square
    if size == 0 or best < 0.2:
        return None
    x, y = _comb(across, size)[1] + 1, _comb(down, size)[1] + 1
    column = (np.arange(strip.shape[1]) - x) // size
    row = (np.arange(strip.shape[0]) - y) // size
    even = np.where((column[None, :] + row[:, None]) % 2 == 0, 1, -1)
    return size, x, y, bool((even * signs).sum() > 0)


def _comb(changes: NDArray[np.float64], period: int) -> tuple[float, int]:
    """Share of all changes that lie on the best comb of this period (a pixel either way), and its phase.

    Scored against what an even spread would give, so that large periods are not favoured by luck.
    """
    if len(changes) < 2 * period:
        return 0.0, 0
    whole = len(changes) // period * period
    folded = changes[:whole].reshape(-1, period).sum(axis=0)
    if folded.sum() == 0:
        return 0.0, 0
    if period > 3:
        wide = folded + (np.roll(folded, 1) + np.roll(folded, -1)) * 0.5
        teeth = 2.0
    else:
        wide, teeth = folded, 1.0
    phase = int(wide.argmax())
    # Every tooth of the true comb is full; on a multiple of it half of the changes are missed.
    share = float(wide[phase] / folded.sum())
    lines = changes[phase::period]
    filled = float(np.mean(lines > 0.25 * np.max(lines))) if len(lines) else 0.0
    return max(0.0, share - teeth / period) / max(1e-9, 1 - teeth / period) * filled, phase


def _from_corner(square: int, x: int, y: int, light_first: bool) -> tuple[int, int, int, bool]:
    """The same pattern named by its first corner inside one square of the picture's corner."""
    columns, rows = x // square, y // square
    return square, x - columns * square, y - rows * square, light_first ^ bool((columns + rows) % 2)


def _bands(height: int, width: int, depth: int) -> tuple[tuple[slice, slice], ...]:
    """Rows and columns of the four bands along a picture's edge."""
    return (
        (slice(0, depth), slice(0, width)),
        (slice(height - depth, height), slice(0, width)),
        (slice(0, height), slice(0, depth)),
        (slice(0, height), slice(width - depth, width)),
    )


def _agreement(
    rgb: NDArray[np.uint8], checker: Checker, dark: NDArray[np.float64], light: NDArray[np.float64]
) -> float:
    """Share of the edge band's grey pixels, away from the squares' seams, that are as the pattern says."""
    height, width = rgb.shape[:2]
    depth = max(6, min(checker.square_px, min(height, width) // 6))
    agree = known = total = 0
    for rows, columns in _bands(height, width, depth):
        signs = _signs(rgb[rows, columns], dark, light)
        inside = checker.inner(rows, columns)
        expected = checker.is_light(rows, columns).astype(np.int8) * 2 - 1
        total += int(inside.sum())
        known += int(((signs != 0) & inside).sum())
        agree += int(((signs == expected) & inside).sum())
    if known < LEAST_SHARE * total:
        return 0.0
    return agree / max(known, 1)


CLEAN_LEVELS, MOST_LEVELS = 3.0, 16.0
MOST_OF_CONTRAST = 0.42
"""Of the greys' contrast: a tolerance over half of it could not tell one square from the next."""


def levels_off(rgb: NDArray[np.uint8], checker: Checker) -> NDArray[np.uint8]:
    """Levels by which each pixel of (h, w, 3) differs from the pattern, in the channel that differs most.

    Beside a seam anything between the two greys is as the pattern says: that is what blur and JPEG make of it.
    """
    height, width = rgb.shape[:2]
    light = checker.is_light(slice(0, height), slice(0, width))
    kernel = np.ones((3, 3), np.uint8)
    low, high = (np.asarray(spread(light, kernel), np.uint8) for spread in (cv2.erode, cv2.dilate))
    worst = np.zeros((height, width), np.uint8)
    for channel, dark_level, light_level in zip(cv2.split(rgb), checker.dark, checker.light, strict=True):
        level = np.full(256, light_level, np.uint8)
        level[0] = dark_level
        under, over = cv2.subtract(cv2.LUT(low, level), channel), cv2.subtract(channel, cv2.LUT(high, level))
        worst = np.asarray(cv2.max(worst, cv2.max(under, over)), np.uint8)
    return worst


def measured_levels(off: NDArray[np.uint8], checker: Checker) -> tuple[float, float]:
    """Levels by which pixels within squares keep to the pattern along the picture's edge, with some room: for what is
    enclosed by art, and for what hangs together with the edge.

    Args:
        off: `levels_off` of the picture.
    """
    height, width = off.shape
    depth = max(6, min(2 * checker.square_px, min(height, width) // 6))
    along = [
        off[rows, columns][checker.inner(rows, columns)] for rows, columns in _bands(height, width, depth)
    ]
    near = np.concatenate([part[part <= MOST_OF_CONTRAST * checker.contrast] for part in along])
    spread = float(np.percentile(near, 95)) if len(near) else 0.0
    return min(CLEAN_LEVELS + 2 * spread, MOST_OF_CONTRAST * checker.contrast), min(
        CLEAN_LEVELS + 4 * spread, MOST_LEVELS
    )
