"""Print files on a larger page: their boxes, and where the crop marks stand."""

import io

import numpy as np
import pikepdf
import pypdfium2

from perisect.core.prepress.crop_marks import with_crop_marks
from perisect.core.prepress.print_file import write_print_pdf
from perisect.core.prepress.raster import render_page
from perisect.core.sheet import A4, MarkSettings, marks_for

PLAIN = write_print_pdf(A4, marks_for(A4, MarkSettings()), MarkSettings(), [], {})


def test_the_trim_box_is_the_sheet_and_the_crop_marks_stand_outside_the_bleed() -> None:
    made = with_crop_marks(PLAIN)
    with pikepdf.open(io.BytesIO(made)) as file:
        page = file.pages[0]
        names = ("/MediaBox", "/BleedBox", "/TrimBox")
        boxes = {name: np.array([float(side) for side in page.obj[name]]) / 72 * 25.4 for name in names}
    assert np.allclose(boxes["/TrimBox"], [0, 0, 210, 297], atol=1e-3)
    assert np.allclose(boxes["/BleedBox"], [-3, -3, 213, 300], atol=1e-3)
    assert np.allclose(boxes["/MediaBox"], [-9, -9, 219, 306], atol=1e-3)
    whole = pypdfium2.PdfDocument(made)[0].render(scale=300 / 72).to_numpy()[..., 0] < 160
    k = 300 / 25.4
    rows, columns = np.nonzero(whole)
    x, y = columns / k - 9, rows / k - 9
    beyond = (x < -0.2) | (x > 210.2) | (y < -0.2) | (y > 297.2)
    assert beyond.sum() > 300
    # Each stands along an edge of the sheet, 3 to 8 mm past a corner.
    on_edge = np.minimum(np.minimum(abs(x), abs(x - 210)), np.minimum(abs(y), abs(y - 297)))[beyond]
    past = np.maximum(np.maximum(-x, x - 210), np.maximum(-y, y - 297))[beyond]
    assert on_edge.max() < 0.2
    assert 2.8 < past.min() < past.max() < 8.2


def test_what_is_trimmed_is_the_sheet_as_it_is_without_them() -> None:
    plain, k = render_page(PLAIN)
    trimmed, same = render_page(with_crop_marks(PLAIN))
    assert (k, plain.shape) == (same, trimmed.shape)
    assert np.abs(plain.astype(int) - trimmed.astype(int)).mean() < 0.05
