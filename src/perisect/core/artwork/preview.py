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
    rgba = _thinned(rgba, longest_px)
    size = _size(rgba, longest_px)
    if size is None:
        return np.ascontiguousarray(rgba)
    alpha = rgba[..., 3:].astype(np.float32) / 255
    weighed = rgba[..., :3] * alpha
    small = np.asarray(cv2.resize(weighed, size, interpolation=cv2.INTER_AREA), np.float32)
    covered = _reduced(np.ascontiguousarray(rgba[..., 3]), size)
    small /= np.maximum(covered / 255, 1 / 255)[..., None]
    return np.dstack([np.clip(np.round(small), 0, 255), np.round(covered)]).astype(np.uint8)


def shrunk_alpha(rgba: NDArray[np.uint8], longest_px: int) -> NDArray[np.uint8]:
    """The (h, w) coverage of what `shrunk` gives, without its colours."""
    rgba = _thinned(rgba, longest_px)
    size = _size(rgba, longest_px)
    alpha = np.ascontiguousarray(rgba[..., 3])
    return alpha if size is None else np.round(_reduced(alpha, size)).astype(np.uint8)


def _thinned(rgba: NDArray[np.uint8], longest_px: int) -> NDArray[np.uint8]:
    """Of a huge picture every second or third pixel is enough, and keeps memory small."""
    step = max(1, max(rgba.shape[:2]) // (2 * longest_px))
    return rgba[::step, ::step]


def _size(rgba: NDArray[np.uint8], longest_px: int) -> tuple[int, int] | None:
    """Width and height after reduction; None when there is nothing to reduce."""
    height, width = rgba.shape[:2]
    scale = longest_px / max(height, width)
    return (max(1, round(width * scale)), max(1, round(height * scale))) if scale < 1 else None


def _reduced(alpha: NDArray[np.uint8], size: tuple[int, int]) -> NDArray[np.float32]:
    return np.asarray(cv2.resize(alpha.astype(np.float32), size, interpolation=cv2.INTER_AREA), np.float32)


def as_png(rgba: NDArray[np.uint8]) -> bytes:
    """A quickly packed PNG of an (h, w, 4) picture."""
    bgra = cv2.cvtColor(np.ascontiguousarray(rgba), cv2.COLOR_RGBA2BGRA)
    done, png = cv2.imencode(".png", bgra, [cv2.IMWRITE_PNG_COMPRESSION, 2])
    if not done:
        raise ValueError("the picture has no pixels")
    return png.tobytes()
