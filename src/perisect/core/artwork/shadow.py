"""The soft shadow that art throws on a plain ground: found, and what is behind it told from it.

A shadow is the ground made darker, by nearly the same share in every channel, and it fades out: it begins at the
ground without a step and has no edge of its own. Pale grey art begins with one.
"""

from dataclasses import dataclass
from math import ceil

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.flood import from_outside
from perisect.core.artwork.picture import least_of, mean_of, most_of

DARKEST = 0.25
"""What lets less of the ground through than this is not a shadow any more."""

MOST_TINT = 0.1
"""Channels may differ by this share: a shadow is seldom quite black."""

SAME_TINT = 0.04

STEEPEST = (0.015, 0.025, 0.035, 0.05, 0.07)
"""Share of the ground by which a shadow may change from one pixel to the next, tried one after the other."""

LEVEL = 0.004
WIDEST = 0.03
"""Of the picture's shorter side: half the width of the widest stretch of a shadow that does not change."""

SEEN_AT = 0.012
LEAST_AREA = 0.004
"""Of the art: less is a smudge, unless more of a shadow lies elsewhere."""

SMALLEST_PX = 40

EVENLY = 0.25
"""Over its first pixels a shadow deepens with each by at least this part of the most that one of them adds: the rims
and lines of pale art go in steps."""

DEEPENS = 0.004
FIRST_PX = 6

GOES_ON = 0.06
RIM_PX = 3
GAP_PX = 3
SLIVER_PX = 5.0
CRUMB_REACH_PX = 4
MOST_COVER = 0.48


@dataclass(frozen=True)
class Shadow:
    """1 where a shadow falls, and the share of the ground (h, w) that shows through everywhere.

    `tangled` is 1 where a shadow cannot be told from grey art that it lies against, and so is none of `mask`.
    """

    mask: NDArray[np.uint8]
    shine: NDArray[np.float32]
    tangled: NDArray[np.uint8]

    def enlarged(
        self, rgb: NDArray[np.uint8], behind: NDArray[np.float32], ground: NDArray[np.uint8]
    ) -> "Shadow":
        """The same at the size of the picture it was found on a small copy of, grown to the very edge of the art."""
        height, width = ground.shape
        if self.mask.shape == ground.shape:
            return self
        mask, shine = (
            np.asarray(
                cv2.resize(part.astype(np.float32), (width, height), interpolation=cv2.INTER_LINEAR),
                np.float32,
            )
            for part in (self.mask, self.shine)
        )
        reach = ceil(width / self.mask.shape[1])
        falls = ((mask > 0.5) & (ground == 0)).astype(np.uint8)
        falls = _to_the_art(falls, ground, shine, rgb.astype(np.float32) / behind, reach)
        return Shadow(falls, shine, falls * 0)


def find_shadow(
    rgb: NDArray[np.uint8], behind: NDArray[np.float32], ground: NDArray[np.uint8]
) -> Shadow | None:
    """The shadow on the ground of an (h, w, 3) picture, or None.

    Args:
        behind: colours of the ground, (3,) or (h, w, 3).
        ground: 1 where the ground lies bare.
    """
    if float(np.min(behind)) < 90:
        return None  # on a dark ground nothing darker can be told from it
    ratio = rgb.astype(np.float32) / behind
    shine = np.asarray(cv2.blur(mean_of(ratio), (3, 3), borderType=cv2.BORDER_REPLICATE), np.float32)
    tint = most_of(ratio) - least_of(ratio)
    dark = (shine > DARKEST) & (shine < 1 - SEEN_AT / 2) & (tint < MOST_TINT * (1.5 - shine) + 0.02)
    if np.count_nonzero(dark & (ground == 0)) < LEAST_AREA * np.count_nonzero(ground == 0):
        return None
    across, along = (cv2.Sobel(shine, cv2.CV_32F, dx, 1 - dx, ksize=1, scale=0.5) for dx in (1, 0))
    slope = np.asarray(cv2.magnitude(across, along), np.float32)
    reached, tangled = _reached(dark, slope, ground)
    mask = _fading(reached, shine, ground)
    tangled = _fading(tangled, shine, ground)
    if not (mask.any() or tangled.any()):
        return None
    if mask.any():
        own = _of_one_tint(mask, ratio, shine)
        mask = mask & own
        mask |= _slivers(dark & (slope < STEEPEST[-1]) & (own > 0), mask | ground)
        mask = _to_the_art(mask, ground | (1 - own), shine, ratio)
    return Shadow(mask, shine, tangled & (1 - mask))


