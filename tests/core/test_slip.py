"""Station 6: a slip that was put in is the slip that is read."""

import numpy as np
import pytest
import shapely

from perisect.core.cutting.order import cut_order
from perisect.core.formats import CutSheet
from perisect.core.ledger import WantedSticker, measure_slip, wanted_stickers
from perisect.core.ledger.scan import ScannedSheet, read_printed
from perisect.core.sheet import MarkSettings, Stock, marks_for
from perisect.core.sheet.mark_shape import mark_picture

K = 8.0
STOCK = Stock("card", "Card", 100.0, 120.0)
MARKS = marks_for(STOCK, MarkSettings())
IDENTITY = np.array([[1.0, 0, 0], [0, 1, 0]])


def drawn_sheet(shift: tuple[float, float] = (0, 0)) -> np.ndarray:
    """Marks and a textured square of art, everything moved by a shift in mm."""
    height, width = int(STOCK.height_mm * K), int(STOCK.width_mm * K)
    sheet = np.full((height, width), 255, np.uint8)
    for number, mark in enumerate(MARKS):
        half = 6.0
        picture = (255 * mark_picture(MarkSettings(), number == 0, K, half)).astype(np.uint8)
        # Whole pixels only: the shifts of these tests are multiples of 1 / K.
        x, y = round((mark.x_mm + shift[0]) * K), round((mark.y_mm + shift[1]) * K)
        reach = picture.shape[0] // 2
        sheet[y - reach : y + reach + 1, x - reach : x + reach + 1] = picture
    rng = np.random.default_rng(3)
    art = rng.integers(0, 200, (160, 160)).astype(np.uint8)
    x, y = round((40 + shift[0]) * K), round((50 + shift[1]) * K)
    sheet[y : y + 160, x : x + 160] = art
    return sheet


LINE = shapely.multilinestrings([shapely.box(38, 48, 62, 72).exterior])


def sticker(border: float = 2.0, strokes: tuple[int, ...] = (1,)) -> WantedSticker:
    return WantedSticker("d1", LINE.bounds, LINE, border, strokes)


def cut(dx: float, dy: float) -> np.ndarray:
    path = shapely.segmentize(shapely.box(38, 48, 62, 72).exterior, 0.2)
    return shapely.get_coordinates(path) + (dx, dy)


STRIP = np.array([[0.0, 0], [5, 0]])


@pytest.mark.parametrize("shift", [(0.0, 0.0), (0.5, -0.25), (-1.0, 0.75)])
def test_where_the_print_went_is_read_from_its_marks(shift: tuple[float, float]) -> None:
    scan = read_printed(drawn_sheet(shift), K, MARKS, MarkSettings())
    drawn_at = np.array([[10.0, 10], [90, 110]])
    moved = drawn_at @ scan.drawn_to_printed[:, :2].T + scan.drawn_to_printed[:, 2]
    offset = read_printed(drawn_sheet(), K, MARKS, MarkSettings()).drawn_to_printed[:, 2]
    assert moved - drawn_at - offset == pytest.approx(np.tile(shift, (2, 1)), abs=0.02)


@pytest.mark.parametrize("shift", [(0.25, 0.0), (-0.375, 0.25)])
def test_art_that_moved_against_its_marks_is_read_from_the_art(shift: tuple[float, float]) -> None:
    scan = ScannedSheet(drawn_sheet(shift), K, IDENTITY)
    assert scan.local_shift(drawn_sheet(), (38, 48, 62, 72)) == pytest.approx(shift, abs=0.02)


def test_a_bare_patch_says_nothing() -> None:
    scan = ScannedSheet(drawn_sheet((0.5, 0)), K, IDENTITY)
    assert scan.local_shift(drawn_sheet(), (70, 85, 80, 95)) == pytest.approx((0, 0), abs=1e-6)


