"""Stray dots: loose pieces of the art too small to be meant."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.picture import alpha_of

MOST_LISTED = 200


@dataclass(frozen=True)
class LoosePart:
    """A loose piece of the art: area in px² and its middle."""

    area_px: float
    x_px: float
    y_px: float


def _labelled(rgba: NDArray[np.uint8]) -> tuple[NDArray[np.int32], NDArray[np.int32], NDArray[np.float64]]:
    """Pieces that hang together where anything at all is covered, with the half-covered area of each."""
    alpha = alpha_of(rgba)
    _, labels, stats, middles = cv2.connectedComponentsWithStats(cv2.inRange(alpha, 1, 255), connectivity=8)
    covered = np.bincount(labels.ravel(), weights=(alpha.ravel() >= 128), minlength=len(stats))
    stats[:, cv2.CC_STAT_AREA] = covered
    return np.asarray(labels, np.int32), np.asarray(stats, np.int32), np.asarray(middles, np.float64)


def loose_parts(rgba: NDArray[np.uint8]) -> tuple[LoosePart, ...]:
    """All pieces but the largest, smallest first."""
    _, stats, middles = _labelled(rgba)
    area = stats[1:, cv2.CC_STAT_AREA]
    if len(area) < 2:
        return ()
    order = np.argsort(area)[:-1][:MOST_LISTED] + 1
    return tuple(
        LoosePart(float(stats[n, cv2.CC_STAT_AREA]), float(middles[n][0]), float(middles[n][1]))
        for n in order
    )


def without_specks(rgba: NDArray[np.uint8], smaller_than_px2: float) -> NDArray[np.uint8]:
    """The picture without loose pieces of less than this area; the largest piece always stays."""
    labels, stats, _ = _labelled(rgba)
    area = stats[:, cv2.CC_STAT_AREA].astype(float)
    gone = area < smaller_than_px2
    gone[0] = False
    if len(area) > 1:
        gone[1 + int(area[1:].argmax())] = False
    if not gone.any():
        return rgba
    out = rgba.copy()
    out[gone[labels]] = 0
    return out
