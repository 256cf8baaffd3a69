"""The calibration page: its combs, and what they say."""

import cv2
import numpy as np
import pypdfium2
import pytest

from perisect.core.cutting.trueing import Trueing
from perisect.core.ledger.flat_sheet import NotTheSheet, located_however
from perisect.core.ledger.vernier import error_of
from perisect.core.ledger.vernier_scan import READS_TO_MM, scanned_readings
from perisect.core.prepress.head_pattern import PageTooSmall
from perisect.core.prepress.vernier import COMBS, PITCH_MM, combs, teeth_cut, vernier_pdf
from perisect.core.sheet import MarkSettings, Stock, marks_for
from perisect.stand_ins import cut_photo

A4 = Stock("a4", "A4 paper", 210.0, 297.0)
MIDDLE = (105.0, 148.5)
MARKS = list(marks_for(A4, MarkSettings()))


def shown(error: Trueing) -> dict[str, float]:
    """What a person reads where the plotter cuts beside by this error, to a twentieth of a mm."""
    readings = {}
    for name, comb in zip(COMBS, combs(A4), strict=True):
        (off,) = error.error_at([(comb.x_mm, comb.y_mm)], MIDDLE)
        readings[name] = round(float(off[0 if comb.across else 1]) / 0.05) * 0.05
    return readings


def test_a_cut_tooth_lies_on_the_printed_tooth_that_is_named_after_the_error() -> None:
    cut = np.array(teeth_cut(A4)).reshape(4, 25, 2, 2)
    for comb, teeth in zip(combs(A4), cut, strict=True):
        axis = 0 if comb.across else 1
        printed = (comb.x_mm, comb.y_mm)[axis] + PITCH_MM * np.arange(-12, 13)
        for named in (-1.2, -0.3, 0.0, 0.7, 1.2):
            off = np.abs(teeth[:, 0, axis] + named - printed)
            assert (off.argmin() - 12) * 0.1 == pytest.approx(named)
            assert off.min() == pytest.approx(0, abs=1e-9)


@pytest.mark.parametrize(
    "error",
    [
        Trueing(shift_x=0.4, shift_y=-0.75),
        Trueing(turn=0.004),
        Trueing(skew=-0.006, shift_x=0.2),
        Trueing(shift_x=-0.15, shift_y=0.3, turn=-0.002, skew=0.004),
    ],
)
def test_readings_give_the_error_back(error: Trueing) -> None:
    found = error_of(shown(error), A4)
    # Each reading is good to 0.025 mm, a shift to as much, turn and skew to that over 63 mm.
    assert (found.shift_x, found.shift_y) == pytest.approx((error.shift_x, error.shift_y), abs=0.026)
    assert (found.turn, found.skew) == pytest.approx((error.turn, error.skew), abs=0.0009)


def test_what_a_reading_cannot_tell_from_nothing_is_left_alone() -> None:
    assert error_of({"head": 0.05, "foot": 0.0, "left": -0.05, "right": 0.0}, A4) == Trueing()


def test_the_page_shows_marks_and_teeth_at_their_places() -> None:
    marks = marks_for(A4, MarkSettings())
    pdf = vernier_pdf(A4, list(marks), MarkSettings(), "Desk plotter")
    k = 600 / 25.4
    page = pypdfium2.PdfDocument(pdf)[0].render(scale=600 / 72, grayscale=True).to_numpy().squeeze()
    head = combs(A4)[0]
    row = page[round((head.y_mm - 4) * k)]
    dark = np.flatnonzero(row < 128)
    dark = dark[np.abs(dark / k - head.x_mm) < 12 * PITCH_MM + 1]
    starts = dark[np.flatnonzero(np.diff(dark, prepend=-9) > 1)] / k
    assert starts + 0.07 == pytest.approx(head.x_mm + PITCH_MM * np.arange(-12, 13), abs=0.06)
    for mark in marks:
        x, y = round(mark.x_mm * k), round(mark.y_mm * k)
        assert (page[y - 30 : y + 30, x - 30 : x + 30] < 128).mean() == pytest.approx(0.5, abs=0.05)


