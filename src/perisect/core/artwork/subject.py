"""A subject cut out of a photo: a box and a few strokes say what stays and what goes, the rest is worked out.

Foreground and background are told apart by graph cuts over colour models (Rother, Kolmogorov and Blake, GrabCut, 2004)
on a reduced picture; its edge is refined in the whole one by a guided filter, whose coefficients are found on a smaller
one (He, Sun and Tang 2013; He and Sun 2015). Strands at its rim are told by their colour.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.hair import STRAND_SHARE, with_hair
from perisect.core.artwork.recipe import SubjectRecipe

WORK_PX = 400
"""Longer side of the picture that the graph is cut in; a larger one takes grain for form."""
TRIAL_PX = 320
"""That of the picture in which a stroke is answered while the hand is still there."""
ROUNDS = 3
GRAIN = 6.0
"""Levels of grain that are added before colours are modelled: what a camera keeps is so smooth that models of it spread
hardly at all, and the ground in a box is taken for subject."""
SMALL_SHARE = 0.004
"""Of the subject: what is loose and smaller goes, what is a hole and smaller is filled, unless a stroke touches it."""
EDGE_PX = 3.0
"""About so far from its edge in the reduced picture the whole one is looked at again."""
EPSILON = 1e-3
GUIDE_PX = 900

Mask = NDArray[np.uint8]


def subject_alpha(rgb: NDArray[np.uint8], recipe: SubjectRecipe) -> NDArray[np.uint8]:
    """(h, w) coverage of the subject of an (h, w, 3) picture, 0 to 255.

    Args:
        recipe: places in px of the picture.
    """
    return _found(rgb, recipe)[0]


def _found(rgb: NDArray[np.uint8], recipe: SubjectRecipe) -> tuple[NDArray[np.uint8], bool]:
    """The coverage, and whether there is hair at the rim."""
    height, width = rgb.shape[:2]
    shrink = min(1.0, WORK_PX / max(height, width))
    size = max(8, round(width * shrink)), max(8, round(height * shrink))
    small = np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA), np.uint8)
    sure = _marked(recipe, size, (size[0] / width, size[1] / height))
    cut = _cut(small, sure)
    smooth = _refined(rgb, _tidied(cut, sure), EDGE_PX / shrink)
    hair = with_hair(rgb, smooth, np.asarray(np.isin(sure, (cv2.GC_FGD, cv2.GC_BGD))))
    return (smooth, False) if hair is None else (hair, True)


def subject_trial(small: NDArray[np.uint8], recipe: SubjectRecipe, shrink: float) -> NDArray[np.uint8]:
    """About the same, at once: (h, w) 0 or 255 of a reduced (h, w, 3) picture.

    Args:
        shrink: px of it for one of the whole picture, whose places the recipe has.
    """
    height, width = small.shape[:2]
    sure = _marked(recipe, (width, height), (shrink, shrink))
    return _tidied(_cut(small, sure), sure) * np.uint8(255)


def _marked(recipe: SubjectRecipe, size: tuple[int, int], scale: tuple[float, float]) -> Mask:
    """What is sure and what is likely, as the graph cut takes it."""
    width, height = size
    mask = np.full((height, width), cv2.GC_BGD, np.uint8)
    left, top, right, bottom = (
        round(side * scale[n % 2])
        for n, side in enumerate(recipe.box or (0, 0, width / scale[0], height / scale[1]))
    )
    left, top = min(max(left, 0), width - 2), min(max(top, 0), height - 2)
    mask[top : max(bottom, top + 1), left : max(right, left + 1)] = cv2.GC_PR_FGD
    if recipe.box is None:
        # Without a box the picture's rim is the ground.
        rim = max(2, min(width, height) // 40)
        mask[:] = cv2.GC_BGD
        mask[rim:-rim, rim:-rim] = cv2.GC_PR_FGD
    for strokes, value in ((recipe.drop, cv2.GC_BGD), (recipe.keep, cv2.GC_FGD)):
        for stroke in strokes:
            points = np.round(np.array(stroke.points) * scale * 16).astype(np.int32)
            points = np.vstack([points, points[-1:]])
            thick = max(1, round(2 * stroke.radius_px * scale[0]))
            cv2.polylines(mask, [points], False, int(value), thick, cv2.LINE_8, 4)
    return mask


def _cut(small: NDArray[np.uint8], sure: Mask) -> Mask:
    """1 where the subject is."""
    mask = sure.copy()
    has_ground = bool(((mask == cv2.GC_BGD) | (mask == cv2.GC_PR_BGD)).any())
    has_subject = bool(((mask == cv2.GC_FGD) | (mask == cv2.GC_PR_FGD)).any())
    if has_ground and has_subject:
        ground, subject = np.zeros((1, 65)), np.zeros((1, 65))
        cv2.setRNGSeed(7)  # Colour models begin with clusters found at random.
        grainy = small + np.random.default_rng(7).normal(0, GRAIN, small.shape)
        cv2.grabCut(
            np.clip(grainy, 0, 255).astype(np.uint8),
            mask,
            None,
            ground,
            subject,
            ROUNDS,
            cv2.GC_INIT_WITH_MASK,
        )  # type: ignore[call-overload]
    return np.asarray(np.isin(mask, (cv2.GC_FGD, cv2.GC_PR_FGD)), np.uint8)


def _tidied(cut: Mask, sure: Mask) -> Mask:
    """Without crumbs and pinholes."""
    smooth = np.asarray(cv2.morphologyEx(cut, cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)), np.uint8)
    smooth |= np.asarray(sure == cv2.GC_FGD, np.uint8)
    smooth &= np.asarray(sure != cv2.GC_BGD, np.uint8)
    least = max(4.0, SMALL_SHARE * float(smooth.sum()))
    for value, untouched in ((1, cv2.GC_FGD), (0, cv2.GC_BGD)):
        count, labels, stats, _ = cv2.connectedComponentsWithStats(
            np.asarray(smooth == value, np.uint8), connectivity=8
        )
        touched = set(np.unique(labels[sure == untouched]).tolist())
        small = [n for n in range(1, count) if stats[n, cv2.CC_STAT_AREA] < least and n not in touched]
        smooth[np.isin(labels, small)] = 1 - value
    return smooth


def _refined(rgb: NDArray[np.uint8], cut: Mask, reach_px: float) -> NDArray[np.uint8]:
    """The mask in the whole picture, its edge where the picture's is.

    Args:
        reach_px: how far from the mask's edge that may be, px of the whole picture.
    """
    height, width = rgb.shape[:2]
    fewer = min(1.0, GUIDE_PX / max(height, width))
    size = max(8, round(width * fewer)), max(8, round(height * fewer))
    guide = _unit(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA))
    slope, offset = _guided(guide, _as_large(cut, size), max(2, round(reach_px * fewer)))
    whole = _unit(cv2.GaussianBlur(rgb, (0, 0), 0.8))
    found = (_as_large(slope, (width, height)) * whole).sum(axis=-1) + _as_large(offset, (width, height))
    # A line is cut along this edge: steeper than the filter leaves it, and nowhere but about the cut.
    steep = np.clip((found - 0.5) * 2.2 + 0.5, 0, 1)
    rim = np.ones((5, 5), np.uint8)
    most = _as_large(np.asarray(cv2.dilate(cut, rim), np.uint8), (width, height))
    least = _as_large(np.asarray(cv2.erode(cut, rim), np.uint8), (width, height))
    return np.asarray(np.round(np.clip(np.clip(steep, least, most), 0, 1) * 255), np.uint8)


def _unit(values: "cv2.typing.MatLike") -> NDArray[np.float32]:
    return np.asarray(values, np.float32) / np.float32(255)


def _as_large(values: NDArray[np.generic], size: tuple[int, int]) -> NDArray[np.float32]:
    return np.asarray(
        cv2.resize(np.asarray(values, np.float32), size, interpolation=cv2.INTER_LINEAR), np.float32
    )


def _guided(
    guide: NDArray[np.float32], wanted: NDArray[np.float32], radius: int
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Slope (h, w, 3) and offset (h, w) of the guided filter of an (h, w) mask by an (h, w, 3) picture, with the full
    covariance of its colours."""
    size = (2 * radius + 1, 2 * radius + 1)

    def mean(values: NDArray[np.float32]) -> NDArray[np.float32]:
        return np.asarray(
            cv2.blur(np.ascontiguousarray(values), size, borderType=cv2.BORDER_REFLECT), np.float32
        )

    middle, means = mean(guide), mean(wanted)
    covariance = np.zeros((*wanted.shape, 3, 3), np.float32)
    for a, b in ((0, 0), (0, 1), (0, 2), (1, 1), (1, 2), (2, 2)):
        value = mean(guide[..., a] * guide[..., b]) - middle[..., a] * middle[..., b]
        covariance[..., a, b] = covariance[..., b, a] = value
    covariance[..., range(3), range(3)] += EPSILON
    together = np.stack([mean(guide[..., c] * wanted) - middle[..., c] * means for c in range(3)], axis=-1)
    slope = np.linalg.solve(covariance, together[..., None])[..., 0].astype(np.float32)
    return mean(slope), mean(np.asarray(means - (slope * middle).sum(axis=-1), np.float32))


