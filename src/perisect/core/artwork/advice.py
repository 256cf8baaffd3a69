"""What a drawing's edge tells: where the picture cuts it flat, and how it stands out from the paper."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.cielab import lab_of
from perisect.core.artwork.picture import alpha_of

PAPER_LAB = np.array([100.0, 0.0, 0.0])
MOST_SAMPLES = 20_000


@dataclass(frozen=True)
class Edge:
    """Art along its own edge.

    `flat_px` is the longest run of the picture's edge that art touches, with its middle; `pale_share`
    the share of the art's rim that hardly differs from white paper, `contrast` the median CIELAB
    distance of the rim from white.
    """

    flat_px: float = 0.0
    flat_at: tuple[float, float] = (0.0, 0.0)
    pale_share: float = 0.0
    contrast: float = 100.0


PALE_DELTA_E = 12.0


def edge_of(rgba: NDArray[np.uint8]) -> Edge:
    """Facts of an (h, w, 4) picture's edge."""
    alpha = alpha_of(rgba)
    height, width = alpha.shape
    sides = ((alpha[0], "x", 0), (alpha[-1], "x", height), (alpha[:, 0], "y", 0), (alpha[:, -1], "y", width))
    flat, place = 0.0, (0.0, 0.0)
    for side, along, at in sides:
        start, length = _longest_run(side >= 128)
        if length > flat:
            middle = start + length / 2
            flat, place = float(length), (middle, float(at)) if along == "x" else (float(at), middle)
    solid = np.asarray(cv2.inRange(alpha, 250, 255), np.uint8)
    # The band inside the antialiased edge: colours there are the art's own.
    inner = np.asarray(cv2.erode(solid, np.ones((5, 5), np.uint8), borderValue=0), np.uint8)
    band = np.flatnonzero((solid > inner).ravel())
    if len(band) == 0:
        return Edge(flat, place)
    band = band[:: max(1, len(band) // MOST_SAMPLES)]
    apart = np.linalg.norm(lab_of(rgba.reshape(-1, 4)[band, :3]) - PAPER_LAB, axis=1)
    return Edge(flat, place, float((apart < PALE_DELTA_E).mean()), float(np.median(apart)))


def _longest_run(row: NDArray[np.bool_]) -> tuple[int, int]:
    """Start and length of the longest run of True."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], row.view(np.int8), [0]])))
    starts, ends = edges[::2], edges[1::2]
    if len(starts) == 0:
        return 0, 0
    longest = int((ends - starts).argmax())
    return int(starts[longest]), int(ends[longest] - starts[longest])
