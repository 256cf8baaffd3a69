"""A page of a stock at its true size."""

import io
from collections.abc import Sequence

import pikepdf

from perisect.core.sheet import Stock
from perisect.core.units import POINTS_PER_MM


def one_page(pdf: pikepdf.Pdf, stock: Stock, shown: pikepdf.Dictionary, content: Sequence[str]) -> bytes:
    """A PDF of one page, 1:1, whose reader is told not to scale it.

    Args:
        shown: images and forms by the names the content calls them.
        content: operators; text in them is set in /F1, Helvetica.
    """
    font = pikepdf.Dictionary(
        Type=pikepdf.Name.Font,
        Subtype=pikepdf.Name.Type1,
        BaseFont=pikepdf.Name.Helvetica,
        Encoding=pikepdf.Name.WinAnsiEncoding,
    )
    page = pikepdf.Dictionary(
        Type=pikepdf.Name.Page,
        MediaBox=[0, 0, stock.width_mm * POINTS_PER_MM, stock.height_mm * POINTS_PER_MM],
        Resources=pikepdf.Dictionary(XObject=shown, Font=pikepdf.Dictionary(F1=pdf.make_indirect(font))),
        Contents=pdf.make_stream("\n".join(content).encode("cp1252", "replace")),
    )
    pdf.pages.append(pikepdf.Page(pdf.make_indirect(page)))
    pdf.Root.ViewerPreferences = pikepdf.Dictionary(PrintScaling=pikepdf.Name("/None"))
    file = io.BytesIO()
    pdf.save(file, deterministic_id=True)
    return file.getvalue()
