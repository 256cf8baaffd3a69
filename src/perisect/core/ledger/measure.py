"""Measure a sheet that was printed and cut: the slip of every sticker between its print and its cut."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from perisect.core.cutting.sensing import MarkNotFound, SheetTurned
from perisect.core.ledger.scan import read_printed
from perisect.core.ledger.slip import SlipReport, WantedSticker, measure_slip
from perisect.core.prepress.raster import MM_PER_INCH, render_page
from perisect.core.sheet.marks import Mark, MarkSettings


def measure_cut(
    picture: NDArray[np.uint8],
    px_per_mm: float,
    pdf: bytes,
    marks: Sequence[Mark],
    settings: MarkSettings,
    wanted: Sequence[WantedSticker],
    strokes: Sequence[NDArray[np.float64]],
) -> SlipReport | None:
    """Measure every sticker of a sheet.

    Args:
        picture: (h, w, 3) the printed sheet.
        px_per_mm: scale of the picture.
        pdf: the print file that the sheet was printed from, one page.
        marks: where the sheet has its marks.
        settings: how these marks are drawn.
        wanted: stickers as they are to be cut.
        strokes: (n, 2) paths of the knife's tip, one a stroke, sheet mm.

    Returns:
        The slip of every sticker; None where the picture's marks were not found.
    """
    drawn, _ = render_page(pdf, ppi=px_per_mm * MM_PER_INCH)
    try:
        printed = read_printed(_grey(picture), px_per_mm, marks, settings)
    except (MarkNotFound, SheetTurned):
        return None
    return measure_slip(printed, _grey(drawn), wanted, strokes)


def _grey(picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return np.asarray(Image.fromarray(picture).convert("L"))
