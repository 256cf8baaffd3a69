"""Pictures made for the tests: drawn art whose true alpha is known, on every kind of background."""

import io

import cv2
import numpy as np
from PIL import Image

SAMPLES = 4


def art(rng: np.random.Generator, size: int, inside: bool = True) -> np.ndarray:
    """(size, size, 4) drawn art with antialiased alpha: blobs, rings, strokes in a few strong colours."""
    fine = size * SAMPLES
    colour = np.zeros((fine, fine, 3), np.uint8)
    alpha = np.zeros((fine, fine), np.uint8)
    low, high = (0.2, 0.8) if inside else (0.05, 0.95)
    for _ in range(rng.integers(3, 8)):
        ink = tuple(int(c) for c in rng.integers(0, 200, 3))
        if max(ink) - min(ink) < 60:
            ink = (ink[0] // 2, 160, ink[2])
        centre = (rng.uniform(low + 0.1, high - 0.1, 2) * fine).astype(int)
        kind = rng.integers(0, 3)
        thick = -1 if rng.random() < 0.7 else int(fine * rng.uniform(0.03, 0.06))
        if kind == 0:
            axes = tuple(int(n) for n in rng.uniform(0.06, 0.2, 2) * fine)
            for canvas, value in ((colour, ink), (alpha, 255)):
                cv2.ellipse(canvas, centre.tolist(), axes, rng.uniform(0, 180) * 0 + 30, 0, 360, value, thick)
        elif kind == 1:
            turn = np.sort(rng.uniform(0, 2 * np.pi, rng.integers(3, 8)))
            points = centre + fine * 0.18 * np.column_stack([np.cos(turn), np.sin(turn)])
            for canvas, value in ((colour, ink), (alpha, 255)):
                cv2.fillPoly(canvas, [points.astype(np.int32)], value)
        else:
            ends = (rng.uniform(low, high, (2, 2)) * fine).astype(int)
            for canvas, value in ((colour, ink), (alpha, 255)):
                cv2.line(canvas, ends[0].tolist(), ends[1].tolist(), value, int(fine * 0.03))
    a = alpha.reshape(size, SAMPLES, size, SAMPLES).mean(axis=(1, 3))
    weighed = (colour * (alpha[..., None] / 255)).reshape(size, SAMPLES, size, SAMPLES, 3).mean(axis=(1, 3))
    own = weighed / np.maximum(a[..., None] / 255, 1e-6)
    own[a == 0] = 0
    return np.dstack([own, a]).round().clip(0, 255).astype(np.uint8)


def over(rgba: np.ndarray, behind: np.ndarray) -> np.ndarray:
    """Art on an (h, w, 3) background."""
    a = rgba[..., 3:].astype(float) / 255
    return (rgba[..., :3] * a + behind * (1 - a)).round().astype(np.uint8)


def plain(rng: np.random.Generator, size: int) -> np.ndarray:
    """One colour, commonly white or nearly so."""
    choice = rng.random()
    colour = (
        [255, 255, 255] if choice < 0.4 else [250, 249, 246] if choice < 0.55 else rng.integers(0, 256, 3)
    )
    return np.full((size, size, 3), colour, np.uint8)


def squares(rng: np.random.Generator, size: int) -> np.ndarray:
    """A painted checkerboard of 4 to 64 px squares in two greys, at any phase."""
    square = int(rng.integers(4, 65))
    light = int(rng.choice([255, 254, 240, 230]))
    dark = light - int(rng.choice([20, 26, 40, 51, 64]))
    x, y = rng.integers(0, 2 * square, 2)
    column, row = (np.arange(size) + x) // square, (np.arange(size) + y) // square
    even = (column[None, :] + row[:, None]) % 2 == 0
    return np.where(even[..., None], light, dark).astype(np.uint8).repeat(3, axis=2)


def photo(rng: np.random.Generator, size: int) -> np.ndarray:
    """Textured all over: noise at several scales, lit unevenly."""
    picture = np.zeros((size, size, 3), np.float32)
    for scale in (2, 6, 20, 70):
        noise = rng.normal(0, 1, (size, size, 3)).astype(np.float32)
        noise = np.asarray(cv2.GaussianBlur(noise, (0, 0), scale), np.float32)
        picture += noise / noise.std() * rng.uniform(8, 30)
    axis = np.linspace(-1, 1, size, dtype=np.float32)
    picture += (axis[None, :, None] * rng.uniform(-60, 60) + axis[:, None, None] * rng.uniform(-60, 60)) + 128
    return picture.clip(0, 255).astype(np.uint8)


def as_jpeg(rgb: np.ndarray, quality: int) -> np.ndarray:
    """What is left of a picture after JPEG."""
    file = io.BytesIO()
    Image.fromarray(rgb).save(file, "JPEG", quality=quality)
    return np.asarray(Image.open(file).convert("RGB"))


def solid(rgb: np.ndarray) -> np.ndarray:
    """With a full alpha."""
    return np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])


def disc(size: int = 400, radius: float = 120) -> np.ndarray:
    """(size, size) coverage of a disc in the middle, antialiased."""
    away = np.hypot(*(np.mgrid[:size, :size] + 0.5 - size / 2))
    return np.clip(radius - away + 0.5, 0, 1)


def on(ground: np.ndarray | float, art: float | tuple[float, float, float], cover: np.ndarray) -> np.ndarray:
    """(h, w, 4) of art on a ground."""
    colour = np.broadcast_to(np.array(art, float), (*cover.shape, 3))
    behind = np.broadcast_to(ground, (*cover.shape, 3))
    return solid((colour * cover[..., None] + behind * (1 - cover[..., None])).round().astype(np.uint8))


def shadowed() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A disc with a soft shadow to its lower right: picture, cover of the disc, and how dark the shadow is."""
    cover = disc(400, 90)
    dark = np.asarray(cv2.GaussianBlur(np.roll(cover, (14, 14), (0, 1)), (0, 0), 7)) * 0.4
    ground = 255 * (1 - dark[..., None]) * np.ones(3)
    return on(ground, (200, 60, 30), cover), cover, dark
