"""The scale check from a scan, on drawn scans whose size is known."""

import cv2
import numpy as np
import pytest

from perisect.core.ledger.flat_sheet import NotTheSheet
from perisect.core.ledger.scale_check import check_scale, spans
from perisect.core.ledger.scale_scan import scanned_spans
from perisect.core.prepress.print_file import write_print_pdf
from perisect.core.prepress.raster import render_page
from perisect.core.sheet import Stock, usable_area
from perisect.core.units import MM_PER_INCH

AREA = usable_area(Stock("a4", "A4", 210, 297))
DRAWN = render_page(write_print_pdf(AREA.stock, AREA.marks, AREA.machine.marks, [], {}), ppi=600)[0]
DRAWN_MM = tuple(span.mm for span in spans(AREA.marks))


def scan(
    seed: int, scale: tuple[float, float], ppi: float = 300, turn_deg: float = 0.0, lean: float = 0.0
) -> np.ndarray:
    """(h, w) of a sheet printed at a scale, laid on a flatbed a little turned, with the scanner's noise."""
    rng = np.random.default_rng(seed)
    k = ppi / 600
    wide_mm = 310 if 45 < turn_deg < 135 else 225
    size = (round(wide_mm * ppi / MM_PER_INCH), round(310 * ppi / MM_PER_INCH))
    about = cv2.getRotationMatrix2D((size[0] / 2, size[1] / 2), turn_deg, 1.0)
    left = (wide_mm - 210) / 2 * ppi / MM_PER_INCH
    place = np.array([[scale[0] * k, 0, left], [0, scale[1] * k, 70], [0, 0, 1]])
    matrix = np.vstack([about, [0, 0, 1]]) @ place
    matrix = np.array([[1, 0, 0], [0, 1, 0], [0, lean / size[1], 1]]) @ matrix
    grey = cv2.cvtColor(DRAWN, cv2.COLOR_RGB2GRAY)
    soft = cv2.GaussianBlur(grey, (0, 0), 0.5 / k)
    seen = cv2.warpPerspective(soft, matrix, size, flags=cv2.INTER_LINEAR, borderValue=228).astype(np.float32)
    return np.clip(seen * 0.92 + 10 + rng.normal(0, 3, seen.shape), 0, 255).astype(np.uint8)


@pytest.mark.long
@pytest.mark.parametrize(("seed", "scale", "ppi", "turn"), [
    (1, (0.996, 1.003), 300, 0.4),
    (2, (1.0, 1.0), 300, -1.2),
    (3, (1.012, 0.985), 200, 0.0),
    (4, (0.998, 0.999), 400, 179.3),
    (5, (0.997, 1.002), 300, 90.5),
])  # fmt: skip
def test_distances_are_measured_to_a_tenth_of_a_mm(
    seed: int, scale: tuple[float, float], ppi: float, turn: float
) -> None:
    read = scanned_spans(scan(seed, scale, ppi, turn), AREA.marks, AREA.machine.marks, (210, 297), ppi)
    assert read == pytest.approx((DRAWN_MM[0] * scale[0], DRAWN_MM[1] * scale[1]), abs=0.1)


def test_what_is_off_is_corrected_and_what_is_not_stays() -> None:
    read = scanned_spans(scan(6, (0.996, 1.0002)), AREA.marks, AREA.machine.marks, (210, 297), 300)
    across, along = check_scale(DRAWN_MM, read)  # type: ignore[arg-type]
    assert (across.is_sure, along.is_sure) == (True, False)
    assert across.factor == pytest.approx(1 / 0.996, abs=0.0006)


@pytest.mark.long
def test_a_photo_at_an_angle_and_another_page_are_refused() -> None:
    with pytest.raises(NotTheSheet, match="angle"):
        scanned_spans(scan(7, (1, 1), lean=0.05), AREA.marks, AREA.machine.marks, (210, 297), 300)
    blank = np.full((3300, 2550), 240, np.uint8)
    with pytest.raises(NotTheSheet, match="marks are not all seen"):
        scanned_spans(blank, AREA.marks, AREA.machine.marks, (210, 297), 300)
