"""A picture small enough for the screen."""

import cv2
import numpy as np
from numpy.typing import NDArray

LONGEST_PX = 1400


def preview_png(rgba: NDArray[np.uint8]) -> bytes:
    """PNG of an (h, w, 4) picture for the screen."""
    return as_png(shrunk(rgba, LONGEST_PX))


def shrunk(rgba: NDArray[np.uint8], longest_px: int) -> NDArray[np.uint8]:
    """An (h, w, 4) picture reduced by area to at most `longest_px`, colours weighed by their coverage."""
    # Of a huge picture every second or third pixel is enough, and keeps memory small.
    step = max(1, max(rgba.shape[:2]) // (2 * longest_px))
    rgba = rgba[::step, ::step]
    height, width = rgba.shape[:2]
    scale = longest_px / max(height, width)
    if scale >= 1:
        return np.ascontiguousarray(rgba)
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    alpha = rgba[..., 3:].astype(np.float32) / 255
    weighed = np.concatenate([rgba[..., :3] * alpha, alpha * 255], axis=2, dtype=np.float32)
    small = np.asarray(cv2.resize(weighed, size, interpolation=cv2.INTER_AREA), np.float32)
    small[..., :3] /= np.maximum(small[..., 3:] / 255, 1 / 255)
    return np.clip(np.round(small), 0, 255).astype(np.uint8)


def as_png(rgba: NDArray[np.uint8]) -> bytes:
    """A quickly packed PNG of an (h, w, 4) picture."""
    bgra = cv2.cvtColor(np.ascontiguousarray(rgba), cv2.COLOR_RGBA2BGRA)
    done, png = cv2.imencode(".png", bgra, [cv2.IMWRITE_PNG_COMPRESSION, 2])
    if not done:
        raise ValueError("the picture has no pixels")
    return png.tobytes()
