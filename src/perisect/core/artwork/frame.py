"""Frames for pictures whose background is not to be removed."""

import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.recipe import FrameRecipe


def framed(rgba: NDArray[np.uint8], frame: FrameRecipe) -> NDArray[np.uint8]:
    """The picture cut to a frame as large as it allows, its edge antialiased over one pixel.

    Coverage is the signed distance to the frame's edge plus half a pixel, clipped to 0…1.
    """
    height, width = rgba.shape[:2]
    x = np.abs(np.arange(width, dtype=np.float32) + np.float32(0.5 - width / 2))[None, :]
    y = np.abs(np.arange(height, dtype=np.float32) + np.float32(0.5 - height / 2))[:, None]
    half_width, half_height = width / 2, height / 2
    if frame.shape in ("circle", "ellipse"):
        if frame.shape == "circle":
            half_width = half_height = min(half_width, half_height)
        # Distance to an ellipse to first order: value over length of gradient.
        value = (x / half_width) ** 2 + (y / half_height) ** 2 - 1
        gradient = 2 * np.sqrt((x / half_width**2) ** 2 + (y / half_height**2) ** 2)
        inside = -value / np.maximum(gradient, 1e-6)
    else:
        share = frame.radius_pct / 100 if frame.shape == "rounded" else 0.0
        radius = np.float32(share * min(width, height))
        across, along = x - (half_width - radius), y - (half_height - radius)
        outer = np.hypot(np.maximum(across, 0), np.maximum(along, 0))
        inside = radius - outer - np.minimum(np.maximum(across, along), 0)
    coverage = np.clip(inside + 0.5, 0, 1)
    if frame.shape == "rectangle":
        return rgba
    out = rgba.copy()
    out[..., 3] = np.round(rgba[..., 3] * coverage).astype(np.uint8)
    return out
