"""Take a plain or painted background away: flood from the edge, then unmix the rim.

A pixel of the rim is a mixture of the art beside it and the background behind it. With both known, how
much of it is art follows by projection (the two-colour case of Porter and Duff's "over", solved for
alpha), and its colour becomes the art's own, so that no rim of the old background is left.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.background import lab_of
from perisect.core.artwork.checker import Checker, seams

RIM_REACH_PX = 2
THIN_PX = 2
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
    lab = lab_of(rgba[..., :3])
    lab -= lab_of(np.array([[colour]], np.uint8))[0, 0]
    like = (np.einsum("ijk,ijk->ij", lab, lab) <= tolerance**2).astype(np.uint8)
    ground, islands = _flood(like, knock_out)
    behind = np.broadcast_to(np.array(colour, np.float32), (*like.shape, 3))
    return Removed(_unmix(rgba, ground, behind), islands)


def remove_checker(
    rgba: NDArray[np.uint8],
    checker: Checker,
    tolerance: float,
    keep: tuple[tuple[int, int], ...] = (),
) -> Removed:
    """Take a painted checkerboard away, also where art encloses it: nothing else is made of such squares.

    Args:
        tolerance: levels of 255 by which a pixel may differ from the pattern.
        keep: a place in each enclosed island that is to stay.
    """
    height, width = rgba.shape[:2]
    pattern = checker.paint(height, width)
    low, high = seams(pattern)
    rgb = rgba[..., :3]
    slack = (round(tolerance),) * 3 + (0,)
    low, high = cv2.subtract(low, slack), cv2.add(high, slack)
    like = np.all((rgb >= low) & (rgb <= high), axis=2).astype(np.uint8)
    # One stray pixel between two squares must not stop the flood.
    like = np.asarray(cv2.morphologyEx(like, cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8)), np.uint8)
    ground, islands = _flood(like, ())
    light = checker.is_light(height, width)
    square = checker.square_px**2
    gone = []
    count, labels, stats, _ = cv2.connectedComponentsWithStats(like & (1 - ground), connectivity=4)
    if count > 1:
        # A patch of the pattern shows both greys, each where it should be.
        on_light = np.bincount(labels[light], minlength=count)
        both = np.minimum(on_light, stats[:, cv2.CC_STAT_AREA] - on_light) > 0.12 * stats[:, cv2.CC_STAT_AREA]
        out = both & (stats[:, cv2.CC_STAT_AREA] > max(0.5 * square, LEAST_ISLAND_PX))
        out[0] = False
        for x, y in keep:
            if 0 <= x < width and 0 <= y < height:
                out[labels[y, x]] = False
        ground |= out[labels].astype(np.uint8)
        gone = [island for island in islands if out[labels[island.y_px, island.x_px]]]
    return Removed(_unmix(rgba, ground, pattern.astype(np.float32)), tuple(gone))


def _flood(
    like: NDArray[np.uint8], knock_out: tuple[tuple[int, int], ...]
) -> tuple[NDArray[np.uint8], tuple[Island, ...]]:
    """Background: what is like it and hangs together with the edge; and the islands that do not."""
    height, width = like.shape
    count, labels, stats, _ = cv2.connectedComponentsWithStats(like, connectivity=4)
    edge = np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]])
    out = np.zeros(count, bool)
    out[np.unique(edge)] = True
    out[0] = False
    named = np.flatnonzero(~out & (stats[:, cv2.CC_STAT_AREA] >= LEAST_ISLAND_PX))
    islands = [_island(labels, stats, int(n)) for n in named[named > 0]]
    for x, y in knock_out:
        if 0 <= x < width and 0 <= y < height and labels[y, x] > 0:
            out[labels[y, x]] = True
    return out[labels].astype(np.uint8), tuple(sorted(islands, key=lambda i: -i.area_px)[:40])


def _island(labels: NDArray[np.int32], stats: NDArray[np.int32], number: int) -> Island:
    left, top, width, height, area = (int(n) for n in stats[number])
    patch = np.pad((labels[top : top + height, left : left + width] == number).astype(np.uint8), 1)
    depth = cv2.distanceTransform(patch, cv2.DIST_L2, 3)
    _, most, _, (x, y) = cv2.minMaxLoc(depth)
    return Island(area, left + x - 1, top + y - 1, 2 * float(most))


def _unmix(
    rgba: NDArray[np.uint8], ground: NDArray[np.uint8], behind: NDArray[np.float32]
) -> NDArray[np.uint8]:
    """Alpha and own colours along the rim of `ground`; the rest of the art is left as it is."""
    out = rgba.copy()
    out[..., 3] = np.where(ground.astype(bool), 0, 255)
    kernel = np.ones((2 * RIM_REACH_PX + 1,) * 2, np.uint8)
    rim = np.asarray(cv2.dilate(ground, kernel), np.uint8) & (1 - ground)
    left, top, width, height = cv2.boundingRect(rim)
    if width == 0:
        return out
    window = np.s_[max(top - 4, 0) : top + height + 4, max(left - 4, 0) : left + width + 4]
    rim, solid = rim[window].astype(bool), 1 - ground[window]
    colours = rgba[window][..., :3].astype(np.float32)
    back = behind[window]
    core = solid.astype(bool) & ~rim
    # Lines too thin to have a core: their own colour is the one furthest from the background nearby.
    thin = rim & (
        np.asarray(cv2.dilate(core.astype(np.uint8), np.ones((2 * THIN_PX + 1,) * 2, np.uint8))) == 0
    )
    if thin.any():
        apart = np.sqrt(np.einsum("ijk,ijk->ij", colours - back, colours - back)) * solid
        core |= thin & (apart >= 0.92 * np.asarray(cv2.dilate(apart, kernel)))
    if not core.any():
        return out
    _, nearest = cv2.distanceTransformWithLabels(
        (~core).astype(np.uint8), cv2.DIST_L2, 3, labelType=cv2.DIST_LABEL_PIXEL
    )
    where = np.flatnonzero(core.ravel())
    by_label = np.zeros(int(nearest.max()) + 1, np.int64)
    by_label[nearest.ravel()[where]] = where
    own = colours.reshape(-1, 3)[by_label[nearest[rim]]]
    mixed, base = colours[rim], back[rim]
    span = np.einsum("ij,ij->i", own - base, own - base)
    part = np.einsum("ij,ij->i", mixed - base, own - base) / np.maximum(span, 1)
    part = np.where(span < SAME_AS_BACKGROUND**2, 1.0, np.clip(part, 0, 1))
    view = out[window]
    fixed = np.where(part[:, None] < 0.985, own, mixed)
    view[rim] = np.column_stack([fixed, part * 255]).round().astype(np.uint8)
    return out
