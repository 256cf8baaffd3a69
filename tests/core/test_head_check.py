"""The head pattern: what a printer that has lost nozzles prints of it, and what is read from scans and photos."""

import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from perisect.core.prepress.head_pattern import PageTooSmall, dashes, head_pattern_pdf
from perisect.core.prepress.head_read import Gap, NotThePattern, read_head
from perisect.core.prepress.print_head import GROUPS, INKS
from perisect.core.prepress.raster import render_page
from perisect.core.sheet.stock import A4, LETTER, Stock
from perisect.stand_ins.printer import Printer

PATTERN = head_pattern_pdf(A4, "Desk printer")


def scanned(page: NDArray[np.uint8], rng: np.random.Generator, tilt: float = 0.0) -> NDArray[np.uint8]:
    """A scan of 150 to 300 ppi on a dark lid, turned and unevenly lit; with tilt, a photo."""
    height, width = page.shape[:2]
    k, pad = rng.uniform(0.5, 1.0), 40
    corners = np.array([[0, 0], [width, 0], [width, height], [0, height]], np.float32)
    a = np.radians(rng.uniform(-4, 4))
    turn = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])
    seen = (corners - (width / 2, height / 2)) @ turn.T * k
    seen *= 1 + tilt * np.array([[0.0], [0.06], [-0.04], [0.03]])
    seen += -seen.min(axis=0) + pad
    matrix = cv2.getPerspectiveTransform(corners, seen.astype(np.float32))
    size = tuple(int(side) + pad for side in np.ceil(seen.max(axis=0)))
    warped = cv2.warpPerspective(page, matrix, size, flags=cv2.INTER_AREA, borderValue=(60, 60, 60))
    light = np.linspace(1.0, rng.uniform(0.8, 1.0), warped.shape[1])[None, :, None]
    view = np.asarray(cv2.GaussianBlur(warped, (0, 0), 0.7), float) * light + rng.normal(0, 4, warped.shape)
    seen_px = np.clip(view * 0.94 + 8, 0, 255).astype(np.uint8)
    coded = cv2.imencode(".jpg", seen_px[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 85])[1]
    decoded = cv2.imdecode(coded, cv2.IMREAD_COLOR)
    assert decoded is not None
    return np.asarray(decoded[..., ::-1], np.uint8)


def test_a_page_holds_a_dash_for_each_group_of_each_ink_and_none_touches_another() -> None:
    boxes = np.array([dash.box for dash in dashes()])
    assert len(boxes) == len(INKS) * GROUPS
    page, k = render_page(PATTERN)
    for dash in dashes()[::7]:
        left, top, right, bottom = (round(side * k) for side in dash.box)
        inside = page[top + 2 : bottom - 1, left + 2 : right - 2].reshape(-1, 3).mean(axis=0)
        assert inside.min() < 40
        assert page[top - 2, left + 5].min() > 200  # bare above it


@pytest.mark.long
@pytest.mark.parametrize("tilt", [0.0, 1.0])
def test_gaps_are_found_on_scans_and_photos_of_prints_that_are_a_little_off(tilt: float) -> None:
    there = found = false = 0
    for seed in range(3):
        printer = Printer(seed, fault="dropped-nozzles")
        page, _, _ = printer.print_page(PATTERN)
        seen = read_head(scanned(page, np.random.default_rng(seed), tilt), A4)
        told = {(gap.ink, gap.group) for gap in seen}
        there += len(printer.gaps)
        found += len(told & printer.gaps)
        false += len(told - printer.gaps)
    assert there > 10
    assert found >= 0.95 * there
    assert false <= 0.01 * 3 * len(INKS) * GROUPS


def test_a_head_that_is_well_has_no_gap_and_an_ink_that_is_empty_has_them_all() -> None:
    page, _, _ = Printer(3).print_page(PATTERN)
    assert read_head(page, A4) == []
    turned = np.ascontiguousarray(np.rot90(page, 2))
    assert read_head(turned, A4) == []  # upside down on the glass
    empty, _, _ = Printer(3, gaps={("cyan", group) for group in range(GROUPS)}).print_page(PATTERN)
    assert read_head(empty, A4) == [Gap("cyan", group) for group in range(GROUPS)]


def test_what_is_no_page_of_the_pattern_is_refused_with_a_word_of_what_to_do() -> None:
    page, _, _ = Printer(3).print_page(PATTERN)
    noise = np.random.default_rng(1).integers(0, 255, (700, 500, 3), np.uint8)
    for picture in (noise, np.full((40, 40, 3), 255, np.uint8), page[: len(page) // 3]):
        with pytest.raises(NotThePattern, match="targets"):
            read_head(picture, A4)
    mirrored = np.ascontiguousarray(page[:, ::-1])
    with pytest.raises(NotThePattern):
        read_head(mirrored, A4)
    with pytest.raises(NotThePattern):
        read_head(page, LETTER)
    with pytest.raises(PageTooSmall, match="mm"):
        head_pattern_pdf(Stock("slip", "Slip", 100, 150), "Desk printer")
