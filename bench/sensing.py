"""How near a mark is found to where it is, beside what the noise of the sensor's picture allows."""

from collections.abc import Iterator
from functools import partial

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.figure import Figure
from perisect.core.cutting.sensing import View, find_mark
from perisect.core.sheet.mark_shape import SHAPES, mark_picture
from perisect.core.sheet.marks import Mark, MarkSettings

PX_PER_MM, HALF_MM, FINE, NOISE, VIEWS = 10.0, 8.0, 8, 5.0, 60
SIZE = round(2 * HALF_MM * PX_PER_MM) + 1
SETTINGS = MarkSettings()


def _seen(shape: str, ringed: bool, dx_mm: float, dy_mm: float) -> NDArray[np.float32]:
    """(161, 161) of a mark that lies beside the middle, without noise: drawn fine, blurred as the lens does."""
    fine = mark_picture(SETTINGS, ringed, PX_PER_MM * FINE, HALF_MM + 0.6, shape)
    soft = cv2.GaussianBlur(fine, (0, 0), FINE * 0.45)
    first = [
        (fine.shape[0] - 1) / 2 - FINE * (SIZE - 1) / 2 - off * PX_PER_MM * FINE for off in (dx_mm, dy_mm)
    ]
    warp = np.array([[FINE, 0, first[0]], [0, FINE, first[1]]])
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    seen = cv2.warpAffine(soft, warp, (SIZE, SIZE), flags=flags, borderValue=1.0)
    return np.asarray(cv2.GaussianBlur(seen * 219 + 12, (0, 0), 0.8), np.float32)


def _look(
    shape: str, ringed: bool, lies: tuple[float, float], rng: np.random.Generator, x: float, y: float
) -> View:
    seen = _seen(shape, ringed, lies[0] - x, y - lies[1]) + rng.normal(0, NOISE, (SIZE, SIZE))
    return View(np.clip(seen, 0, 255).astype(np.uint8), x, y, PX_PER_MM)


def _bound_um(shape: str, ringed: bool) -> float:
    """The least root mean square distance that white noise allows an unbiased estimate (Cramér and Rao): the inverse of
    the Fisher information of the picture's shift."""
    rows, columns = np.gradient(_seen(shape, ringed, 0.0, 0.0).astype(float))
    slopes = np.stack([columns.ravel(), rows.ravel()])
    information = slopes @ slopes.T / NOISE**2
    return float(np.sqrt(np.trace(np.linalg.inv(information)))) / PX_PER_MM * 1000


def marks_beside_their_noise() -> Iterator[Figure]:
    """The root mean square distance from the true centre, for each shape of mark, beside that bound."""
    rng = np.random.default_rng(3)
    for shape in SHAPES:
        for ringed in (False, True):
            mark, off = Mark(0, 0, "ringed" if ringed else "plain", (1, 1), shape, "mark"), []
            for _ in range(VIEWS):
                x, y = rng.uniform(-0.5, 0.5, 2)
                look = partial(_look, shape, ringed, (x, y), rng)
                found = find_mark([mark], 0, (0.0, 0.0), SETTINGS, look)
                off.append((found.x_mm - x, found.y_mm - y))
            bound = _bound_um(shape, ringed)
            rms = float(np.sqrt(np.square(off).sum(axis=1).mean())) * 1000
            name = f"{SHAPES[shape].title}{', ringed' if ringed else ''}"
            yield Figure(name, rms, bound, "um", "bound", 1.5 * bound)
