"""Take a plain or painted background away: flood from the edge, then unmix the rim."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.checker import CLEAN_LEVELS, MOST_OF_CONTRAST, Checker, levels_off, measured_levels
from perisect.core.artwork.cielab import lab_of
from perisect.core.artwork.doubts import LOOSER, STRICTER, Doubt, doubts_of
from perisect.core.artwork.flood import LEAST_ISLAND_PX, Island, flood, from_outside
from perisect.core.artwork.ground import Ground, cells_of
from perisect.core.artwork.likeness import STRONG, Likeness, Tolerance, measured_tolerance
from perisect.core.artwork.overview import overview
from perisect.core.artwork.picture import alpha_of, rgb_of
from perisect.core.artwork.recipe import ShadowChoice
from perisect.core.artwork.shadow import find_shadow, through, with_shadow, without_crumbs
from perisect.core.artwork.unmix import unmix


@dataclass(frozen=True)
class Removed:
    """The picture with its background gone, the islands that were kept or could be, and what is not sure about it.

    `tolerance` is what was measured on the picture, as a person would set it; `shadow` whether art throws one.
    """

    rgba: NDArray[np.uint8]
    islands: tuple[Island, ...]
    doubts: tuple[Doubt, ...] = ()
    tolerance: float = 0.0
    shadow: bool = False


@dataclass(frozen=True)
class _Bare:
    """The ground that lies bare in a picture: what it is held against, and how far each pixel is from it."""

    likeness: Likeness
    measured: Tolerance
    allowed: Tolerance
    distance: NDArray[np.float32]
    like: NDArray[np.uint8]


def remove_plain(
    rgba: NDArray[np.uint8],
    ground: Ground,
    tolerance: float | None = None,
    knock_out: tuple[tuple[int, int], ...] = (),
    shadow: ShadowChoice = "drop",
) -> Removed:
    """Flood one colour, or one that changes smoothly, from the picture's edge.

    Args:
        rgba: (h, w, 4), solid.
        tolerance: CIELAB distance up to which a pixel is background; None: as the picture's grain asks for.
        knock_out: a place in each enclosed island that is to go too.
        shadow: whether a soft shadow goes with the background, stays as transparency, or stays as it is.
    """
    bare = _bare(rgb_of(rgba), ground, tolerance)
    found = flood(_without_grain(bare), knock_out)
    behind, rgb = bare.likeness.behind, bare.likeness.rgb
    seen = overview(rgb, found.ground, bare.distance)
    cast = find_shadow(seen.rgb, bare.likeness.field(*seen.ground.shape), seen.ground)
    doubts = doubts_of(seen, bare.allowed.mean, cast, bare.measured.grainy)
    gone, lit = found.ground, None
    if cast is not None and shadow != "with":
        cast = cast.enlarged(rgb, behind, found.ground)
        gone, lit = without_crumbs(gone | cast.mask, cast), through(cast.mask, cast.shine).reshape(-1, 1)

    def at(where: NDArray[np.int64]) -> NDArray[np.float32]:
        bare_there = behind if behind.ndim == 1 else behind.reshape(-1, 3)[where]
        return bare_there if lit is None else bare_there * lit[where]

    out = unmix(rgba, gone, at, 4 * bare.allowed.mean, bare.measured.grainy)
    if bare.measured.grainy:
        out = _without_haze(out)
    if cast is not None and shadow == "soft":
        out = with_shadow(out, cast, behind)
    return Removed(out, found.islands, doubts, round(bare.measured.mean, 1), cast is not None)


def _bare(rgb: NDArray[np.uint8], ground: Ground, tolerance: float | None) -> _Bare:
    likeness = Likeness(rgb, ground, _refined(rgb, ground))
    measured = measured_tolerance(likeness)
    allowed = measured.at(tolerance)
    distance = likeness.distance(allowed, LOOSER)
    return _Bare(likeness, measured, allowed, distance, (distance <= allowed.mean).astype(np.uint8))


CRUMB_PX = 40


def _without_grain(bare: _Bare) -> NDArray[np.uint8]:
    """What is like the ground, and crumbs about the art that JPEG leaves: thin ones that are hardly further from the
    ground, and small ones in which nothing is art beyond doubt."""
    if not bare.measured.grainy:
        return bare.like
    art = 1 - bare.like
    solid = np.asarray(cv2.morphologyEx(art, cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)), np.uint8)
    art[(solid < art) & (bare.distance <= LOOSER * bare.allowed.mean)] = 0
    count, found, stats, _ = cv2.connectedComponentsWithStats(art, connectivity=8)
    labels = np.asarray(found, np.int32)
    strong = bare.distance > STRONG * bare.allowed.mean / bare.allowed.single
    sure = np.bincount(labels[strong], minlength=count) > 0
    crumbs = ~sure & (np.asarray(stats)[:, cv2.CC_STAT_AREA] <= CRUMB_PX)
    crumbs[0] = False
    return np.asarray(1 - art | crumbs[labels], np.uint8)


HAZE_ALPHA = 200


def _without_haze(rgba: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Without crumbs that stand alone and are half clear all over: of rims that JPEG tore."""
    alpha = alpha_of(rgba)
    count, found, stats, _ = cv2.connectedComponentsWithStats((alpha > 0).astype(np.uint8), connectivity=8)
    labels = np.asarray(found, np.int32)
    solid = np.bincount(labels[alpha >= HAZE_ALPHA], minlength=count) > 0
    haze = ~solid & (np.asarray(stats)[:, cv2.CC_STAT_AREA] <= CRUMB_PX)
    haze[0] = False
    if haze.any():
        rgba[haze[labels]] = 0
    return rgba


