"""Pictures of printed and cut sheets."""

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.formats.hpgl import PENS

COLOURS = {
    "crease": (138, 90, 158),
    "kiss": (0, 127, 140),
    "weed": (139, 150, 145),
    "slit": (200, 40, 30),
    "perforate": (122, 75, 18),
    "through": (200, 40, 30),
}
CUT_COLOURS = {PENS[process]: colour for process, colour in COLOURS.items()}


def decode_sheet(png: bytes) -> NDArray[np.uint8]:
    """(h, w, 3) red, green, blue of a sheet a device gave us.

    Raises:
        ValueError: not a picture.
    """
    picture = cv2.imdecode(np.frombuffer(png, np.uint8), cv2.IMREAD_COLOR)
    if picture is None:
        raise ValueError("not a picture")
    return np.asarray(cv2.cvtColor(picture, cv2.COLOR_BGR2RGB), np.uint8)


def draw_cuts(
    sheet: NDArray[np.uint8], px_per_mm: float, strokes: list[NDArray[np.float64]], pens: list[int]
) -> NDArray[np.uint8]:
    """The sheet with every cut drawn where the knife's tip went, paths in sheet mm."""
    canvas = np.ascontiguousarray(sheet)
    for stroke, pen in zip(strokes, pens, strict=True):
        # OpenCV's pixel 0 is the first pixel's centre; four bits of sub-pixel place.
        points = np.round((stroke * px_per_mm - 0.5) * 16).astype(np.int32)
        colour = CUT_COLOURS.get(pen, (90, 90, 90))
        cv2.polylines(canvas, [points], False, colour, thickness=2, lineType=cv2.LINE_AA, shift=4)
    return canvas
