"""Take a plain or painted background away: flood from the edge, then unmix the rim.

A pixel of the rim is a mixture of the art beside it and the background behind it. With both known, how
much of it is art follows by projection (the two-colour case of Porter and Duff's "over", solved for
alpha), and its colour becomes the art's own, so that no rim of the old background is left.
"""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.background import lab_of
from perisect.core.artwork.checker import Checker, like_pattern

RIM_REACH_PX = 2

HAZE = 0.04
"""Less of the art than this is noise."""
SAME_AS_BACKGROUND = 18.0
"""Art nearer to the background than this (levels, root of squares) cannot be unmixed: it is solid."""


@dataclass(frozen=True)
class Island:
    """A patch of background colour enclosed by art: area, a place in it, and how wide it is at most."""

    area_px: int
    x_px: int
    y_px: int
    width_px: float


@dataclass(frozen=True)
class Removed:
    """The picture with its background gone, and the islands that were kept or could be."""

    rgba: NDArray[np.uint8]
    islands: tuple[Island, ...]


LEAST_ISLAND_PX = 24


def remove_plain(
    rgba: NDArray[np.uint8],
    colour: tuple[int, int, int],
    tolerance: float,
    knock_out: tuple[tuple[int, int], ...] = (),
) -> Removed:
    """Flood one colour from the picture's edge.

    Args:
        rgba: (h, w, 4), solid.
        colour: red, green, blue of the background.
        tolerance: CIELAB distance up to which a pixel is background.
        knock_out: a place in each enclosed island that is to go too.
    """
    ground, islands, _ = _flood(_like_colour(rgba, colour, tolerance), knock_out)
    return Removed(_unmix(rgba, ground, lambda _: np.array(colour, np.float32)), islands)


def _like_colour(
    rgba: NDArray[np.uint8], colour: tuple[int, int, int], tolerance: float
) -> NDArray[np.uint8]:
    """1 where a pixel is within a CIELAB distance of a colour, else 0."""
    rgb = np.ascontiguousarray(rgba[..., :3])
    # Most pixels are the colour itself; only the others are worth converting.
    near = np.array(colour, int)
    same = np.asarray(cv2.inRange(rgb, (near - 1).clip(0), (near + 1).clip(0, 255)))
    like = (same > 0).astype(np.uint8)
    rest = np.flatnonzero(same.ravel() == 0)
    lab = lab_of(rgb.reshape(-1, 3)[rest]) - lab_of(np.array([colour], np.uint8))
    like.ravel()[rest] = np.einsum("ij,ij->i", lab, lab) <= tolerance**2
    return like


def remove_checker(
    rgba: NDArray[np.uint8],
    checker: Checker,
    tolerance: float,
    knock_out: tuple[tuple[int, int], ...] = (),
    keep: tuple[tuple[int, int], ...] = (),
) -> Removed:
    """Take a painted checkerboard away, also where art encloses it: nothing else is made of such squares.

    Args:
        tolerance: levels of 255 by which a pixel may differ from the pattern.
        knock_out: a place in each enclosed island that is to go although it may be white art.
        keep: a place in each enclosed island that is to stay although it looks like the pattern.
    """
    height, width = rgba.shape[:2]
    like = like_pattern(np.ascontiguousarray(rgba[..., :3]), checker, round(tolerance))
    # One stray pixel between two squares must not stop the flood.
    like = np.asarray(cv2.morphologyEx(like, cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8)), np.uint8)
    ground, islands, labels = _flood(like, knock_out)
    count = int(labels.max()) + 1
    if count > 1:
        # A patch of the pattern shows both greys where they should be; one that lies within a single
        # square tells itself from white art only on the dark grey.
        light = checker.is_light(slice(0, height), slice(0, width))
        area = np.bincount(labels.ravel(), minlength=count)
        on_light = np.bincount(labels.ravel(), weights=light.ravel(), minlength=count)
        out = (area - on_light > 0.12 * area) & (area > LEAST_ISLAND_PX)
        out[0] = False
        for x, y in keep:
            if 0 <= x < width and 0 <= y < height:
                out[labels[y, x]] = False
        ground |= out[labels].astype(np.uint8)
    greys = np.array([checker.dark, checker.light], np.float32)

    def behind(where: NDArray[np.int64]) -> NDArray[np.float32]:
        y, x = np.divmod(where, width)
        column, row = (x - checker.left_px) // checker.square_px, (y - checker.top_px) // checker.square_px
        return greys[((column + row + (not checker.light_first)) % 2 == 0).astype(int)]

    return Removed(_unmix(rgba, ground, behind), islands)


