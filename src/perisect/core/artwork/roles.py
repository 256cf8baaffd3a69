"""What the outline goes round where some of a drawing is printed only, or cut round only, and the picture is mended."""

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.mend import Mended
from perisect.core.artwork.picture import alpha_of

Cover = NDArray[np.uint8]


def cut_cover(came: NDArray[np.uint8], cut: Cover, mended: Mended) -> Cover:
    """(h, w) coverage of what is cut round, in a picture as mended.

    A mend rubs out, brings back, crops and enlarges; what each part is for stays. Where a frame or a ground lies behind
    the picture, `cut_cover` is not asked: both go round all of it.

    Args:
        came: (h, w, 4) the picture as it came.
        cut: (h, w) coverage of what its outline goes round.
    """
    shown = alpha_of(came)
    # Of a pixel that both kinds of parts share, the part that is cut round has its own coverage.
    share = np.where(shown > 0, np.minimum(cut / np.maximum(shown, 1).astype(np.float32), 1), 1)
    unprinted = np.where(shown == 0, cut, 0)
    there = alpha_of(mended.rgba)
    covers = np.rint(there * _as_mended(share.astype(np.float32), mended, 1.0)).astype(np.uint8)
    return _with_unprinted(covers, there, np.rint(_as_mended(unprinted.astype(np.float32), mended, 0.0)))


def _as_mended(values: NDArray[np.float32], mended: Mended, beyond: float) -> NDArray[np.float32]:
    """Values of the picture as it came, where they are in the picture as mended."""
    height, width = mended.rgba.shape[:2]
    (left, top), (across, along) = mended.origin_px, mended.scale
    # Middles of pixels lie at halves.
    warp = np.array(
        [[1 / across, 0, left + 0.5 / across - 0.5], [0, 1 / along, top + 0.5 / along - 0.5]], np.float64
    )
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    moved = cv2.warpAffine(values, warp, (width, height), flags=flags, borderValue=beyond)
    return np.asarray(moved, np.float32)


def _with_unprinted(covers: Cover, there: Cover, unprinted: NDArray[np.float32]) -> Cover:
    """What is cut round and not printed goes with the parts of the picture that it touches, and with them it goes."""
    if not unprinted.any():
        return covers
    lone = unprinted.astype(np.uint8)
    together = np.asarray(np.maximum(covers, lone) > 0, np.uint8)
    _, names = cv2.connectedComponents(together, connectivity=8)
    held = np.zeros(int(names.max()) + 1, bool)
    held[names[there > 0]] = True
    held[0] = False
    return np.asarray(np.maximum(covers, np.where(held[names], lone, 0)), np.uint8)
