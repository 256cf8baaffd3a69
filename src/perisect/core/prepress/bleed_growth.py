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
    art_mask = np.asarray(1 - beside, np.uint8)
    near_edge = np.asarray(cv2.dilate(beside, np.ones((5, 5), np.uint8)), np.uint8) & art_mask
    # Column and row of a place as one number of four bytes, so that both are looked up at once. Only what is written
    # to takes memory.
    source_of = np.zeros(cv2.countNonZero(art_mask) + 1, "<u4")
    flat = np.asarray(labels, np.int32).ravel()
    x, y = _places(near_edge)
    source_of[flat[y * width + x]] = y << 16 | x

    def squared(source: NDArray[np.uint32], x: NDArray[np.int32], y: NDArray[np.int32]) -> NDArray[np.int32]:
        dx, dy = (source & 0xFFFF).astype(np.int32), (source >> 16).astype(np.int32)
        dx -= x
        dy -= y
        dx *= dx
        dy *= dy
        dx += dy
        return dx

    # Exact distances are quick as well, but do not say whose they are: where the two differ the source
    # is wrong, and a neighbour's is right.
    exact = np.asarray(cv2.distanceTransform(beside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE))
    x, y = _places(np.asarray(cv2.inRange(exact, 0.5, float(distance_px))))
    zone = y * width + x
    nearest = source_of[flat[zone]]
    wanted = exact.ravel()[zone]
    wanted *= wanted
    wanted += 0.5
    off = np.flatnonzero(squared(nearest, x, y) > wanted)
    wrong, wrong_x, wrong_y = zone[off], x[off], y[off]
    for _ in range(REFINEMENTS):
        best = flat[wrong]
        away = squared(source_of[best], wrong_x, wrong_y)
        for step in (1, width, -1, -width, width + 1, -width - 1, width - 1, 1 - width):
            candidate = flat[wrong + step]
            there = squared(source_of[candidate], wrong_x, wrong_y)
            closer = there < away
            best[closer], away[closer] = candidate[closer], there[closer]
        flat[wrong] = best
    nearest[off] = source_of[flat[wrong]]
    # Four bytes at a time: a pixel is one number, its alpha the last byte.
    colours = np.ascontiguousarray(art).reshape(-1, 4).view("<u4").ravel()
    solid = cv2.copyTo(art, art_mask)
    cv2.insertChannel(art_mask * np.uint8(255), solid, 3)
    out = np.ascontiguousarray(solid).reshape(-1, 4).view("<u4").ravel()
    out[zone] = colours[(nearest >> 16) * np.uint32(width) + (nearest & 0xFFFF)] | OPAQUE
    return out.view(np.uint8).reshape(height, width, 4), pad


def _places(mask: NDArray[np.uint8]) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """Columns and rows of what is set."""
    found = cv2.findNonZero(mask)
    places = np.empty((0, 2), np.int32) if found is None else np.asarray(found, np.int32).reshape(-1, 2)
    return np.ascontiguousarray(places[:, 0]), np.ascontiguousarray(places[:, 1])