def _flood(
    like: NDArray[np.uint8], knock_out: tuple[tuple[int, int], ...]
) -> tuple[NDArray[np.uint8], tuple[Island, ...], NDArray[np.int32]]:
    """Background: what is like it and hangs together with the edge; the islands that do not; all labels."""
    height, width = like.shape
    count, found, described, _ = cv2.connectedComponentsWithStats(like, connectivity=4)
    labels, stats = np.asarray(found, np.int32), np.asarray(described, np.int32)
    edge = np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]])
    out = np.zeros(count, bool)
    out[np.unique(edge)] = True
    out[0] = False
    named = np.flatnonzero(~out & (stats[:, cv2.CC_STAT_AREA] >= LEAST_ISLAND_PX))
    islands = [_island(labels, stats, int(n)) for n in named[named > 0]]
    for x, y in knock_out:
        if 0 <= x < width and 0 <= y < height and labels[y, x] > 0:
            out[labels[y, x]] = True
    return out[labels].astype(np.uint8), tuple(sorted(islands, key=lambda i: -i.area_px)[:40]), labels


def _island(labels: NDArray[np.int32], stats: NDArray[np.int32], number: int) -> Island:
    left, top, width, height, area = (int(n) for n in stats[number])
    patch = np.pad((labels[top : top + height, left : left + width] == number).astype(np.uint8), 1)
    depth = cv2.distanceTransform(patch, cv2.DIST_L2, 3)
    _, most, _, (x, y) = cv2.minMaxLoc(depth)
    return Island(area, left + x - 1, top + y - 1, 2 * float(most))


def _unmix(
    rgba: NDArray[np.uint8],
    ground: NDArray[np.uint8],
    behind: Callable[[NDArray[np.int64]], NDArray[np.float32]],
) -> NDArray[np.uint8]:
    """Alpha and own colours along the rim of `ground`; the rest of the art is left as it is.

    Args:
        behind: background colours (n, 3), or one for all (3,), at flat pixel indices.
    """
    height, width = ground.shape
    out = rgba.copy()
    out[..., 3] = (1 - ground) * np.uint8(255)
    kernel = np.ones((2 * RIM_REACH_PX + 1,) * 2, np.uint8)
    near = np.asarray(cv2.dilate(ground, kernel), np.uint8)
    core = (1 - near).ravel().astype(bool)
    # The palest pixels of an edge were flooded with the background: they get their share back.
    outside = np.asarray(cv2.dilate(1 - ground, np.ones((3, 3), np.uint8)), np.uint8) & ground
    rim = np.flatnonzero((near & (1 - ground) | outside).ravel())
    if len(rim) == 0:
        return out
    colours = rgba.reshape(-1, 4)
    mixed, base = colours[rim, :3].astype(np.float32), np.broadcast_to(behind(rim), (len(rim), 3))
    own, found = _own_colours(rim, core, ground.ravel() == 0, colours, base, (height, width))
    span = np.einsum("ij,ij->i", own - base, own - base)
    part = np.einsum("ij,ij->i", mixed - base, own - base) / np.maximum(span, 1)
    part = np.where(part < HAZE, 0, np.clip(part, 0, 1))
    part = np.where((span < SAME_AS_BACKGROUND**2) | ~found, ground.ravel()[rim] == 0, part)
    fixed = np.where(part[:, None] < 0.985, own, mixed)
    out.reshape(-1, 4)[rim] = np.column_stack([fixed, part * 255]).round().astype(np.uint8)
    return out


def _own_colours(
    rim: NDArray[np.int64],
    core: NDArray[np.bool_],
    solid: NDArray[np.bool_],
    colours: NDArray[np.uint8],
    base: NDArray[np.float32],
    size: tuple[int, int],
) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
    """Colour of the nearest core pixel of each rim pixel; where a line is too thin to have a core, of
    the pixel nearby that is furthest from the background. (n, 3), and whether one was found."""
    height, width = size
    y, x = np.divmod(rim, width)
    reach = RIM_REACH_PX + 2
    steps = np.arange(-reach, reach + 1)
    offsets = sorted((dx * dx + dy * dy, dy, dx) for dy in steps for dx in steps)
    own = colours[rim, :3].astype(np.float32)
    found = np.zeros(len(rim), bool)
    furthest = np.zeros(len(rim), np.float32)
    peak = own.copy()
    for _, dy, dx in offsets:
        left = np.flatnonzero(~found)
        if len(left) == 0:
            break
        at = np.clip(y[left] + dy, 0, height - 1) * width + np.clip(x[left] + dx, 0, width - 1)
        there = colours[at, :3].astype(np.float32)
        hit = core[at]
        own[left[hit]], found[left[hit]] = there[hit], True
        if max(abs(dx), abs(dy)) <= 2:
            apart = np.abs(there - base[left]).sum(axis=1) * solid[at]
            better = apart > furthest[left]
            furthest[left[better]], peak[left[better]] = apart[better], there[better]
    thin = ~found & (furthest > 0)
    own[thin] = peak[thin]
    return own, found | thin