FOLLOWED_PX = 400
REFINED = 16
"""Times at most that a ground which changes is learned again from what was found of it."""


def _refined(rgb: NDArray[np.uint8], ground: Ground) -> NDArray[np.float32] | None:
    """Colours of a ground that changes, followed inwards from the edge on a small copy of the picture."""
    cells = ground.cells
    if cells is None:
        return None
    height, width = rgb.shape[:2]
    scale = min(1.0, FOLLOWED_PX / max(height, width))
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    small = np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA), np.uint8)
    allowed = Tolerance.for_spread(ground.spread)
    known = 0.0
    for _ in range(REFINED):
        bare = from_outside(Likeness(small, ground, cells).distance(allowed) <= allowed.mean)
        # What touches the art holds some of its colour.
        sure = np.asarray(cv2.erode(bare, np.ones((3, 3), np.uint8), borderValue=1), np.uint8)
        count = cv2.countNonZero(sure)
        if count < max(0.02 * sure.size, 1.002 * known):
            break
        known, cells = count, cells_of(small, sure)
    return cells


def remove_picked(
    rgba: NDArray[np.uint8], places: tuple[tuple[int, int], ...], tolerance: float | None
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
        red, green, blue = (int(n) for n in np.median(about, axis=0))
        wide = rgba[max(0, y - 4) : y + 5, max(0, x - 4) : x + 5, :3].reshape(-1, 3)
        off = np.linalg.norm(lab_of(wide) - lab_of(np.array([[red, green, blue]])), axis=1)
        likeness = Likeness(rgb_of(rgba), Ground((red, green, blue), 1.0, float(np.median(off))))
        allowed = Tolerance.for_spread(likeness.ground.spread).at(tolerance)
        like = ((likeness.distance(allowed) <= allowed.mean) & (rgba[..., 3] > 0)).astype(np.uint8)
        if not like[y, x]:
            continue
        labels = np.asarray(cv2.connectedComponents(like, connectivity=4)[1], np.int32)
        ground = (labels == labels[y, x]).astype(np.uint8)
        behind = np.array((red, green, blue), np.float32)
        rgba = unmix(rgba, ground, lambda _, behind=behind: behind, 4 * allowed.mean)  # type: ignore[misc]
    return rgba


LEAST_DARK_PX = 6
"""Pixels of the dark grey that tell a patch of the pattern, where none beside it speak for white art."""


def remove_checker(
    rgba: NDArray[np.uint8],
    checker: Checker,
    tolerance: float | None = None,
    knock_out: tuple[tuple[int, int], ...] = (),
    keep: tuple[tuple[int, int], ...] = (),
) -> Removed:
    """Take a painted checkerboard away, also where art encloses it: nothing else is made of such squares.

    Args:
        tolerance: levels of 255 by which a pixel may differ from the pattern; None: as its grain asks for.
        knock_out: a place in each enclosed island that is to go although it may be white art.
        keep: a place in each enclosed island that is to stay although it looks like the pattern.
    """
    width = rgba.shape[1]
    rgb = rgb_of(rgba)
    off = levels_off(rgb, checker)
    measured, outside = measured_levels(off, checker)
    allowed = measured
    if tolerance is not None:
        allowed, outside = min(tolerance, MOST_OF_CONTRAST * checker.contrast), tolerance
    bare = _closed(off <= outside)
    outer = from_outside(bare)
    seen = overview(rgb, outer, off.astype(np.float32))
    grainy = outside > CLEAN_LEVELS
    doubts = doubts_of(seen, outside, grainy=grainy, stricter=0.8 if grainy else STRICTER)
    found = flood(bare if allowed >= outside else _closed(off <= allowed) & (1 - outer) | outer, knock_out)
    ground, labels = found.ground, found.labels
    if len(found.area) > 1:
        # A patch of the pattern shows both greys where they should be, and beside a seam neither is told. White art
        # goes on over the dark squares beside the light ones that it looks like.
        light, inner = checker.is_light(*found.window), checker.inner(*found.window)
        on_dark = (light == 0) & inner
        level = np.array(checker.light, int)
        white = np.asarray(
            cv2.inRange(
                rgb[found.window], (level - round(allowed)).clip(0), (level + round(allowed)).clip(0, 255)
            )
        )
        beside = cv2.dilate(((white > 0) & on_dark).astype(np.uint8), np.ones((5, 5), np.uint8))
        dark, sure, goes_on = (
            np.bincount(labels.ravel(), weights=np.asarray(part).ravel(), minlength=len(found.area))
            for part in (on_dark, inner, beside)
        )
        shows_both = (dark > 0.12 * sure) | (dark >= LEAST_DARK_PX) & (goes_on < dark / 2)
        out = shows_both & (found.area > LEAST_ISLAND_PX)
        out[0] = False
        out[found.at(keep)] = False
        ground[found.window] |= out[labels].astype(np.uint8)
    greys = np.array([checker.dark, checker.light], np.float32)

    def behind(where: NDArray[np.int64]) -> NDArray[np.float32]:
        y, x = np.divmod(where, width)
        column, row = (x - checker.left_px) // checker.square_px, (y - checker.top_px) // checker.square_px
        return greys[((column + row + (not checker.light_first)) % 2 == 0).astype(int)]

    return Removed(unmix(rgba, ground, behind, grainy=grainy), found.islands, doubts, round(measured, 1))


def _closed(like: NDArray[np.bool_]) -> NDArray[np.uint8]:
    """Without stray pixels between two squares, which would stop the flood."""
    kernel = np.ones((3, 3), np.uint8)
    return np.asarray(cv2.morphologyEx(like.astype(np.uint8), cv2.MORPH_CLOSE, kernel), np.uint8)
