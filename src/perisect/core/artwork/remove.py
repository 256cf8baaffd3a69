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
from perisect.core.artwork.picture import rgb_of

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
MOST_ISLANDS = 40


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
    flooded = _flood(_like_colour(rgba, colour, tolerance), knock_out)
    return Removed(_unmix(rgba, flooded.ground, lambda _: np.array(colour, np.float32)), flooded.islands)


def remove_picked(
    rgba: NDArray[np.uint8], places: tuple[tuple[int, int], ...], tolerance: float
) -> NDArray[np.uint8]:
    """Take away the colour at each of some places as far as it hangs together.

    The colour is the median of the nine pixels about the place, so that one grain of noise is not taken
    for it. A place outside the picture or on a clear pixel takes nothing.
    """
    height, width = rgba.shape[:2]
    for x, y in places:
        if x >= width or y >= height or rgba[y, x, 3] < 128:
            continue
        about = rgba[max(0, y - 1) : y + 2, max(0, x - 1) : x + 2, :3].reshape(-1, 3)
        median = np.median(about, axis=0)
        colour = (int(median[0]), int(median[1]), int(median[2]))
        like = _like_colour(rgba, colour, tolerance) & (rgba[..., 3] > 0)
        if not like[y, x]:
            continue
        labels = np.asarray(cv2.connectedComponents(like, connectivity=4)[1], np.int32)
        ground = (labels == labels[y, x]).astype(np.uint8)
        behind = np.array(colour, np.float32)
        rgba = _unmix(rgba, ground, lambda _, behind=behind: behind)  # type: ignore[misc]
    return rgba


def _like_colour(
    rgba: NDArray[np.uint8], colour: tuple[int, int, int], tolerance: float
) -> NDArray[np.uint8]:
    """1 where a pixel is within a CIELAB distance of a colour, else 0."""
    rgb = rgb_of(rgba)
    near = np.array(colour, int)
    same = np.asarray(cv2.inRange(rgb, (near - 1).clip(0), (near + 1).clip(0, 255)))
    like = (same > 0).astype(np.uint8)
    # A box about the colour holds the ball; only what it holds beside the colour itself is measured.
    ball = (
        np.asarray(cv2.cvtColor(np.array([[colour]], np.uint8), cv2.COLOR_RGB2LAB)).reshape(3).astype(float)
    )
    reach = np.array([tolerance * 255 / 100, tolerance, tolerance])
    box = cv2.inRange(
        cv2.cvtColor(rgb, cv2.COLOR_RGB2LAB), (ball - reach).clip(0), (ball + reach).clip(0, 255)
    )
    maybe = np.flatnonzero((np.asarray(box) > same).ravel())
    if len(maybe) == 0:
        return like
    lab = lab_of(rgb.reshape(-1, 3)[maybe]) - lab_of(np.array([colour], np.uint8))
    like.ravel()[maybe] = np.einsum("ij,ij->i", lab, lab) <= tolerance**2
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
    width = rgba.shape[1]
    like = like_pattern(rgb_of(rgba), checker, round(tolerance))
    # One stray pixel between two squares must not stop the flood.
    like = np.asarray(cv2.morphologyEx(like, cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8)), np.uint8)
    flooded = _flood(like, knock_out)
    ground, labels = flooded.ground, flooded.labels
    if len(flooded.area) > 1:
        # A patch of the pattern shows both greys where they should be; one that lies within a single
        # square tells itself from white art only on the dark grey.
        light = checker.is_light(*flooded.window)
        on_light = np.bincount(labels.ravel(), weights=light.ravel(), minlength=len(flooded.area))
        out = (flooded.area - on_light > 0.12 * flooded.area) & (flooded.area > LEAST_ISLAND_PX)
        out[0] = False
        out[flooded.at(keep)] = False
        ground[flooded.window] |= out[labels].astype(np.uint8)
    greys = np.array([checker.dark, checker.light], np.float32)

    def behind(where: NDArray[np.int64]) -> NDArray[np.float32]:
        y, x = np.divmod(where, width)
        column, row = (x - checker.left_px) // checker.square_px, (y - checker.top_px) // checker.square_px
        return greys[((column + row + (not checker.light_first)) % 2 == 0).astype(int)]

    return Removed(_unmix(rgba, ground, behind), flooded.islands)


