"""What a picture is, before anyone has said how large it should be."""

from dataclasses import dataclass
from enum import StrEnum

import cv2
import numpy as np
from numpy.typing import NDArray

HALF_COVERAGE = 127.5
"""Alpha at which a pixel is half covered; the outline runs there."""


class Background(StrEnum):
    """Whether the art can be told from what is behind it."""

    CLEAR = "clear"
    OPAQUE = "opaque"
    EMPTY = "empty"


@dataclass(frozen=True)
class PictureFacts:
    """Size and background of a picture; `clear_share` is the share of pixels under half coverage."""

    width_px: int
    height_px: int
    background: Background
    clear_share: float


def describe(rgba: NDArray[np.uint8]) -> PictureFacts:
    """Facts of an (h, w, 4) picture."""
    height, width = rgba.shape[:2]
    covered = int(cv2.countNonZero(cv2.inRange(alpha_of(rgba), 128, 255)))
    share = 1 - covered / (width * height)
    background = Background.EMPTY if covered == 0 else Background.OPAQUE if share == 0 else Background.CLEAR
    return PictureFacts(width, height, background, share)


def alpha_of(rgba: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """The (h, w) coverage of an (h, w, 4) picture, contiguous."""
    return np.asarray(cv2.extractChannel(rgba, 3), dtype=np.uint8)


def rgb_of(rgba: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """The (h, w, 3) colours of an (h, w, 4) picture, contiguous; several times as fast as slicing."""
    return np.asarray(cv2.cvtColor(np.ascontiguousarray(rgba), cv2.COLOR_RGBA2RGB), np.uint8)