def _slivers(like: NDArray[np.bool_], reached: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Narrow parts of a shadow that was found, where it hardly looks out from behind the art: 1 or 0."""
    further = from_outside(like | (reached > 0)) & (1 - reached)
    count, labels = cv2.connectedComponents(further, connectivity=8)
    inside = np.asarray(cv2.distanceTransform(further, cv2.DIST_L2, 3))
    half = np.zeros(count, np.float32)
    np.maximum.at(half, np.asarray(labels, np.int32).ravel(), inside.ravel())
    return np.asarray((half <= SLIVER_PX)[np.asarray(labels)] & (further > 0), np.uint8)


def _of_one_tint(
    mask: NDArray[np.uint8], ratio: NDArray[np.float32], shine: NDArray[np.float32]
) -> NDArray[np.uint8]:
    """1 where a pixel is darkened in the same proportion of its channels as most of a shadow is."""
    at = np.flatnonzero(mask.ravel())
    at = at[:: max(1, len(at) // 20_000)]
    depth = (1 - shine).ravel()[at, None]
    tint = np.median((1 - ratio.reshape(-1, 3)[at]) / np.maximum(depth, SEEN_AT), axis=0)
    off = np.abs((1 - ratio) - (1 - mean_of(ratio))[..., None] * tint.astype(np.float32))
    return (most_of(off) < SAME_TINT).astype(np.uint8)


def _reached(
    dark: NDArray[np.bool_], slope: NDArray[np.float32], ground: NDArray[np.uint8]
) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """What can be reached from the ground without a step, 1 or 0; and what ran in among grey art.

    The steeper a slope may be, the sharper the shadows that are followed to their end, until one runs in among grey
    art, which shows by how wide a level stretch it finds there.
    """
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * GAP_PX + 1,) * 2)
    reached, plateau = np.zeros_like(ground), max(4.0, WIDEST * min(ground.shape))
    for steepest in STEEPEST:
        free = ((dark & (slope < steepest)) | (ground > 0)).astype(np.uint8)
        # Where grey art is as dark as the shadow beside it there is no edge for a few pixels: not through these.
        wide = from_outside(np.asarray(cv2.erode(free, kernel, borderValue=1), np.uint8))
        further = np.asarray(cv2.dilate(wide, kernel), np.uint8) & free & (1 - ground)
        level = further & (1 - reached) & (slope < LEVEL)
        if cv2.countNonZero(level) and float(np.max(cv2.distanceTransform(level, cv2.DIST_L2, 3))) > plateau:
            return reached, further
        reached = further
    return reached, np.zeros_like(ground)


def _fading(
    reached: NDArray[np.uint8], shine: NDArray[np.float32], ground: NDArray[np.uint8]
) -> NDArray[np.uint8]:
    """The parts of what was reached that deepen gradually from the ground inwards: small ones beside a large one."""
    least = LEAST_AREA * int(ground.size - ground.sum())
    if cv2.countNonZero(reached) < least:
        return reached * np.uint8(0)
    _, found, stats, _ = cv2.connectedComponentsWithStats(reached, connectivity=8)
    labels, area = np.asarray(found, np.int32), np.asarray(stats)[:, cv2.CC_STAT_AREA]
    # Without any ground in the picture everything is endlessly far from it.
    inwards = np.minimum(cv2.distanceTransform(1 - ground, cv2.DIST_L2, 5), 2 * FIRST_PX)
    keep = np.zeros(len(area), bool)
    for number in 1 + np.flatnonzero(area[1:] >= min(least, SMALLEST_PX)):
        left, top, width, height = (int(n) for n in stats[number, :4])
        window = (slice(top, top + height), slice(left, left + width))
        here = labels[window] == number
        keep[number] = _deepens(1 - shine[window][here], inwards[window][here].round().astype(int))
    if not (keep & (area > least)).any():
        keep[:] = False
    return np.asarray(keep[labels], np.uint8)


def _deepens(depth: NDArray[np.float32], inwards: NDArray[np.int_]) -> bool:
    """Whether (n,) depths grow evenly one pixel from where the ground ends, two, …"""
    profile = np.array(
        [np.median(depth[inwards == n]) for n in range(1, FIRST_PX + 1) if np.any(inwards == n)]
    )
    steps = np.diff(profile)
    return len(steps) == FIRST_PX - 1 and bool(steps.min() > max(EVENLY * steps.max(), DEEPENS / 2))


def _to_the_art(
    mask: NDArray[np.uint8],
    ground: NDArray[np.uint8],
    shine: NDArray[np.float32],
    ratio: NDArray[np.float32],
    coarse: int = 1,
) -> NDArray[np.uint8]:
    """Grown over the last pixels before the art, which its edge hid, as far as they go on as the shadow does.

    Args:
        coarse: pixels by which the mask may be off, more than one where it was found on a small copy.
    """
    local = through(mask, shine, coarse)
    alike = ((most_of(np.abs(ratio - local[..., None])) < GOES_ON) & (ground == 0)).astype(np.uint8)
    grown = mask if coarse == 1 else mask & alike
    for _ in range(RIM_PX * coarse):
        grown = np.asarray(cv2.dilate(grown, np.ones((3, 3), np.uint8)), np.uint8) & (alike | grown)
    return np.asarray(grown, np.uint8)


def without_crumbs(gone: NDArray[np.uint8], shadow: Shadow) -> NDArray[np.uint8]:
    """What is gone, and crumbs of the shadow that stood alone in it: 1 or 0."""
    count, found, stats, _ = cv2.connectedComponentsWithStats(1 - gone, connectivity=8)
    area = np.asarray(stats)[:, cv2.CC_STAT_AREA]
    near = np.asarray(cv2.dilate(shadow.mask, np.ones((2 * CRUMB_REACH_PX + 1,) * 2, np.uint8)))
    within = np.bincount(np.asarray(found).ravel(), weights=near.ravel(), minlength=count)
    crumbs = (area < LEAST_AREA / 2 * (gone.size - gone.sum())) & (within > 0.9 * area)
    crumbs[0] = False
    return np.asarray(gone | crumbs[np.asarray(found)], np.uint8)


def through(mask: NDArray[np.uint8], shine: NDArray[np.float32], coarse: int = 1) -> NDArray[np.float32]:
    """(h, w) share of the ground that shows through: in and close by a shadow its own, elsewhere that of the nearest
    parts of it, fading to 1 where none is near."""
    window = (4 * RIM_PX * coarse + 1,) * 2
    weight = cv2.boxFilter(mask.astype(np.float32), -1, window, normalize=False)
    total = cv2.boxFilter(shine * mask, -1, window, normalize=False)
    near = np.where(weight > 0, total / np.maximum(weight, 1), 1)
    return np.where(mask > 0, shine, near).astype(np.float32)


def with_shadow(rgba: NDArray[np.uint8], shadow: Shadow, behind: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Art with its shadow under it as transparency: just under half covered at most, so that the outline, which runs
    at half, goes round the art alone."""
    # On to the art over the rim that parted them.
    kernel = np.ones((2 * CRUMB_REACH_PX + 1,) * 2, np.uint8)
    art = cv2.dilate((rgba[..., 3] > 127).astype(np.uint8), kernel)
    whole = cv2.morphologyEx(shadow.mask, cv2.MORPH_CLOSE, kernel)
    falls = np.asarray(cv2.max(whole, cv2.min(cv2.dilate(shadow.mask, kernel), art)), np.uint8)
    shine = through(shadow.mask, shadow.shine)
    cover = np.where(falls > 0, np.clip(1 - shine, 0, MOST_COVER), 0).astype(np.float32)
    # What is darker than that much black makes it is put right by the colour under it, which black cannot be.
    shade = behind * (shine[..., None] - (1 - cover[..., None])) / np.maximum(cover[..., None], 1e-6)
    own = rgba[..., 3:].astype(np.float32) / 255
    total = own + cover[..., None] * (1 - own)
    mixed = rgba[..., :3] * own + shade.clip(0, 255) * cover[..., None] * (1 - own)
    colour = mixed / np.maximum(total, 1e-6)
    out = np.concatenate([colour, total * 255], axis=2).round().clip(0, 255).astype(np.uint8)
    return np.where((cover[..., None] > 0) & (rgba[..., 3:] < 255), out, rgba)
