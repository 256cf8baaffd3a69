"""Rims of art on a ground that is gone.

A pixel of the rim is a mixture of the art beside it and the background behind it. With both known, how
much of it is art follows by projection (the two-colour case of Porter and Duff's "over", solved for
alpha), and its colour becomes the art's own, so that no rim of the old background is left.
"""

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.picture import alpha_of, flat_nonzero

RIM_REACH_PX = 2

HAZE = 0.04
"""Less of the art than this is noise."""
SAME_AS_BACKGROUND = 18.0
"""Art nearer to the background than this (levels, root of squares) cannot be unmixed: it is solid."""

_LUMA = np.array([0.299, 0.587, 0.114], np.float32)
CHROMA_WEIGHT = 0.2
_BRIGHTNESS_FIRST = np.asarray(
    np.eye(3) * CHROMA_WEIGHT + (1 - CHROMA_WEIGHT) * np.tile(_LUMA[:, None], (1, 3)), np.float32
)
"""Of a difference of colours (as a row): its brightness whole, what is left of it weakened (BT.601)."""
CALM_PX = 5

_ART = np.where(np.arange(256) == 0, 255, 0).astype(np.uint8)


def unmix(
    rgba: NDArray[np.uint8],
    ground: NDArray[np.uint8],
    behind: Callable[[NDArray[np.int64]], NDArray[np.float32]],
    same: float = SAME_AS_BACKGROUND,
    grainy: bool = False,
) -> NDArray[np.uint8]:
    """Alpha and own colours along the rim of `ground`; the rest of the art is left as it is.

    Args:
        behind: background colours (n, 3), or one for all (3,), at flat pixel indices.
        same: art nearer to the background than this (levels, root of squares) is solid.
        grainy: JPEG has been at it. It keeps colour at half the resolution of brightness, so shares are told by
            brightness, and its rings stand in single pixels of the art, so colours are means.
    """
    out = rgba.copy()
    alpha = cv2.min(alpha_of(rgba), cv2.LUT(ground, _ART))
    cv2.insertChannel(alpha, out, 3)
    kernel = np.ones((2 * RIM_REACH_PX + 1,) * 2, np.uint8)
    near = np.asarray(cv2.dilate(ground, kernel), np.uint8)
    # The palest pixels of an edge were flooded with the background: they get their share back.
    inner = np.asarray(cv2.erode(ground, np.ones((3, 3), np.uint8), borderValue=1), np.uint8)
    rim = flat_nonzero(np.asarray(cv2.subtract(near, inner), np.uint8))
    if len(rim) == 0:
        return out
    colours = rgba.reshape(-1, 4)
    mixed, base = colours[rim, :3].astype(np.float32), np.broadcast_to(behind(rim), (len(rim), 3))
    core = np.asarray(cv2.min(1 - near, alpha_of(rgba)), np.uint8)
    pure = _calm(rgba, core).reshape(-1, 4) if grainy else colours
    own, found = _own_colours(rim, core, 1 - ground, colours, pure, base)
    span = np.einsum("ij,ij->i", own - base, own - base)
    weights = _BRIGHTNESS_FIRST if grainy else np.eye(3, dtype=np.float32)
    of_art, of_ground = (own - base) @ weights, (mixed - base) @ weights
    part = np.einsum("ij,ij->i", of_ground, of_art) / np.maximum(np.einsum("ij,ij->i", of_art, of_art), 1)
    part = np.where(part < HAZE, 0, np.clip(part, 0, 1))
    part = np.where((span < same**2) | ~found, ground.ravel()[rim] == 0, part)
    fixed = np.where(part[:, None] < 0.985, own, mixed)
    # Where the picture had an alpha of its own, no pixel gets more than it had.
    alpha = np.minimum(part * 255, colours[rim, 3])
    out.reshape(-1, 4)[rim] = np.column_stack([fixed, alpha]).round().astype(np.uint8)
    # What of the background got a share back beside art that turned out to be haze hangs in the air.
    held = cv2.dilate(cv2.min(alpha_of(out), 1 - ground), np.ones((3, 3), np.uint8))
    loose = rim[(ground.ravel()[rim] > 0) & (np.asarray(held).ravel()[rim] == 0)]
    out.reshape(-1, 4)[loose, 3] = 0
    return out


def _calm(rgba: NDArray[np.uint8], core: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Each core pixel the mean of those about it."""
    size = (CALM_PX, CALM_PX)
    count = cv2.boxFilter(core, cv2.CV_32F, size, normalize=False)
    summed = cv2.boxFilter(cv2.bitwise_and(rgba, rgba, mask=core), cv2.CV_32F, size, normalize=False)
    return np.asarray((summed / np.maximum(count, 1)[..., None]).round(), np.uint8)


def _own_colours(
    rim: NDArray[np.int64],
    core: NDArray[np.uint8],
    solid: NDArray[np.uint8],
    colours: NDArray[np.uint8],
    pure: NDArray[np.uint8],
    base: NDArray[np.float32],
) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
    """Colour, as `pure` has it, of the nearest core pixel of each rim pixel; where a line is too thin to have a
    core, of the solid pixel nearby that is furthest from the background. (n, 3), and whether one was found."""
    y, x = np.divmod(rim, core.shape[1])
    own = colours[rim, :3].astype(np.float32)
    found = np.zeros(len(rim), bool)
    left = np.arange(len(rim))
    cores = _Neighbours(core, y, x, RIM_REACH_PX + 2)
    for step in cores.steps:
        at, hit = cores.at(left, step)
        own[left[hit]], found[left[hit]] = pure[at[hit], :3], True
        left = left[~hit]
    solids = _Neighbours(solid, y, x, RIM_REACH_PX)
    furthest = np.zeros(len(left), np.float32)
    for step in solids.steps if len(left) else ():
        at, hit = solids.at(left, step)
        there = colours[at, :3].astype(np.float32)
        apart = np.abs(there - base[left]).sum(axis=1) * hit
        better = apart > furthest
        furthest[better], own[left[better]] = apart[better], there[better]
    found[left[furthest > 0]] = True
    return own, found


class _Neighbours:
    """Pixels of an (h, w) mask about some places; it is 0 beyond the picture. `steps` begin with the nearest."""

    def __init__(
        self, mask: NDArray[np.uint8], y: NDArray[np.int64], x: NDArray[np.int64], reach: int
    ) -> None:
        around = range(-reach, reach + 1)
        self.steps = sorted(
            ((dy, dx) for dy in around for dx in around), key=lambda s: (s[0] ** 2 + s[1] ** 2, s)
        )
        self._mask = np.asarray(
            cv2.copyMakeBorder(mask, *(reach,) * 4, cv2.BORDER_CONSTANT, value=0), np.uint8
        )
        self._across = mask.shape[1]
        self._flat = y * self._across + x
        self._wide = (y + reach) * self._mask.shape[1] + x + reach

    def at(
        self, which: NDArray[np.int64], step: tuple[int, int]
    ) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
        """Flat indices one step from those places, 0 where the mask is 0, and whether it is not."""
        dy, dx = step
        inside = self._mask.ravel()[self._wide[which] + dy * self._mask.shape[1] + dx] > 0
        return np.where(inside, self._flat[which] + dy * self._across + dx, 0), inside
