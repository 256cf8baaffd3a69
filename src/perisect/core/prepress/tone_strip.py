"""The tone strip: one picture in labelled variants, to be printed on a stock and judged by eye."""

import numpy as np
import pikepdf
from numpy.typing import NDArray

from perisect.core.artwork.preview import shrunk
from perisect.core.artwork.tone import ToneRecipe, toned
from perisect.core.prepress.page import one_page
from perisect.core.prepress.print_file import EncodedPicture, encode_picture, picture_object
from perisect.core.sheet import Stock
from perisect.core.units import POINTS_PER_MM

COLUMNS = ((0, 0), (0, 15), (-6, 10), (6, 10))
"""Brightness and saturation added, a column each."""

ROWS = (0, 8, 16)
"""Contrast added, a row each: stock prints flatter than a screen, never steeper."""

PATCH_PX = 480
MARGIN_MM, LABEL_MM, GAP_MM = 14.0, 7.0, 5.0


def strip_tones(about: ToneRecipe) -> tuple[ToneRecipe, ...]:
    """The variants about a tone, row by row; the first is the tone itself."""
    return tuple(
        about.model_copy(
            update={
                "brightness": max(-50, min(50, about.brightness + brightness)),
                "contrast": max(-50, min(50, about.contrast + contrast)),
                "saturation": max(-100, min(100, about.saturation + saturation)),
            }
        )
        for contrast in ROWS
        for brightness, saturation in COLUMNS
    )


def strip_pdf(rgba: NDArray[np.uint8], stock: Stock, about: ToneRecipe) -> bytes:
    """One page of `stock` with an (h, w, 4) picture in every variant, numbered from 1."""
    small = shrunk(rgba, PATCH_PX)
    height, width = small.shape[:2]
    cell_width = (stock.width_mm - 2 * MARGIN_MM - (len(COLUMNS) - 1) * GAP_MM) / len(COLUMNS)
    cell_height = (stock.height_mm - 3 * MARGIN_MM - len(ROWS) * (LABEL_MM + GAP_MM)) / len(ROWS)
    scale = min(cell_width / width, cell_height / height)
    pdf = pikepdf.new()
    images, content = pikepdf.Dictionary(), []
    for number, tone in enumerate(strip_tones(about)):
        row, column = divmod(number, len(COLUMNS))
        picture = encode_picture(toned(small, tone))
        images[f"/P{number + 1}"] = picture_object(pdf, picture)
        left = MARGIN_MM + column * (cell_width + GAP_MM)
        top = 2 * MARGIN_MM + row * (cell_height + LABEL_MM + GAP_MM)
        content.append(_patch(f"/P{number + 1}", picture, left, top, scale, stock))
        label = f"{number + 1}   {tone.describe()}"
        content.append(_text(label, left, top + height * scale + LABEL_MM * 0.7, stock))
    content.append(
        _text(
            f"Tone strip for {stock.name}. Print at 100 %, let it dry, choose one.",
            MARGIN_MM,
            MARGIN_MM,
            stock,
        )
    )
    return one_page(pdf, stock, images, content)


def _patch(name: str, picture: EncodedPicture, left: float, top: float, scale: float, stock: Stock) -> str:
    k = POINTS_PER_MM
    width, height = picture.width_px * scale, picture.height_px * scale
    x, y = left + picture.left_px * scale, top + picture.top_px * scale + height
    return (
        f"q {width * k:.3f} 0 0 {height * k:.3f} {x * k:.3f} {(stock.height_mm - y) * k:.3f} cm {name} Do Q"
    )


def _text(text: str, x_mm: float, y_mm: float, stock: Stock) -> str:
    safe = text.replace("\\", r"\\").replace("(", r"\(").replace(")", r"\)")
    k = POINTS_PER_MM
    return f"BT 0 g /F1 9 Tf {x_mm * k:.2f} {(stock.height_mm - y_mm) * k:.2f} Td ({safe}) Tj ET"
