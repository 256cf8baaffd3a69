"""A flat drawing enlarged without halos: each of its colours as an area whose edge is sharp again.

Every pixel is a mixture of two colours of the palette. Each colour's share is enlarged by itself, smoothly, and where
shares meet the larger one wins within a pixel: the line between two colours is the place where both are half, told to a
fraction of a pixel of the small picture, as an outline is.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.colour import levels
from perisect.core.artwork.palette import palette_of, shares_of

MOST_COLOURS = 16
Floats = NDArray[np.float32]


def enlarged_flat(rgba: NDArray[np.uint8], times: int) -> NDArray[np.uint8]:
    """An (h, w, 4) flat picture, `times` as large."""
    swatches = palette_of(rgba)[:MOST_COLOURS]
    height, width = rgba.shape[:2]
    size = (width * times, height * times)
    clear = np.asarray(1 - rgba[..., 3].astype(np.float32) / 255, np.float32)
    if not swatches:
        return np.asarray(cv2.resize(rgba, size, interpolation=cv2.INTER_NEAREST), np.uint8)
    colours = np.array([levels(each.colour) for each in swatches], float)
    best = _large(clear, size)
    total = np.zeros((size[1], size[0]), np.float32)
    mixed = np.zeros((size[1], size[0], 3), np.float32)
    # What is clear is a layer like any colour.
    layers: list[tuple[Floats, Floats | None]] = [(best, None)]
    flat_shares = shares_of(rgba, colours) * (1 - clear)[..., None]
    for n, colour in enumerate(colours):
        layers.append((_large(np.ascontiguousarray(flat_shares[..., n]), size), colour.astype(np.float32)))
    highest = np.maximum.reduce([share for share, _ in layers])
    alpha = np.zeros_like(total)
    for share, colour_or_none in layers:
        # Against the largest of the others: half a pixel of the large picture to either side.
        weight = np.clip((share - highest) * times + 1, 0, 1)
        total += weight
        if colour_or_none is not None:
            alpha += weight
            mixed += weight[..., None] * colour_or_none
    painted = np.maximum(alpha, 1e-6)[..., None]
    out = np.clip(np.round(mixed / painted), 0, 255).astype(np.uint8)
    cover = np.clip(np.round(alpha / np.maximum(total, 1e-6) * 255), 0, 255).astype(np.uint8)
    return np.dstack([out, cover])


def _large(share: Floats, size: tuple[int, int]) -> Floats:
    """A share as smooth as its samples allow: cubic, for it rings less than sharper kernels (Keys 1981)."""
    return np.asarray(cv2.resize(share.astype(np.float32), size, interpolation=cv2.INTER_CUBIC), np.float32)
