"""A picture at a size at which a glance is enough: shadows and doubts are much larger than a pixel."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

GLANCE_PX = 500
WHOLE_AT = 254
_WHOLE = np.where(np.arange(256) > 0, 255, 0).astype(np.uint8)


@dataclass(frozen=True)
class Overview:
    """Colours (h, w, 3), 1 where ground was taken, and the distance of each pixel from it.

    One pixel here is `scale` pixels of the picture. Ground is what is ground all over; a distance is the largest of
    the pixels that one stands for, so that no thin line is overlooked.
    """

    scale: int
    rgb: NDArray[np.uint8]
    ground: NDArray[np.uint8]
    distance: NDArray[np.float32]


def overview(rgb: NDArray[np.uint8], ground: NDArray[np.uint8], distance: NDArray[np.float32]) -> Overview:
    """Of a picture as it was flooded."""
    height, width = ground.shape
    scale = max(height, width) // GLANCE_PX
    if scale <= 1 or min(height, width) < 2 * scale:
        return Overview(1, rgb, ground, distance)
    # Whole cells only: with them it is several times as fast, and what is left over at the edge is less than one.
    size = (width // scale, height // scale)
    rows, columns = slice(0, size[1] * scale), slice(0, size[0] * scale)
    small = np.asarray(cv2.resize(rgb[rows, columns], size, interpolation=cv2.INTER_AREA), np.uint8)
    bare = cv2.resize(cv2.LUT(ground[rows, columns], _WHOLE), size, interpolation=cv2.INTER_AREA)
    widest = cv2.dilate(distance, np.ones((scale | 1,) * 2, np.uint8))[rows, columns]
    far = np.asarray(widest[scale // 2 :: scale, scale // 2 :: scale], np.float32)
    whole = (np.asarray(bare) >= WHOLE_AT).astype(np.uint8)
    return Overview(scale, small, whole, np.ascontiguousarray(far))
