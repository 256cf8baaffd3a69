"""Bleed: the art's edge colours carried outward, so that a slipped cut shows colour and not paper."""

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.picture import alpha_of

SOLID = 128
REFINEMENTS = 2
OPAQUE = np.uint32(0xFF000000)


def bleed_under(rgba: NDArray[np.uint8], distance_px: float) -> tuple[NDArray[np.uint8], int]:
    """What is printed under the art: every pixel within a distance of it in the colour of the nearest art.

    The art itself is printed over it and not touched. Its half-clear rim gets solid colour below, so that
    no paper shines through. Nearest pixels come from OpenCV's quick transform, whose few errors lie at
    the borders between two sources; comparing with the neighbours' sources by exact distance mends them.

    Args:
        rgba: (h, w, 4).

    Returns:
        (h + 2 p, w + 2 p, 4) and p, the pixels added on every side.
    """
    pad = int(np.ceil(distance_px)) + 1
    art = cv2.copyMakeBorder(rgba, pad, pad, pad, pad, cv2.BORDER_CONSTANT, value=(0, 0, 0, 0))
    alpha = alpha_of(np.asarray(art, np.uint8))
    beside = np.asarray(cv2.threshold(alpha, SOLID - 1, 1, cv2.THRESH_BINARY_INV)[1], np.uint8)
    _, labels = cv2.distanceTransformWithLabels(beside, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    height, width = beside.shape
    # Where each label's source lies. The quick transform steps two pixels at most, so a source is that near the edge.
    near_edge = cv2.dilate(beside, np.ones((5, 5), np.uint8)) & (1 - beside)
    source = np.flatnonzero(near_edge.ravel()).astype(np.int32)
    of_label = labels.ravel()[source]
    # Only what is written to takes memory.
    across, down = np.zeros(int(labels.max()) + 1, np.int32), np.zeros(int(labels.max()) + 1, np.int32)
    down[of_label], across[of_label] = np.divmod(source, np.int32(width))

    def squared(label: NDArray[np.int32], x: NDArray[np.int32], y: NDArray[np.int32]) -> NDArray[np.int32]:
        dx, dy = across[label] - x, down[label] - y
        return dx * dx + dy * dy

    # Exact distances are quick as well, but do not say whose they are: where the two differ the source
    # is wrong, and a neighbour's is right.
    exact = np.asarray(cv2.distanceTransform(beside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE))
    zone = np.flatnonzero(cv2.inRange(exact, 0.5, float(distance_px)).ravel()).astype(np.int32)
    flat = np.asarray(labels, np.int32).ravel()
    y, x = np.divmod(zone, np.int32(width), dtype=np.int32)
    wanted = exact.ravel()[zone]
    off = np.flatnonzero(squared(flat[zone], x, y) > wanted * wanted + 0.5)
    wrong, wrong_x, wrong_y = zone[off], x[off], y[off]
    for _ in range(REFINEMENTS):
        best = flat[wrong]
        away = squared(best, wrong_x, wrong_y)
        for step in (1, width, -1, -width, width + 1, -width - 1, width - 1, 1 - width):
            candidate = flat[wrong + step]
            there = squared(candidate, wrong_x, wrong_y)
            closer = there < away
            best[closer], away[closer] = candidate[closer], there[closer]
        flat[wrong] = best
    # Four bytes at a time: a pixel is one number, its alpha the last byte.
    colours = np.ascontiguousarray(art).reshape(-1, 4).view("<u4").ravel()
    solid = cv2.bitwise_or(art, (0.0, 0.0, 0.0, 255.0), mask=1 - beside)
    out = np.ascontiguousarray(solid).reshape(-1, 4).view("<u4").ravel()
    nearest = flat[zone]
    out[zone] = colours[down[nearest] * np.int32(width) + across[nearest]] | OPAQUE
    return out.view(np.uint8).reshape(height, width, 4), pad
