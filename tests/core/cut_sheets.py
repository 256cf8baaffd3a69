"""Sheets with art whose places are known exactly, cut beside it by a known way, as a scan or a photo shows them."""

from functools import lru_cache

import cv2
import numpy as np
import shapely

from perisect.core.ledger.slip import WantedSticker
from perisect.core.sheet import A4, MarkSettings, marks_for
from perisect.core.sheet.mark_shape import mark_picture
from perisect.stand_ins import cut_photo

K = 12.0
BIG = K * cut_photo.OVER
MARKS = marks_for(A4, MarkSettings())


def _px(mm: np.ndarray) -> np.ndarray:
    return np.round((np.asarray(mm) * BIG - 0.5) * 16).astype(np.int32)


@lru_cache(maxsize=2)
def sheet(seed: int) -> tuple[np.ndarray, list[WantedSticker]]:
    """A printed A4 sheet of 24 stickers at K px/mm, and the lines they are wanted to be cut along."""
    rng = np.random.default_rng([seed, 1])
    large = np.full((round(A4.height_mm * BIG), round(A4.width_mm * BIG), 3), 255, np.uint8)
    for number, mark in enumerate(MARKS):
        picture = (255 * mark_picture(MarkSettings(), number == 0, BIG, 6.0)).astype(np.uint8)
        left, top, reach = round(mark.x_mm * BIG - 0.5), round(mark.y_mm * BIG - 0.5), picture.shape[0] // 2
        large[top - reach : top + reach + 1, left - reach : left + reach + 1] = picture[..., None]
    wanted = []
    turn = np.linspace(0, 2 * np.pi, 90, endpoint=False)
    for y in np.arange(48, 262, 42):
        for x in np.arange(35, 190, 46):
            waves = zip((2, 3, 5), rng.normal(0, 1.0, 3), rng.uniform(0, 6, 3), strict=True)
            radius = 13 + sum(size * np.cos(many * turn + phase) for many, size, phase in waves)
            ring = np.c_[x + radius * np.cos(turn), y + radius * np.sin(turn)]
            cv2.fillPoly(large, [_px(ring)], rng.integers(20, 200, 3).tolist(), cv2.LINE_AA, 4)
            for _ in range(4):
                spot = tuple(_px(np.array([x, y]) + rng.uniform(-6, 6, 2)).tolist())
                colour = rng.integers(0, 255, 3).tolist()
                cv2.circle(large, spot, int(rng.uniform(1, 3) * BIG * 16), colour, -1, cv2.LINE_AA, 4)
            line = shapely.Polygon(ring).buffer(float(rng.choice([1.0, 2.0]))).exterior
            wanted.append(WantedSticker("d", line.bounds, shapely.multilinestrings([line]), 2.0, ()))
    share = 1 / cut_photo.OVER
    return np.asarray(cv2.resize(large, None, fx=share, fy=share, interpolation=cv2.INTER_AREA)), wanted


def off_by(wanted: list[WantedSticker], seed: int) -> np.ndarray:
    """By how much each is cut beside its place, (n, 2) mm."""
    return np.random.default_rng([seed, 2]).normal(0, 0.25, (len(wanted), 2)).clip(-1, 1)


def cut(printed: np.ndarray, wanted: list[WantedSticker], seed: int) -> tuple[np.ndarray, np.ndarray]:
    """The sheet with each line cut beside its place, and by how much, (n, 2) mm."""
    off = off_by(wanted, seed)
    lines = [shapely.get_coordinates(each.kiss) + d for each, d in zip(wanted, off, strict=True)]
    return cut_photo.cut_sheet(printed, K, lines, seed), off


def grey(picture: np.ndarray) -> np.ndarray:
    return np.asarray(cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY), np.uint8)
