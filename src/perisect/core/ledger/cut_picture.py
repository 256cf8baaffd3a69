"""Pictures of printed and cut sheets."""

import io

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from perisect.core.process import by_pen
from perisect.core.sheet.stock import Stock

NO_PROCESS_RGB = (90, 90, 90)


def sheet_png(picture: NDArray[np.uint8]) -> bytes:
    """A quickly packed PNG of an (h, w, 3) picture of a sheet."""
    file = io.BytesIO()
    Image.fromarray(picture).save(file, "PNG", compress_level=2)
    return file.getvalue()


BLANK_PX_PER_MM = 4.0
"""Resolution of the picture of a bare sheet: cuts are drawn on it for a person to look at, and nothing is measured."""


def blank_sheet(stock: Stock) -> NDArray[np.uint8]:
    """Return an (h, w, 3) picture of a bare sheet at `BLANK_PX_PER_MM`."""
    size = round(stock.height_mm * BLANK_PX_PER_MM), round(stock.width_mm * BLANK_PX_PER_MM), 3
    return np.full(size, 255, np.uint8)


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
    sheet: NDArray[np.uint8],
    px_per_mm: float,
    strokes: list[NDArray[np.float64]],
    pens: list[int],
    thick_px: int = 2,
) -> NDArray[np.uint8]:
    """The sheet with every cut drawn where the knife's tip went, paths in sheet mm."""
    canvas = np.ascontiguousarray(sheet)
    for stroke, pen in zip(strokes, pens, strict=True):
        # OpenCV's pixel 0 is the first pixel's centre; four bits of sub-pixel place.
        points = np.round((stroke * px_per_mm - 0.5) * 16).astype(np.int32)
        process = by_pen(pen)
        colour = process.rgb if process is not None else NO_PROCESS_RGB
        cv2.polylines(canvas, [points], False, colour, thickness=thick_px, lineType=cv2.LINE_AA, shift=4)
    return canvas