@dataclass(frozen=True)
class _Flooded:
    """Background that hangs together with the picture's edge, and the enclosed patches that are like it.

    `labels` numbers the patches in a window of the picture, `area` counts their pixels by number.
    """

    ground: NDArray[np.uint8]
    labels: NDArray[np.int32]
    window: tuple[slice, slice]
    area: NDArray[np.int64]
    islands: tuple[Island, ...]

    def at(self, places: tuple[tuple[int, int], ...]) -> list[int]:
        """Numbers of the patches at some places."""
        rows, columns = self.window
        inside = [(x, y) for x, y in places if x in _range(columns) and y in _range(rows)]
        numbers = [int(self.labels[y - rows.start, x - columns.start]) for x, y in inside]
        return [number for number in numbers if number > 0]


def _range(part: slice) -> range:
    return range(part.start, part.stop)


def _flood(like: NDArray[np.uint8], knock_out: tuple[tuple[int, int], ...]) -> _Flooded:
    """Flood what is like the background from beyond the edge, and out of the patches at some places."""
    around = cv2.copyMakeBorder(like, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=1)
    cv2.floodFill(around, None, (0, 0), 2, flags=4)
    ground = np.ascontiguousarray(np.asarray(around, np.uint8)[1:-1, 1:-1] >> 1)
    enclosed = like & ~ground
    left, top, width, height = cv2.boundingRect(enclosed)
    window = (slice(top, top + height), slice(left, left + width))
    if width == 0:
        return _Flooded(ground, np.zeros((0, 0), np.int32), window, np.zeros(1, np.int64), ())
    _, found, described, _ = cv2.connectedComponentsWithStats(enclosed[window], connectivity=4)
    labels, stats = np.asarray(found, np.int32), np.asarray(described, np.int32)
    area = stats[:, cv2.CC_STAT_AREA].astype(np.int64)
    named = np.flatnonzero(area >= LEAST_ISLAND_PX)
    largest = sorted((int(n) for n in named[named > 0]), key=lambda n: -area[n])[:MOST_ISLANDS]
    islands = tuple(_island(labels, stats, n, left, top) for n in largest)
    flooded = _Flooded(ground, labels, window, area, islands)
    out = np.zeros(len(area), bool)
    out[flooded.at(knock_out)] = True
    if out.any():
        ground[window] |= out[labels].astype(np.uint8)
    return flooded


def _island(labels: NDArray[np.int32], stats: NDArray[np.int32], number: int, x0: int, y0: int) -> Island:
    left, top, width, height, area = (int(n) for n in stats[number])
    patch = np.pad((labels[top : top + height, left : left + width] == number).astype(np.uint8), 1)
    depth = cv2.distanceTransform(patch, cv2.DIST_L2, 3)
    _, most, _, (x, y) = cv2.minMaxLoc(depth)
    return Island(area, x0 + left + x - 1, y0 + top + y - 1, 2 * float(most))


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
    out[..., 3] *= 1 - ground
    kernel = np.ones((2 * RIM_REACH_PX + 1,) * 2, np.uint8)
    near = np.asarray(cv2.dilate(ground, kernel), np.uint8)
    core = (near.ravel() == 0) & (rgba[..., 3].ravel() > 0)
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
    # Where the picture had an alpha of its own, no pixel gets more than it had.
    alpha = np.minimum(part * 255, colours[rim, 3])
    out.reshape(-1, 4)[rim] = np.column_stack([fixed, alpha]).round().astype(np.uint8)
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
    left = np.arange(len(rim))
    for _, dy, dx in offsets:
        if len(left) == 0:
            break
        at = np.clip(y[left] + dy, 0, height - 1) * width + np.clip(x[left] + dx, 0, width - 1)
        hit = core[at]
        own[left[hit]], found[left[hit]] = colours[at[hit], :3], True
        left, at = left[~hit], at[~hit]
        if max(abs(dx), abs(dy)) <= 2:
            there = colours[at, :3].astype(np.float32)
            apart = np.abs(there - base[left]).sum(axis=1) * solid[at]
            better = apart > furthest[left]
            furthest[left[better]], peak[left[better]] = apart[better], there[better]
    thin = ~found & (furthest > 0)
    own[thin] = peak[thin]
    return own, found | thin
