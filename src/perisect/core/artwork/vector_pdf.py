"""A page of a PDF to pixels, fine enough for any sticker."""

import io

import numpy as np
import pikepdf
import pypdfium2
import shapely
from numpy.typing import NDArray

from perisect.core.artwork.errors import ArtworkError
from perisect.core.artwork.held_line import FurtherLine, HeldLine, goes_round, is_thin
from perisect.core.artwork.held_line_pdf import PartedPage, parted_page
from perisect.core.artwork.pdf_paths import stroked_paths
from perisect.core.artwork.rendered import MOST_ASPECT, Decoded, rendering_px
from perisect.core.units import POINTS_PER_MM


def render_pdf(data: bytes, number: int = 1) -> Decoded:
    """A page (from 1) without its paper, and the cut line that it holds already.

    Raises:
        ArtworkError: damaged, protected, no such page, or a page of no size.
    """
    rgba, pages, mm_per_px = _pixels(data, number)
    held = None
    for round_the_piece in (True, False):
        parts = parted_page(data, number, round_the_piece)
        found = None if parts is None else _held(parts, number)
        if found is not None:
            held, rgba = found
            break
    notes = [f"Page {number} of {pages}."] if pages > 1 else []
    if _borrows_fonts(data, number):
        notes.append(
            "It names fonts it does not hold, so others stand in; turn its text into outlines to be sure."
        )
    return Decoded(rgba, tuple(notes), pages, held=held, mm_per_px=mm_per_px)


def _held(parts: PartedPage, number: int) -> tuple[HeldLine, NDArray[np.uint8]] | None:
    """The lines of a page, and (h, w, 4) of it without them; None if those round the pieces are areas, or go round
    nothing."""
    drawn, area = (_pixels(part, number)[0][..., 3] for part in (parts.lines, parts.area))
    art = _pixels(parts.art, number)[0]
    if parts.name and not (is_thin(drawn, area) and goes_round(parts.name, area, art[..., 3])):
        return None
    height_px, width_px = area.shape
    further = tuple(
        FurtherLine(process, points)
        for process, lines in parts.further.items()
        for points in stroked_paths(lines, number, width_px, height_px)
    )
    return HeldLine(parts.name, area, None if parts.name else shapely.MultiPolygon(), further), art


def _pixels(data: bytes, number: int) -> tuple[NDArray[np.uint8], int, float]:
    """(h, w, 4) of a page, how many pages there are, and what a px measures, mm."""
    try:
        document = pypdfium2.PdfDocument(data)
    except pypdfium2.PdfiumError as error:
        if "password" in str(error).lower():
            raise ArtworkError(
                "The PDF is protected.", "Save it without a password and drop it again."
            ) from error
        raise ArtworkError("The PDF is damaged or cut off.", "Export it again.") from error
    try:
        pages = len(document)
        if number > max(pages, 1):
            raise ArtworkError(f"The PDF has no page {number}.", f"It has {pages}; choose one of them.")
        page = document[number - 1]
        width, height = page.get_size()
        if min(width, height) <= 0 or not 1 / MOST_ASPECT <= width / height <= MOST_ASPECT:
            raise ArtworkError("The page has no usable size.", "Export it again on a page that fits the art.")
        scale = rendering_px(max(width, height) / POINTS_PER_MM) / max(width, height)
        bitmap = page.render(
            scale=scale,
            fill_color=(0, 0, 0, 0),
            force_bitmap_format=4,
            rev_byteorder=True,
        )
        return np.array(bitmap.to_numpy(), np.uint8), pages, 1 / POINTS_PER_MM / scale
    except (pypdfium2.PdfiumError, IndexError) as error:
        raise ArtworkError("The PDF has no page that can be drawn.", "Export it again.") from error
    finally:
        document.close()


def _borrows_fonts(data: bytes, number: int) -> bool:
    """Whether a page names a font whose shapes are not in the file."""
    try:
        with pikepdf.open(io.BytesIO(data)) as pdf:
            resources = pdf.pages[number - 1].get("/Resources", pikepdf.Dictionary())
            for font in dict(resources.get("/Font", pikepdf.Dictionary())).values():
                inner = font.get("/DescendantFonts", [font])[0]
                described = inner.get("/FontDescriptor", pikepdf.Dictionary())
                held = any(key in described for key in ("/FontFile", "/FontFile2", "/FontFile3"))
                if not held and font.get("/Subtype") != "/Type3":
                    return True
    except (pikepdf.PdfError, ValueError, TypeError, LookupError, AttributeError):
        # It was rendered; what its fonts are is a courtesy.
        return False
    return False
