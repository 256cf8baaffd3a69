"""Pictures to measure with, drawn here."""

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image


def picture(size: int, lobes: int, depth: float, noise: bool) -> bytes:
    """PNG of a lobed blob with antialiased alpha, `size` pixels square."""
    axis = np.arange(size, dtype=np.float32) + 0.5 - size / 2
    x, y = axis[None, :], axis[:, None]
    turn, radius = np.arctan2(y, x), np.hypot(x, y)
    edge = size * 0.4 * (1 + 0.12 * np.sin(5 * turn) + depth * np.sin(lobes * turn))
    alpha = np.round(np.clip(edge - radius + 0.5, 0, 1) * 255).astype(np.uint8)
    if noise:
        colour = np.random.default_rng(1).integers(0, 255, (size, size, 3), dtype=np.uint8)
    else:
        colour = np.stack(np.broadcast_arrays(x % 256, y % 256, (x + y) % 256), axis=-1).astype(np.uint8)
    file = io.BytesIO()
    Image.fromarray(np.dstack([colour, alpha])).save(file, "PNG")
    return file.getvalue()


PICTURES = {
    "smooth": picture(2000, 17, 0.03, noise=False),
    "busy": picture(2000, 200, 0.01, noise=False),
    "noisy": picture(2000, 40, 0.02, noise=True),
}
"""2000 x 2000 px: few turns, many turns, and colours that hardly pack."""


def as_jpeg(rgb: NDArray[np.uint8], quality: int) -> NDArray[np.uint8]:
    """What is left of an (h, w, 3) picture after JPEG."""
    file = io.BytesIO()
    Image.fromarray(rgb).save(file, "JPEG", quality=quality)
    return np.asarray(Image.open(file).convert("RGB"))
