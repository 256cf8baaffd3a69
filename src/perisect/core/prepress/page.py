"""A page of a stock at its true size."""

import io
from collections.abc import Sequence
from functools import lru_cache

import pikepdf
from PIL import ImageCms

from perisect.core.prepress.page_font import ENCODING, page_font
from perisect.core.sheet import Stock
from perisect.core.units import POINTS_PER_MM

VERSION = "1.7"
SRGB = "sRGB IEC61966-2.1"
DATE = slice(24, 36)
"""Of an ICC profile's header (ICC.1:2022, 7.2): when it was made."""
MADE = bytes.fromhex("07e8 0001 0001 0000 0000 0000")
"""1 January 2024, so that the same page is the same file."""


def one_page(pdf: pikepdf.Pdf, stock: Stock, shown: pikepdf.Dictionary, content: Sequence[str]) -> bytes:
    """A PDF of one page, 1:1, whose reader is told not to scale it and in which colours it is.

    Args:
        shown: images and forms by the names the content calls them.
        content: operators; text in them is set in /F1, the shipped font.
    """
    box = [0, 0, stock.width_mm * POINTS_PER_MM, stock.height_mm * POINTS_PER_MM]
    page = pikepdf.Dictionary(
        Type=pikepdf.Name.Page,
        MediaBox=box,
        TrimBox=box,
        Resources=pikepdf.Dictionary(XObject=shown, Font=pikepdf.Dictionary(F1=page_font(pdf))),
        Contents=pdf.make_stream("\n".join(content).encode(ENCODING, "replace")),
    )
    pdf.pages.append(pikepdf.Page(pdf.make_indirect(page)))
    pdf.Root.ViewerPreferences = pikepdf.Dictionary(PrintScaling=pikepdf.Name("/None"))
    pdf.Root.OutputIntents = pikepdf.Array([pdf.make_indirect(_output_intent(pdf))])
    file = io.BytesIO()
    pdf.save(file, deterministic_id=True, min_version=VERSION)
    return file.getvalue()


def _output_intent(pdf: pikepdf.Pdf) -> pikepdf.Dictionary:
    """Colours are those of sRGB (ISO 32000-2, 14.11.5)."""
    return pikepdf.Dictionary(
        Type=pikepdf.Name.OutputIntent,
        S=pikepdf.Name("/GTS_PDFA1"),
        OutputConditionIdentifier=SRGB,
        Info=SRGB,
        DestOutputProfile=pdf.make_stream(_srgb(), N=3),
    )


@lru_cache(maxsize=1)
def _srgb() -> bytes:
    profile = bytearray(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
    profile[DATE] = MADE
    return bytes(profile)
