"""Colour under the clear pixels of a picture.

A printer's driver blends neighbouring pixels. Where clear pixels hold leftover black, that draws a
dark rim round the art; so colour is carried a few pixels out, and everything beyond is white, which
also stores in next to nothing.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

RIM_PX = 2

LIKE = 40
"""Where the colours hidden under clear pixels differ from the art beside them by less than this on
average (levels of 255), they draw no rim and are left as they are."""


def with_rim(rgba: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(h, w, 3) colours of an (h, w, 4) picture: its own where it covers anything, nearest within the rim."""
    clear = (rgba[..., 3] == 0).view(np.uint8)
    colours = np.ascontiguousarray(rgba[..., :3])
    if not clear.any():
        return colours
    kernel = cv2.getStructuringElement(cv2.MORPH_RECT, (2 * RIM_PX + 1, 2 * RIM_PX + 1))
    rim = (cv2.dilate(1 - clear, kernel) & clear).astype(bool)
    if rim.any():
        _, nearest = cv2.distanceTransformWithLabels(clear, cv2.DIST_L2, 3, labelType=cv2.DIST_LABEL_PIXEL)
        source = np.flatnonzero(clear.ravel() == 0)
        by_label = np.zeros(int(nearest.max()) + 1, np.int64)
        by_label[nearest.ravel()[source]] = source
        beside = rgba.reshape(-1, 4)[by_label[nearest[rim]], :3]
        if np.abs(colours[rim].astype(np.int16) - beside).mean() < LIKE:
            return colours
        colours[clear.astype(bool)] = 255
        colours[rim] = beside
    return colours
