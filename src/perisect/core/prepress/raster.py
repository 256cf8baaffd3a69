"""A page of a PDF as a picture on white paper, true to size."""

import cv2
import numpy as np
import pypdfium2
from numpy.typing import NDArray

PPI = 300.0
MM_PER_INCH = 25.4
MOST_PX = 60_000_000
"""Pixels of a page; a longer one is drawn coarser."""


class RasterError(ValueError):
    """The page cannot be drawn; the text says why."""


def render_page(
    pdf: bytes,
    page: int = 0,
    ppi: float | None = None,
    largest_mm: tuple[float, float] = (3000.0, 30_000.0),
) -> tuple[NDArray[np.uint8], float]:
    """(h, w, 3) picture of what is left of a page when it is trimmed, pixel (i, j) showing the square from i / k, j / k
    mm on; and k, its px per mm.

    pdfium stretches a page to whole pixels; that is taken back, for it would be a scale error of its own.

    Args:
        ppi: pixels per inch; None for 300, or fewer where the page would have more than `MOST_PX`.
        largest_mm: width and length of the largest page.

    Raises:
        RasterError: not a PDF, no such page, or a page larger than that.
    """
    try:
        document = pypdfium2.PdfDocument(pdf)
    except pypdfium2.PdfiumError as error:
        raise RasterError("the file is not a PDF that can be read") from error
    try:
        sheet = document[page]
        crop = _beyond_trim(sheet)
        whole_width, whole_height = sheet.get_size()
        width = (whole_width - crop[0] - crop[2]) * MM_PER_INCH / 72
        height = (whole_height - crop[1] - crop[3]) * MM_PER_INCH / 72
        if min(width, height) <= 0 or width > largest_mm[0] or height > largest_mm[1]:
            raise RasterError(
                f"the page of {width:.0f} × {height:.0f} mm is larger than {largest_mm[0]:g} × {largest_mm[1]:g} mm"
            )
        if ppi is None:
            ppi = min(PPI, float(np.sqrt(MOST_PX / (width * height))) * MM_PER_INCH)
        stretched = np.ascontiguousarray(
            sheet.render(scale=ppi / 72, crop=crop, rev_byteorder=True).to_numpy()[..., :3]
        )
    except (pypdfium2.PdfiumError, IndexError) as error:
        raise RasterError("the file has no such page") from error
    finally:
        document.close()
    return _true_to_size(stretched, np.array([width, height]) * ppi / MM_PER_INCH), ppi / MM_PER_INCH


def _beyond_trim(sheet: pypdfium2.PdfPage) -> tuple[float, float, float, float]:
    """What a page has left of, below, right of and above the box it is trimmed to, points."""
    left, low, right, high = sheet.get_mediabox()
    inner = sheet.get_trimbox()
    if sheet.get_rotation() or not (
        left <= inner[0] < inner[2] <= right and low <= inner[1] < inner[3] <= high
    ):
        return (0, 0, 0, 0)
    if not np.allclose(sheet.get_size(), (right - left, high - low), atol=0.01):
        return (0, 0, 0, 0)  # A crop box of its own is what is shown.
    return (inner[0] - left, inner[1] - low, right - inner[2], high - inner[3])


def _true_to_size(stretched: NDArray[np.uint8], exact_px: NDArray[np.float64]) -> NDArray[np.uint8]:
    scale = exact_px / stretched.shape[1::-1]
    warp = np.column_stack([np.diag(scale), scale / 2 - 0.5])
    size = tuple(int(n) for n in np.ceil(exact_px - 0.5))
    drawn = cv2.warpAffine(
        stretched,
        warp,
        size,
        flags=cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_CONSTANT,
        borderValue=(255, 255, 255),
    )
    return np.asarray(drawn, np.uint8)