def scanned_page(error: Trueing, seed: int) -> np.ndarray:
    """A flatbed's grey picture of the page, printed as drawn and cut beside it by `error`."""
    pdf = vernier_pdf(A4, MARKS, MarkSettings(), "Desk plotter")
    k = 300 / 25.4
    page = pypdfium2.PdfDocument(pdf)[0].render(scale=300 / 72).to_numpy()[..., :3].copy()
    # The renderer makes whole pixels of the page's size: a mm is as long as that leaves it.
    whole = np.array([page.shape[1] / A4.width_mm, page.shape[0] / A4.height_mm]) / k
    cuts = [(line + error.error_at(line, MIDDLE)) * whole for line in teeth_cut(A4)]
    seen = cut_photo.scan(cut_photo.cut_sheet(page, k, cuts, seed), k, seed)
    return cv2.cvtColor(seen, cv2.COLOR_RGB2GRAY)


@pytest.mark.long
def test_a_scan_gives_the_readings_whichever_way_up_it_lay() -> None:
    for seed in range(4):
        rng = np.random.default_rng(seed)
        shift, bent = rng.uniform(-0.9, 0.9, 2), rng.normal(0, 0.001, 2)
        error = Trueing(shift_x=shift[0], shift_y=shift[1], turn=bent[0], skew=bent[1])
        grey = np.ascontiguousarray(np.rot90(scanned_page(error, seed), 2 * (seed % 2)))
        found = scanned_readings(grey, MARKS, MarkSettings(), A4)
        for comb in combs(A4):
            (off,) = error.error_at([(comb.x_mm, comb.y_mm)], MIDDLE)
            assert found[comb.name] == pytest.approx(off[0 if comb.across else 1], abs=0.01)
        taken_out = error_of(found, A4, READS_TO_MM)
        assert (taken_out.shift_x, taken_out.shift_y) == pytest.approx(shift, abs=0.02)


@pytest.mark.long
def test_a_scan_of_the_page_that_is_not_cut_or_of_nothing_is_refused() -> None:
    uncut = scanned_page(Trueing(), 1)
    pdf = vernier_pdf(A4, MARKS, MarkSettings(), "Desk plotter")
    printed = pypdfium2.PdfDocument(pdf)[0].render(scale=300 / 72, grayscale=True).to_numpy().squeeze()
    with pytest.raises(NotTheSheet, match="cut teeth of the head comb"):
        scanned_readings(printed, MARKS, MarkSettings(), A4)
    with pytest.raises(NotTheSheet, match="corner marks"):
        scanned_readings(np.full_like(uncut, 230), MARKS, MarkSettings(), A4)
    with pytest.raises(NotTheSheet, match="too coarse"):
        scanned_readings(cv2.resize(uncut, None, fx=0.5, fy=0.5), MARKS, MarkSettings(), A4)


@pytest.mark.parametrize("shape", [(1, 1), (5000, 1), (2, 5000), (3, 7), (40, 9000), (9000, 60)])
def test_a_picture_that_is_hardly_one_shows_no_sheet(shape: tuple[int, int]) -> None:
    with pytest.raises(NotTheSheet, match="corner marks"):
        located_however(np.full(shape, 200, np.uint8), MARKS, MarkSettings(), A4.width_mm, A4.height_mm)


@pytest.mark.long
def test_a_scan_in_black_and_white_alone_is_refused_for_its_edges_are_half_a_pixel_off() -> None:
    grey = scanned_page(Trueing(shift_x=0.3), 2)
    with pytest.raises(NotTheSheet, match="in grey or colour"):
        scanned_readings(np.where(grey > 128, 255, 0).astype(np.uint8), MARKS, MarkSettings(), A4)


def test_a_small_stock_is_refused() -> None:
    with pytest.raises(PageTooSmall, match="A6 is smaller"):
        combs(Stock("a6", "A6", 105.0, 148.0))
