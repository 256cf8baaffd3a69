"""Pages of words and plain shapes at true size: cards, tests and patterns that a printer prints for itself."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import pikepdf

from perisect.core.artwork.colour import levels
from perisect.core.fonts.font import font
from perisect.core.prepress.page import one_page
from perisect.core.prepress.writing import Writing, write
from perisect.core.sheet import Stock
from perisect.core.sheet.labels.label import PaintedText
from perisect.core.sheet.labels.recipe import Colour, FontName
from perisect.core.units import POINTS_PER_MM

INK: Colour = "#16211f"


@dataclass(frozen=True)
class Words:
    """A line of text from (x, y) on its base line, page mm, its capitals so high."""

    text: str
    x_mm: float
    y_mm: float
    size_mm: float = 2.6
    font: FontName = "text"
    colour: Colour = INK


def broken(text: str, width_mm: float, size_mm: float, name: FontName = "text") -> list[str]:
    """A text in lines of at most this width, broken between words."""
    lines: list[str] = []
    for word in text.split():
        longer = f"{lines[-1]} {word}" if lines else word
        if lines and font(name).shape(longer).width * size_mm <= width_mm:
            lines[-1] = longer
        else:
            lines.append(word)
    return lines


def text_page(stock: Stock, words: Sequence[Words], operators: Sequence[str] = ()) -> bytes:
    """A PDF of one page of this size; `operators` paint under the words, in mm from the page's top left."""
    pdf, shown = pikepdf.new(), pikepdf.Dictionary()
    up = np.array([[1, 0, 0], [0, -1, stock.height_mm], [0, 0, 1]], float)
    page = np.diag([POINTS_PER_MM, POINTS_PER_MM, 1.0]) @ up
    k = POINTS_PER_MM
    content = [f"q {k:.6f} 0 0 {-k:.6f} 0 {stock.height_mm * k:.4f} cm", *operators, "Q"] if operators else []
    content += [
        write(pdf, shown, Writing(_set(line), levels(line.colour)), page) for line in words if line.text
    ]
    return one_page(pdf, stock, shown, content)


def _set(line: Words) -> PaintedText:
    glyphs = font(line.font).shape(line.text).glyphs
    size = line.size_mm
    return PaintedText(
        line.colour,
        tuple((line.font, glyph, line.x_mm + x * size, line.y_mm + y * size, size) for glyph, x, y in glyphs),
    )
