"""Eraser and restore brush, and a colour pointed at: what no rule catches."""

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.recipe import Stroke

FINE_BITS = 4
"""OpenCV draws at sixteenths of a pixel."""


def brushed(
    rgba: NDArray[np.uint8], original: NDArray[np.uint8], strokes: Sequence[Stroke]
) -> NDArray[np.uint8]:
    """The picture after some strokes, one after the other.

    Args:
        rgba: (h, w, 4) as mended so far.
        original: (h, w, 4) as it came, which the restore brush brings back.
    """
    if not strokes:
        return rgba
    out = rgba.copy()
    for stroke in strokes:
        box, mask = _mask(stroke, rgba.shape[0], rgba.shape[1])
        if mask is None:
            continue
        part = out[box]
        share = mask.astype(np.float32) / 255
        if stroke.kind == "erase":
            part[..., 3] = np.round(part[..., 3] * (1 - share))
        else:
            # Where the brush covers fully the original is back, at its edge as much as it covers.
            more = original[box][..., 3] * share > part[..., 3]
            part[more, :3] = original[box][more, :3]
            part[..., 3] = np.maximum(part[..., 3], np.round(original[box][..., 3] * share))
    return out


def _mask(stroke: Stroke, height: int, width: int) -> tuple[tuple[slice, slice], NDArray[np.uint8] | None]:
    """Coverage of a stroke and the part of the picture it touches."""
    points = np.array(stroke.points)
    reach = stroke.radius_px + 2
    left, top = (max(0, int(n)) for n in points.min(axis=0) - reach)
    right, bottom = (int(n) + 1 for n in points.max(axis=0) + reach)
    box = (slice(top, min(bottom, height)), slice(left, min(right, width)))
    if left >= min(right, width) or top >= min(bottom, height):
        return box, None
    # Distance to the path, drawn one pixel wide: OpenCV's own thick lines are up to two pixels too wide.
    path = np.ones((box[0].stop - top, box[1].stop - left), np.uint8)
    # OpenCV's pixel 0 is the first pixel's centre.
    fine = np.round((points - (left, top) - 0.5) * (1 << FINE_BITS)).astype(np.int32)
    fine = np.vstack([fine, fine[-1:]])  # a single touch is a line as well
    cv2.polylines(path, [fine], False, 0, 1, cv2.LINE_8, FINE_BITS)
    away = cv2.distanceTransform(path, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return box, np.clip((stroke.radius_px + 0.5 - away) * 255, 0, 255).astype(np.uint8)
