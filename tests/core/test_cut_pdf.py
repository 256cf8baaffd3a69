"""Cut lines as PDF, read back by another program than the one that wrote them."""

import pypdfium2
import pypdfium2.raw as pdfium
import pytest
import shapely
from shapely.geometry import box

from perisect.core.formats import CutSheet, rings_of
from perisect.core.formats.pdf import write_pdf
from perisect.core.process import TABLE, processes


def test_a_cut_pdf_holds_each_line_at_its_place_in_its_own_colour() -> None:
    kiss, through = box(10, 20, 40, 30), box(8, 18, 42, 32)
    sheet = CutSheet(
        210, 297, {"kiss": rings_of(kiss), "through": rings_of(through)}, {"kiss": [0], "through": [0]}, []
    )
    page = pypdfium2.PdfDocument(write_pdf(sheet))[0]
    assert page.get_size() == pytest.approx((595.276, 841.890), abs=0.01)
    found = {}
    for each in page.get_objects([pdfium.FPDF_PAGEOBJ_PATH]):
        r, g, b, a = (pdfium.c_uint() for _ in range(4))
        pdfium.FPDFPageObj_GetStrokeColor(each.raw, r, g, b, a)
        found[(r.value, g.value, b.value)] = each.get_bounds()
    for name, shape in (("kiss", kiss), ("through", through)):
        left, top, right, bottom = shapely.bounds(shape)
        # From the lower left, points of 1/72 inch; half the line's width round it.
        expected = [v * 72 / 25.4 for v in (left - 0.1, 297 - bottom - 0.1, right + 0.1, 297 - top + 0.1)]
        assert found[TABLE[name].rgb] == pytest.approx(expected, abs=0.4)


def test_every_process_begins_with_a_share_of_the_force_there_is() -> None:
    assert all(0 < process.force_share <= 1 for process in processes())
