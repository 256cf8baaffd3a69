"""Colours as the eye tells them apart."""

import cv2
import numpy as np
from numpy.typing import NDArray


def lab_of(rgb: NDArray[np.uint8] | NDArray[np.floating]) -> NDArray[np.float32]:
    """CIELAB (D65) of (…, 3) sRGB colours from 0 to 255, float32 of the same shape."""
    flat = np.ascontiguousarray(rgb, np.float32).reshape(1, -1, 3) / 255
    return np.asarray(cv2.cvtColor(flat, cv2.COLOR_RGB2LAB), np.float32).reshape(rgb.shape)


def lab_per_level(colour: tuple[int, int, int]) -> NDArray[np.float32]:
    """(3, 3) change of L, a, b by one level of red, green, blue about a colour."""
    about = np.array(colour, float)
    low, high = np.maximum(about - 4, 0), np.minimum(about + 4, 255)
    columns = []
    for channel in range(3):
        first, last = about.copy(), about.copy()
        first[channel], last[channel] = low[channel], high[channel]
        columns.append((lab_of(last[None]) - lab_of(first[None]))[0] / (high[channel] - low[channel]))
    return np.column_stack(columns).astype(np.float32)
