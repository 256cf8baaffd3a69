"""The paths that a page of a PDF strokes, as polylines in px of its rendering."""

import ctypes

import numpy as np
import pypdfium2
import pypdfium2.raw as pdfium
from numpy.typing import NDArray

MAX_SEGMENTS = 20_000
"""Most segments of the paths of a page. Chosen: ten times those of the largest die that was tried."""
CURVE_STEPS = 24
"""Chords of a Bezier segment: off by less than 0.03 % of its length for a quarter of a circle."""
PARTS = 256
"""Parts of a px that a place on a page is told in, since PDFium gives whole numbers."""

Points = NDArray[np.float64]


def stroked_paths(data: bytes, number: int, width_px: int, height_px: int) -> list[Points]:
    """Read the paths of a page that draws nothing but lines.

    Args:
        data: the PDF.
        number: the page, from 1.
        width_px: of the page's rendering.
        height_px: of the page's rendering.

    Returns:
        (n, 2) px of the rendering for each path; a closed one ends where it begins.

    Raises:
        pypdfium2.PdfiumError: the page cannot be read.
    """
    document = pypdfium2.PdfDocument(data)
    try:
        page = document[number - 1]
        matrix = _to_px(page, width_px, height_px)
        found: list[Points] = []
        left = MAX_SEGMENTS
        for item in page.get_objects(filter=(pdfium.FPDF_PAGEOBJ_PATH,)):
            at = item.get_matrix()
            placed = np.array([[at.a, at.c, at.e], [at.b, at.d, at.f]])
            for path in _subpaths(item.raw, left):
                left -= len(path)
                on_page = path @ placed[:, :2].T + placed[:, 2]
                found.append(on_page @ matrix[:, :2].T + matrix[:, 2])
        return found
    finally:
        document.close()


def _to_px(page: pypdfium2.PdfPage, width_px: int, height_px: int) -> Points:
    """(2, 3) from a page's points to px, whatever its boxes and its rotation."""
    size = width_px * PARTS, height_px * PARTS
    x, y = ctypes.c_int(), ctypes.c_int()
    places = []
    for corner in ((0.0, 0.0), (1000.0, 0.0), (0.0, 1000.0)):
        pdfium.FPDF_PageToDevice(page.raw, 0, 0, *size, 0, *corner, ctypes.byref(x), ctypes.byref(y))
        places.append((x.value / PARTS, y.value / PARTS))
    origin, across, along = np.array(places)
    return np.column_stack([(across - origin) / 1000, (along - origin) / 1000, origin])


def _subpaths(path: object, most: int) -> list[Points]:
    """(n, 2) points of each subpath, in the path's own space; curves as chords."""
    found: list[list[Points]] = []
    waiting: list[Points] = []
    for number in range(min(pdfium.FPDFPath_CountSegments(path), most)):
        segment = pdfium.FPDFPath_GetPathSegment(path, number)
        point = _point(segment)
        match pdfium.FPDFPathSegment_GetType(segment):
            case pdfium.FPDF_SEGMENT_MOVETO:
                found.append([point])
            case pdfium.FPDF_SEGMENT_LINETO if found:
                found[-1].append(point)
            case pdfium.FPDF_SEGMENT_BEZIERTO if found:
                waiting.append(point)
                if len(waiting) == 3:
                    found[-1].extend(_chords(found[-1][-1], *waiting))
                    waiting = []
        if found and pdfium.FPDFPathSegment_GetClose(segment):
            found[-1].append(found[-1][0])
    return [np.array(points) for points in found if len(points) > 1]


def _point(segment: object) -> Points:
    x, y = ctypes.c_float(), ctypes.c_float()
    pdfium.FPDFPathSegment_GetPoint(segment, ctypes.byref(x), ctypes.byref(y))
    return np.array([x.value, y.value])


def _chords(start: Points, one: Points, two: Points, end: Points) -> Points:
    """Points of a cubic Bezier segment after its start, by its Bernstein form."""
    t = np.linspace(0, 1, CURVE_STEPS + 1)[1:, None]
    return (1 - t) ** 3 * start + 3 * (1 - t) ** 2 * t * one + 3 * (1 - t) * t**2 * two + t**3 * end
