"""What kind of art a picture is: it decides how many pixels an inch it needs."""

from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

SAMPLE_PX = 360
"""Looked at at about this size."""

PHOTO_COLOURS = 24
"""A photograph needs more colours than this to fill nine tenths of it, at 16 steps a channel."""

PHOTO_FLAT = 0.72
"""Less than this of a photograph is like the pixel beside it."""

LIKE_LEVELS = 6
LINE_COLOURS = 2
LINE_WIDTH = 0.035
"""Lines and type are at most this wide on average, of the art's longer side."""


class ArtKind(StrEnum):
    """Kinds of art, by what they need of the printer."""

    PHOTOGRAPH = "photograph"
    DRAWING = "drawing"
    LINE = "line"


def kind_of_art(rgba: NDArray[np.uint8]) -> ArtKind:
    """Photograph, drawing, or line art and type, from a sample of an (h, w, 4) picture's covered pixels.

    Pixels are picked, not averaged: averaging would give a drawing the shades of a photograph.
    """
    step = max(1, max(rgba.shape[:2]) // SAMPLE_PX)
    sample = rgba[::step, ::step]
    covered = sample[..., 3] > 200
    inked = int(covered.sum())
    if inked < 16:
        return ArtKind.DRAWING
    coarse = sample[..., :3][covered].astype(np.int32) >> 4
    counts = np.sort(np.bincount((coarse[:, 0] << 8) | (coarse[:, 1] << 4) | coarse[:, 2]))[::-1]
    colours = int(np.searchsorted(np.cumsum(counts), 0.9 * inked)) + 1
    # The pixel beside it in the picture itself, not in the sample.
    beside = rgba[::step, 1::step][:, : sample.shape[1]]
    here = sample[:, : beside.shape[1]]
    both = (here[..., 3] > 200) & (beside[..., 3] > 200)
    apart = np.abs(here[..., :3].astype(np.int16) - beside[..., :3]).max(axis=2)
    flat = float((apart[both] <= LIKE_LEVELS // 3).mean()) if both.any() else 1.0
    if colours >= PHOTO_COLOURS and (flat < PHOTO_FLAT or colours >= 6 * PHOTO_COLOURS):
        return ArtKind.PHOTOGRAPH
    if colours <= LINE_COLOURS and _width(covered) < LINE_WIDTH * max(covered.shape):
        return ArtKind.LINE
    return ArtKind.DRAWING


def _width(covered: NDArray[np.bool_]) -> float:
    """Mean width of the strokes: twice the area over the length of all edges."""
    edges = np.count_nonzero(covered[1:] != covered[:-1]) + np.count_nonzero(
        covered[:, 1:] != covered[:, :-1]
    )
    # Steps along rows and columns are longer than the edge by 4/π on average (Cauchy and Crofton).
    return 2 * float(covered.sum()) / max(edges * np.pi / 4, 1)
