"""How cuts look on the simulated sheet when a person lifts them: faint, frayed, clean, dark on the liner, through."""

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.belief import Answer

Picture = NDArray[np.uint8]
SHIFT = 4
"""Bits of a pixel's fraction that OpenCV draws with."""
INK: dict[Answer, tuple[int, int, int]] = {
    "not_through": (196, 200, 198),
    "ragged": (120, 124, 122),
    "clean": (40, 44, 42),
    "liner_marked": (40, 44, 42),
    "cut_through": (10, 10, 10),
}


def draw_look(picture: Picture, tip_px: NDArray[np.float64], look: Answer, rng: np.random.Generator) -> None:
    """Draw one cut along (n, 2) pixels into an (h, w, 3) picture."""
    if len(tip_px) < 2:
        return
    match look:
        case "not_through":
            # Pressed in, and open only here and there.
            _line(picture, tip_px, INK[look], 1)
        case "ragged":
            fray = tip_px + rng.normal(0, 1.1, tip_px.shape)
            _line(picture, fray, INK[look], 2)
            for at in tip_px[:: max(1, len(tip_px) // 12)]:
                _line(picture, np.vstack([at, at + rng.normal(0, 5, 2)]), INK[look], 1)
        case "clean":
            _line(picture, tip_px, INK[look], 2)
        case "liner_marked":
            _line(picture, tip_px + 2.5, (226, 190, 120), 4)
            _line(picture, tip_px, INK[look], 2)
        case "cut_through":
            _line(picture, tip_px + 2.5, (226, 190, 120), 7)
            _line(picture, tip_px, INK[look], 5)


def _line(picture: Picture, points: NDArray[np.float64], colour: tuple[int, int, int], wide: int) -> None:
    fixed = np.round(points * (1 << SHIFT)).astype(np.int32)
    cv2.polylines(picture, [fixed], False, colour, wide, cv2.LINE_AA, SHIFT)