@pytest.mark.parametrize(("dx", "dy"), [(0.0, 0.0), (0.3, 0.0), (0.0, -0.7), (0.6, 0.8)])
def test_slip_is_the_largest_distance_and_its_mean_keeps_the_sign(dx: float, dy: float) -> None:
    scan = ScannedSheet(drawn_sheet(), K, IDENTITY)
    report = measure_slip(scan, drawn_sheet(), [sticker()], [STRIP, cut(dx, dy)])
    (measured,) = report.stickers
    # A square moved by (dx, dy): its corners are off by the whole way, its sides by one part of it.
    assert measured.slip_mm == pytest.approx(np.hypot(dx, dy), abs=0.03)
    assert (measured.dx_mm, measured.dy_mm) == pytest.approx((dx, dy), abs=0.04)
    assert report.largest_mm == measured.slip_mm
    assert report.mean_mm == pytest.approx(report.rms_mm)


def test_the_shift_of_a_round_line_is_its_whole_shift() -> None:
    """Points go to the nearest of the line, so across the line alone: a circle shows half of a shift that way."""
    scan = ScannedSheet(drawn_sheet(), K, IDENTITY)
    ring = shapely.Point(50, 60).buffer(12, 64).exterior
    round_one = WantedSticker("d1", ring.bounds, shapely.multilinestrings([ring]), 2.0, (1,))
    moved = shapely.get_coordinates(shapely.segmentize(ring, 0.2)) + (0.3, -0.2)
    (measured,) = measure_slip(scan, drawn_sheet(), [round_one], [STRIP, moved]).stickers
    assert (measured.dx_mm, measured.dy_mm) == pytest.approx((0.3, -0.2), abs=0.01)


@pytest.mark.parametrize(("border", "good"), [(2.0, True), (0.6, True), (0.4, False), (0.0, False)])
def test_good_is_a_slip_within_the_border(border: float, good: bool) -> None:
    scan = ScannedSheet(drawn_sheet(), K, IDENTITY)
    report = measure_slip(scan, drawn_sheet(), [sticker(border)], [STRIP, cut(0.5, 0)])
    assert report.stickers[0].good is good
    assert report.good == int(good)
    assert report.stickers[0].limit_mm == (border or 0.3)


def test_a_line_that_was_not_cut_to_its_end_counts_as_slip() -> None:
    scan = ScannedSheet(drawn_sheet(), K, IDENTITY)
    half = cut(0, 0)[: len(cut(0, 0)) // 2]
    report = measure_slip(scan, drawn_sheet(), [sticker()], [STRIP, half])
    assert report.stickers[0].slip_mm > 10
    assert not report.stickers[0].good


def test_a_sticker_that_was_never_reached_is_not_measured() -> None:
    scan = ScannedSheet(drawn_sheet(), K, IDENTITY)
    report = measure_slip(scan, drawn_sheet(), [sticker(), sticker(strokes=(2,))], [STRIP, cut(0, 0)])
    assert (len(report.stickers), report.uncut) == (1, 1)
    nothing = measure_slip(scan, drawn_sheet(), [], [])
    assert (nothing.largest_mm, nothing.mean_mm, nothing.rms_mm, nothing.good) == (0, 0, 0, 0)


def test_strokes_are_given_to_the_stickers_they_cut() -> None:
    def ring(x: float, size: float) -> np.ndarray:
        return np.array([(x, 10), (x + size, 10), (x + size, 10 + size), (x, 10 + size)], float)

    kiss = [ring(12, 4), ring(10, 20), ring(50, 20)]  # the first is a hole of the first sticker
    through = [ring(8, 24), ring(48, 24)]
    sheet = CutSheet(100, 120, {"kiss": kiss, "through": through}, {"kiss": [0, 0, 1], "through": [0, 1]}, [])
    order = cut_order(sheet)
    wanted = wanted_stickers(sheet, order, [("a", 1.0), ("b", 2.0)])
    assert [w.design for w in wanted] == ["a", "b"]
    assert sorted([*wanted[0].strokes, *wanted[1].strokes]) == [1, 2, 3]
    assert len(wanted[0].strokes) == 2
    assert wanted[0].box_mm == pytest.approx((10, 10, 30, 30))
    for stroke in wanted[1].strokes:
        line = order[stroke - 1]
        assert (line.process, line.index) == ("kiss", 2)
