"""Texts and codes of labels in a print file: every glyph once as a form, codes as one-bit masks."""

from dataclasses import dataclass

import numpy as np
import pikepdf
from numpy.typing import NDArray

from perisect.core.fonts.font import font
from perisect.core.sheet.labels import Painted, PaintedCode, PaintedText


@dataclass(frozen=True)
class Writing:
    """What a label says, in design mm, and the colour it is printed in."""

    painted: Painted
    colour: tuple[int, int, int]


def write(pdf: pikepdf.Pdf, shown: pikepdf.Dictionary, writing: Writing, page: NDArray[np.float64]) -> str:
    """Operators that print it; glyphs that are new are added to what the page shows.

    Args:
        page: (3, 3) from design mm to points.
    """
    colour = " ".join(f"{level / 255:.4f}" for level in writing.colour)
    if isinstance(writing.painted, PaintedCode):
        return f"q {colour} rg\n{_mask(writing.painted, page)} Q"
    return f"q {colour} rg\n{_glyphs(pdf, shown, writing.painted, page)} Q"


def _glyphs(pdf: pikepdf.Pdf, shown: pikepdf.Dictionary, text: PaintedText, page: NDArray[np.float64]) -> str:
    parts = []
    for name, glyph, x, y, size in text.glyphs:
        outline = font(name).outline(glyph)
        if not outline.letters:
            continue
        form = f"/G{name.replace('-', '')}{glyph}"
        if form not in shown:
            shown[form] = pdf.make_stream(
                f"{outline.pdf()}\nf".encode(),
                Type=pikepdf.Name.XObject,
                Subtype=pikepdf.Name.Form,
                FormType=1,
                BBox=[-4, -4, 8, 4],
                Resources=pikepdf.Dictionary(),
            )
        parts.append(f"q {_numbers(page @ np.array([[size, 0, x], [0, size, y], [0, 0, 1]]))} cm {form} Do Q")
    return "\n".join(parts)


def _mask(code: PaintedCode, page: NDArray[np.float64]) -> str:
    """An inline image mask: its dark bits take the colour at hand. The unit square's first row is at y = 1."""
    left, top, width, height = code.box
    rows, columns = code.modules.shape
    bits = np.packbits(code.modules, axis=1).tobytes().hex()
    unit = page @ np.array([[width, 0, left], [0, -height, top + height], [0, 0, 1]])
    return f"{_numbers(unit)} cm BI /W {columns} /H {rows} /IM true /BPC 1 /D [1 0] /F /AHx ID\n{bits}>\nEI"


def _numbers(matrix: NDArray[np.float64]) -> str:
    m = matrix
    return " ".join(f"{n:.4f}" for n in (m[0, 0], m[1, 0], m[0, 1], m[1, 1], m[0, 2], m[1, 2]))
