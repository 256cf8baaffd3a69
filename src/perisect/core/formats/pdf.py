"""Cut lines as PDF: one page, 1:1, a layer for each process by its id, and `marks`; lines as vectors, no art."""

from perisect.core.formats import CutSheet
from perisect.core.formats.line_page import LinePage, line_paths, ring_path
from perisect.core.process import MARKS_COLOUR, processes

LINE_MM = 0.2


def write_pdf(sheet: CutSheet) -> bytes:
    """Closed lines are the curves they were fitted with, where there are any; colours and dashes as on the screen."""
    page = LinePage(sheet.width_mm, sheet.height_mm)
    for process in processes():
        paths = line_paths(sheet, process.name, process.closed)
        if paths:
            page.layer(process.name, _pen(process.colour, process.dash_mm), paths)
    if sheet.marks:
        page.layer("marks", _pen(MARKS_COLOUR, ()), [ring_path(ring) for ring in sheet.marks])
    return page.bytes()


def _pen(colour: str, dash_mm: tuple[float, ...]) -> str:
    red, green, blue = (level / 255 for level in bytes.fromhex(colour.removeprefix("#")))
    dash = " ".join(f"{mm:g}" for mm in dash_mm)
    return f"{red:.4f} {green:.4f} {blue:.4f} RG {LINE_MM} w [{dash}] 0 d"