def cut_out(rgba: NDArray[np.uint8], recipe: SubjectRecipe) -> NDArray[np.uint8]:
    """An (h, w, 4) picture with all but its subject clear, the colours of its rim those of the subject."""
    rgb = np.ascontiguousarray(rgba[..., :3])
    alpha, has_hair = _found(rgb, recipe)
    # What is half covered is half ground, its neighbours perhaps too: they take the colour of what is well inside.
    within = np.asarray(cv2.erode(np.asarray(alpha >= 250, np.uint8), np.ones((5, 5), np.uint8)), np.uint8)
    if has_hair:
        # Strands, and what is left of the ground between them, are no inside.
        size = max(3, round(2 * STRAND_SHARE * max(alpha.shape)))
        disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))
        within = np.asarray(cv2.morphologyEx(within, cv2.MORPH_OPEN, disc), np.uint8)
    if not within.any():
        return np.dstack([rgb, np.minimum(alpha, rgba[..., 3])])
    _, labels = cv2.distanceTransformWithLabels(1 - within, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    whole = np.flatnonzero(within.ravel())
    order = np.zeros(int(labels.max()) + 1, np.int64)
    order[labels.ravel()[whole]] = whole
    rim = np.flatnonzero((alpha.ravel() > 0) & (within.ravel() == 0))
    colours = rgb.reshape(-1, 3).copy()
    colours[rim] = colours[order[labels.ravel()[rim]]]
    return np.dstack([colours.reshape(rgb.shape), np.minimum(alpha, rgba[..., 3])])
