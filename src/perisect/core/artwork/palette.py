"""The colours of a flat picture by area, and the same picture in others."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.cielab import lab_of
from perisect.core.artwork.colour import levels
from perisect.core.artwork.recipe import RecolourRecipe

APART = 11.0
"""Colours nearer than this (CIELAB) are shades of one."""
MOST_COLOURS = 24
GRAIN = 2.5
"""What is nearer to a colour is that colour, where shares are told."""
LEAST_SHARE = 0.002
RIM_SHARE, RIM_LEVELS = 0.02, 12.0
"""Less of a colour, so near the mixture of two larger ones, is their rim."""
COARSE_BITS = 3
"""Levels are told apart in steps of eight when colours are counted."""

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Swatch:
    """A colour as #rrggbb, and its share of what is covered."""

    colour: str
    share: float


def palette_of(rgba: NDArray[np.uint8]) -> list[Swatch]:
    """The colours of an (h, w, 4) picture, the largest first; shades of one are told as that one."""
    shown = rgba[rgba[..., 3] > 127][:, :3]
    if len(shown) == 0:
        return []
    packed = (shown >> COARSE_BITS).astype(np.int32) @ np.array([1 << 10, 1 << 5, 1])
    codes, _, counts = np.unique(packed, return_index=True, return_counts=True)
    sums = np.stack(
        [np.bincount(np.searchsorted(codes, packed), weights=shown[:, c]) for c in range(3)], axis=1
    )
    means = sums / counts[:, None]
    order = np.argsort(-counts)[:4000]
    lab = lab_of(means[order].astype(np.float32))
    heads: list[int] = []
    total: list[int] = []
    for n in range(len(order)):
        if heads:
            away = np.sqrt(((lab[heads] - lab[n]) ** 2).sum(axis=1))
            nearest = int(away.argmin())
            if away[nearest] < APART or len(heads) >= MOST_COLOURS:
                total[nearest] += int(counts[order[n]])
                continue
        heads.append(n)
        total.append(int(counts[order[n]]))
    found = sorted(zip(heads, total, strict=True), key=lambda each: -each[1])
    told: list[tuple[NDArray[np.float64], float]] = []
    for head, n in found:
        colour, share = means[order[head]], n / len(shown)
        if share >= RIM_SHARE or not _lies_between(colour, [larger for larger, _ in told]):
            told.append((colour, share))
    return [
        Swatch("#{:02x}{:02x}{:02x}".format(*(round(float(c)) for c in colour)), share)
        for colour, share in told
        if share >= LEAST_SHARE
    ]


def _lies_between(colour: Floats, larger: list[Floats]) -> bool:
    """Whether a colour is what two larger ones give where they meet."""
    for n, one in enumerate(larger):
        for other in larger[n + 1 :]:
            way = other - one
            share = float(np.clip((colour - one) @ way / max(float(way @ way), 1e-9), 0, 1))
            if float(np.abs(colour - one - share * way).max()) < RIM_LEVELS:
                return True
    return False


def recoloured(rgba: NDArray[np.uint8], recipe: RecolourRecipe) -> NDArray[np.uint8]:
    """An (h, w, 4) picture in other colours; its coverage stays, but for a form in one colour.

    Every colour of the picture lies between two of its palette: what those become, it becomes in the same share, and
    the difference that is left stays as its shade.
    """
    if recipe.form == "inverted":
        return np.dstack([255 - rgba[..., :3], rgba[..., 3]])
    if recipe.form == "one":
        light = lab_of(rgba[..., :3])[..., 0] / 100
        ink = np.clip((recipe.light - light) / max(recipe.light, 1e-3) * 4, 0, 1)
        alpha = np.round(rgba[..., 3] * ink).astype(np.uint8)
        flat = np.broadcast_to(np.array(levels(recipe.colour), np.uint8), rgba.shape[:2] + (3,))
        return np.dstack([flat, alpha])
    swatches = [each.colour for each in palette_of(rgba)]
    if not swatches:
        return rgba
    before = np.array([levels(colour) for colour in swatches], float)
    after = _after(before, recipe)
    flat_rgb = rgba[..., :3].reshape(-1, 3)
    packed = flat_rgb.astype(np.int32) @ np.array([1 << 16, 1 << 8, 1])
    codes, back = np.unique(packed, return_inverse=True)
    colours = np.stack([codes >> 16 & 255, codes >> 8 & 255, codes & 255], axis=1).astype(float)
    new = _mapped(colours, before, after)
    out = np.clip(np.round(new), 0, 255).astype(np.uint8)[back.ravel()].reshape(rgba.shape[:2] + (3,))
    return np.dstack([out, rgba[..., 3]])


