"""Bleed: the art's edge colours carried outward, so that a slipped cut shows colour and not paper."""

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.picture import alpha_of

SOLID = 128
OPAQUE = np.uint32(0xFF000000)

WAYS = [(swapped, *way) for way in ((1, 1), (1, -1), (-1, 1), (-1, -1)) for swapped in (False, True)]
"""Which side of a step lies along the slope, and whether each goes with it: the likeliest first."""

AT_ONCE = 1 << 18
"""So many places are looked for at once: what is known of each takes some hundred bytes."""

Indices = NDArray[np.intp]


def bleed_under(rgba: NDArray[np.uint8], distance_px: float) -> tuple[NDArray[np.uint8], int]:
    """What is printed under the art: every pixel within a distance of it in the colour of the nearest art.

    The art itself is printed over it and not touched. Its half-clear rim gets solid colour below, so that
    no paper shines through.

    Args:
        rgba: (h, w, 4).

    Returns:
        (h + 2 p, w + 2 p, 4) and p, the pixels added on every side.
    """
    pad = int(np.ceil(distance_px)) + 1
    art = cv2.copyMakeBorder(rgba, pad, pad, pad, pad, cv2.BORDER_CONSTANT, value=(0, 0, 0, 0))
    alpha = alpha_of(np.asarray(art, np.uint8))
    beside = np.asarray(cv2.threshold(alpha, SOLID - 1, 1, cv2.THRESH_BINARY_INV)[1], np.uint8)
    art_mask = np.asarray(1 - beside, np.uint8)
    away = np.asarray(cv2.distanceTransform(beside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE), np.float32)
    within = np.asarray(cv2.inRange(away, 0.5, float(distance_px)), np.uint8) & np.uint8(1)
    zone = np.flatnonzero(within.view(bool))
    # Four bytes at a time: a pixel is one number, its alpha the last byte.
    colours = np.ascontiguousarray(art).reshape(-1, 4).view("<u4").ravel()
    solid = cv2.copyTo(art, art_mask)
    cv2.insertChannel(art_mask * np.uint8(255), solid, 3)
    out = np.ascontiguousarray(solid).reshape(-1, 4).view("<u4").ravel()
    steps = _steps(distance_px)
    for begin in range(0, len(zone), AT_ONCE):
        part = zone[begin : begin + AT_ONCE]
        out[part] = colours[_nearest(art_mask.ravel(), away, part, steps)] | OPAQUE
    return out.view(np.uint8).reshape(*beside.shape, 4), pad


def _nearest(
    art_mask: NDArray[np.uint8],
    away: NDArray[np.float32],
    zone: Indices,
    steps: tuple[Indices, Indices, Indices],
) -> Indices:
    """(n,) the nearest art of each place, in a picture with more room round its art than any of them is away.

    The square of a distance is a whole number, and few steps of whole pixels are so long: one whose end is art leads to
    the nearest. The slope of the distance tells which way to look first.

    Args:
        art_mask: (h * w,) 1 where there is art.
        away: (h, w) distance from the art, exact but for rounding.
        zone: (n,) indices into `art_mask`.
        steps: those of `_steps`.
    """
    width, flat = away.shape[1], away.ravel()
    square = np.rint(np.square(flat[zone])).astype(np.intp)
    first, longer, shorter = steps
    across, down = flat[zone + 1] - flat[zone - 1], flat[zone + width] - flat[zone - width]
    steep = np.abs(down) > np.abs(across)
    aside = np.where(across > 0, -1, 1)
    along = np.where(down > 0, -width, width)
    # What a pixel of the longer side of a step is worth as an index, and one of the shorter side.
    sides = np.where(steep, along, aside), np.where(steep, aside, along)
    found: Indices = np.full_like(zone, -1)
    left = np.arange(len(zone))
    for swapped, one_way, other_way in WAYS:
        worth = [each[left] for each in (sides[::-1] if swapped else sides)]
        trying, at, end, here = left, first[square[left]], first[square[left] + 1], zone[left]
        while trying.size:
            # A step beyond the picture's edge ends in the empty room on its other side.
            there = here + one_way * longer[at] * worth[0] + other_way * shorter[at] * worth[1]
            hit = np.take(art_mask, there, mode="clip") > 0
            found[trying[hit]] = there[hit]
            at += 1
            on = np.flatnonzero(~hit & (at < end))
            trying, at, end, here, *worth = (each[on] for each in (trying, at, end, here, *worth))
        left = np.flatnonzero(found < 0)
        if not left.size:
            break
    return found


def _steps(longest_px: float) -> tuple[Indices, Indices, Indices]:
    """All steps by the square of their length: those of n stand from first[n] to first[n + 1] among the longer sides
    and the shorter ones."""
    longer, shorter = np.tril_indices(int(longest_px) + 2)
    square = longer * longer + shorter * shorter
    order = np.argsort(square, kind="stable")
    first = np.searchsorted(square[order], np.arange(int(longest_px**2) + 2))
    return first, longer[order], shorter[order]