def _after(before: Floats, recipe: RecolourRecipe) -> Floats:
    """What each colour of the palette becomes."""
    after = before.copy()
    lab = lab_of(before.astype(np.float32))
    if recipe.most is not None and recipe.most < len(before):
        kept = lab[: recipe.most]
        away = np.sqrt(((lab[:, None] - kept[None]) ** 2).sum(axis=2))
        after = before[away.argmin(axis=1)]
    for exchange in recipe.exchanges:
        wanted = lab_of(np.array([levels(exchange.old)], np.float32))
        nearest = int(np.sqrt(((lab - wanted) ** 2).sum(axis=1)).argmin())
        after[nearest] = levels(exchange.new)
    return after


def shares_of(rgba: NDArray[np.uint8], palette: Floats) -> NDArray[np.float32]:
    """(h, w, k) share of each of (k, 3) colours in every pixel of an (h, w, 4) picture: two at most share one."""
    packed = rgba[..., :3].reshape(-1, 3).astype(np.int32) @ np.array([1 << 16, 1 << 8, 1])
    codes, back = np.unique(packed, return_inverse=True)
    colours = np.stack([codes >> 16 & 255, codes >> 8 & 255, codes & 255], axis=1).astype(float)
    first, second, share = _mixed(colours, palette, GRAIN)
    found = np.zeros((len(codes), len(palette)), np.float32)
    rows = np.arange(len(codes))
    found[rows, first] += (1 - share).astype(np.float32)
    found[rows, second] += share.astype(np.float32)
    return found[back.ravel()].reshape(*rgba.shape[:2], len(palette))


def _mapped(colours: Floats, before: Floats, after: Floats) -> Floats:
    """(n, 3) colours, each as a mixture of the two of the palette it lies nearest between, in other colours."""
    first, second, shares = _mixed(colours, before, APART)
    share = shares[:, None]
    mixed_before = (1 - share) * before[first] + share * before[second]
    mixed_after = (1 - share) * after[first] + share * after[second]
    return np.asarray(colours - mixed_before + mixed_after)


def _mixed(colours: Floats, before: Floats, near: float) -> tuple[NDArray[np.intp], NDArray[np.intp], Floats]:
    """Which two of the palette (n, 3) colours are mixed of, and the share of the second, half of it at most; what is
    nearer to one than `near` (CIELAB) is that one."""
    lab, palette = lab_of(colours.astype(np.float32)), lab_of(before.astype(np.float32))
    away = ((lab[:, None] - palette[None]) ** 2).sum(axis=2)
    first = away.argmin(axis=1)
    best_share, best_second, best_off = np.zeros(len(colours)), first.copy(), np.full(len(colours), np.inf)
    # The second is the one towards which it goes from the first.
    for second in range(len(before)):
        way = before[second] - before[first]
        length = (way**2).sum(axis=1)
        share = np.clip(((colours - before[first]) * way).sum(axis=1) / np.maximum(length, 1e-9), 0, 0.5)
        off = ((colours - before[first] - share[:, None] * way) ** 2).sum(axis=1)
        better = (off < best_off - 1e-9) & (length > 0)
        best_share[better], best_second[better], best_off[better] = share[better], second, off[better]
    # What is near a colour is a shade of it, whatever else it might be mixed of.
    best_share[np.sqrt(away[np.arange(len(first)), first]) < near] = 0.0
    return first, best_second, best_share
