"""Marks of every pattern and shape: where they stand, what they leave free, that the sensor finds them."""

import numpy as np
import pytest
import shapely

from perisect.core.cutting.registration import register
from perisect.core.cutting.sensing import MarkNotFound, SheetTurned, sense_marks
from perisect.core.prepress.print_file import write_print_pdf
from perisect.core.sheet import A4, MarkSettings, Stock, marks_for, usable_area
from perisect.core.sheet.equipment import (
    MarksRecipe,
    PlotterRecipe,
    PrinterRecipe,
    machine_of,
)
from perisect.core.sheet.fill import SheetPlan
from perisect.core.sheet.mark_check import mark_findings
from perisect.core.sheet.mark_pattern import PATTERNS
from perisect.core.sheet.mark_shape import mark_picture, mark_shape
from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS, EXAMPLE_PRINTERS
from perisect.core.sheet.usable import Machine, UsableArea
from perisect.devices.cut_run import nominal
from perisect.devices.open import open_plotter, print_pdf
from perisect.devices.protocols import PrintedSheet
from perisect.stand_ins.shop import stand_ins

LONG = Stock("long", "A long panel", 320.0, 1000.0)
PATTERN_NAMES = ["four", "three", "frame", "pairs"]
SHAPES = ["quartered", "disc", "ring", "square", "cross", "angle"]


def area(stock: Stock = A4, at=(), **marks: object) -> UsableArea:
    plotter = EXAMPLE_PLOTTERS[0].model_copy(update={"marks": MarksRecipe.model_validate(marks)})
    return usable_area(stock, machine_of(EXAMPLE_PRINTERS[0], plotter), at)


HALF_USED = SheetPlan((), {}, 0.5)


def codes(of: UsableArea) -> dict[str, str]:
    return {finding.code: finding.severity for finding in mark_findings(of, HALF_USED)}


def test_pairs_stand_along_the_sheet_no_further_apart_than_they_may() -> None:
    marks = marks_for(LONG, MarkSettings(pattern="pairs", spacing_mm=300))
    # From 12 to 985: 973 mm in four parts of 243.25.
    assert [mark.y_mm for mark in marks[::2]] == pytest.approx([12, 255.25, 498.5, 741.75, 985])
    assert {mark.x_mm for mark in marks} == {11, 309}
    assert [mark.kind for mark in marks].count("ringed") == 1
    assert [marks[n].name for n in (0, 3, 8)] == ["top left", "right of pair 2", "lower left"]


def test_three_marks_leave_the_lower_right_corner_free() -> None:
    free, four = area(pattern="three"), area()
    assert len(free.marks) == 3
    # The corner of 10.5 × 11.5 that the fourth mark would take.
    assert free.polygon.area - four.polygon.area == pytest.approx(10.5 * 11.5)


def test_inside_a_frame_nothing_touches_its_line() -> None:
    inside = area(pattern="frame", line_mm=1.0)
    # Corners at 11 and 12 mm, half the line and 1.5 mm bare.
    assert inside.polygon.bounds == pytest.approx((13, 14, 197, 280))
    left, top, right, bottom = inside.polygon.bounds
    frame = shapely.box(11, 12, 199, 282).exterior.buffer(0.5, join_style="mitre")
    assert shapely.box(left, top, right, bottom).distance(frame) == pytest.approx(1.5)


@pytest.mark.parametrize("pattern", PATTERN_NAMES)
@pytest.mark.parametrize("shape", SHAPES)
def test_the_clear_zone_of_every_mark_is_kept_free(pattern: str, shape: str) -> None:
    of = area(LONG, pattern=pattern, shape=shape)
    for mark in of.marks:
        clear = shapely.Point(mark.x_mm, mark.y_mm).buffer(of.machine.marks.clear_mm)
        assert clear.intersection(of.polygon).area < 1e-6
        assert clear.covers(mark_shape(mark, of.machine.marks))


@pytest.mark.parametrize("shape", SHAPES)
def test_picture_and_shape_of_a_mark_have_the_same_ink(shape: str) -> None:
    settings = MarkSettings(shape=shape)
    k = 40.0
    for ringed in (False, True):
        mark = marks_for(A4, settings)[0 if ringed else 3]
        ink = (1 - mark_picture(settings, ringed, k, 5.0, mark.shape, mark.corner)).sum() / k**2
        assert ink == pytest.approx(mark_shape(mark, settings).area, rel=0.02)


def printed_and_sensed(pattern: str, shape: str, seed: int) -> float:
    """The largest residual after printing on the simulated printer and sensing on the simulated plotter."""
    of = area(pattern=pattern, shape=shape, spacing_mm=150)
    pdf = write_print_pdf(A4, of.marks, of.machine.marks, [], {})
    with stand_ins(seed=seed) as machines:
        sheet = print_pdf(machines.printer, pdf)
        with open_plotter(machines.plotter, "hpgl") as plotter:
            plotter.load(sheet)
            found = sense_marks(of.marks, of.machine.marks, nominal(A4.height_mm, (20, 20)), plotter.look)
    fit = register([(m.x_mm, m.y_mm) for m in of.marks], [(f.x_mm, f.y_mm) for f in found])
    told = fit.describe()
    assert abs(told["scale_x_pct"]) < 0.3
    assert abs(told["skew_deg"]) < 0.1
    return fit.residual_mm


@pytest.mark.long
@pytest.mark.parametrize(
    ("pattern", "shape"),
    [
        ("four", "disc"),
        ("four", "ring"),
        ("four", "square"),
        ("four", "cross"),
        ("four", "angle"),
        ("frame", "quartered"),
    ],
)
def test_marks_of_every_shape_are_found_on_a_printed_sheet(pattern: str, shape: str) -> None:
    assert printed_and_sensed(pattern, shape, seed=5) < 0.1


@pytest.mark.slow
def test_three_marks_and_pairs_are_found_too() -> None:
    assert printed_and_sensed("three", "quartered", seed=6) < 1e-6  # three points fix six numbers
    assert printed_and_sensed("pairs", "quartered", seed=7) < 0.06


def test_a_sheet_with_discs_that_lies_the_wrong_way_round_is_noticed() -> None:
    of = area(shape="disc")
    pdf = write_print_pdf(A4, of.marks, of.machine.marks, [], {})
    with stand_ins(seed=8) as machines:
        sheet = print_pdf(machines.printer, pdf)
        turned = _half_turned(sheet)
        with open_plotter(machines.plotter, "hpgl") as plotter:
            plotter.load(turned)
            with pytest.raises((SheetTurned, MarkNotFound)):
                sense_marks(of.marks, of.machine.marks, nominal(A4.height_mm, (20, 20)), plotter.look)


def _half_turned(sheet: PrintedSheet) -> PrintedSheet:
    import cv2

    picture = cv2.imdecode(np.frombuffer(sheet.png, np.uint8), cv2.IMREAD_COLOR)
    return PrintedSheet(cv2.imencode(".png", picture[::-1, ::-1])[1].tobytes(), sheet.px_per_mm)


def test_marks_in_order_are_said_to_be() -> None:
    assert codes(area()) == {"marks_clear": "good"}
    (told,) = mark_findings(area(), HALF_USED)
    # Inset 11 mm, a ring of 4.2 and a grip of 6: 0.8 mm are left.
    assert told.measured == pytest.approx(0.8)


def test_a_mark_outside_the_print_or_the_reach_is_named() -> None:
    found = mark_findings(area(side_mm=8.5), HALF_USED)
    assert [(f.code, f.severity) for f in found] == [("marks_clear", "stop")]
    assert "top left" in found[0].text
    assert found[0].measured == pytest.approx(8.5 - 4.2 - 6)
    reach = mark_findings(area(bottom_mm=9.5, radius_mm=1), HALF_USED)
    assert ("marks_reach", "stop") in [(f.code, f.severity) for f in reach]
    assert "lower" in next(f.text for f in reach if f.code == "marks_reach")


def test_marks_lost_on_a_short_sheet_stop_it() -> None:
    short = Stock("strip", "A strip", 210.0, 34.0)
    assert codes(area(short)) == {"marks_lost": "stop"}
    assert codes(area(Stock("tiny", "Tiny", 20.0, 20.0))) == {"marks_lost": "stop"}
    assert usable_area(Stock("tiny", "Tiny", 20.0, 20.0)).polygon.is_empty


def test_marks_too_close_say_what_angle_they_leave_open() -> None:
    near = [(50, 50), (64, 50), (50, 250), (64, 250)]
    found = {f.code: f for f in mark_findings(area(at=near), HALF_USED)}
    close = found["marks_close"]
    # 0.02 mm times the root of two over 14 mm, at the corner (204, 288) from the middle (57, 150): 202 mm.
    assert close.measured == pytest.approx(0.02 * 2**0.5 / 14 * np.hypot(147, 138), abs=0.001)


def test_a_sheet_wider_than_the_plotter_or_its_mat() -> None:
    wide = Stock("a3", "A3", 297.0, 420.0)
    assert codes(area(wide))["mat"] == "stop"
    narrow = usable_area(wide, Machine(cutting_width_mm=200))
    assert narrow.right_mm - narrow.left_mm == pytest.approx(200)


def test_small_marks_are_two_thirds_and_advised_for_a_small_job() -> None:
    plotter, printer = PlotterRecipe(id="p", name="P"), PrinterRecipe(id="q", name="Q")
    small = machine_of(printer, plotter, small_marks=True).marks
    assert (small.radius_mm, small.clear_mm) == pytest.approx((2, 2 * 1.4 + 1.3))
    few = SheetPlan((((),) * 1), {}, 0.05)
    (advice,) = [f for f in mark_findings(area(), few) if f.code == "small_job"]
    assert advice.remedy is not None
    assert advice.remedy.field == "sheet.small_marks"


def test_marks_of_a_new_plotter_are_those_that_everything_is_tested_with() -> None:
    assert MarksRecipe().settings() == MarkSettings()


def test_nothing_is_printed_in_the_clear_zone_of_a_mark() -> None:
    import pypdfium2

    from perisect.core.prepress.print_file import EncodedPicture, PrintDesign, encode_picture
    from perisect.core.sheet.fill import Placement

    black = encode_picture(np.full((40, 40, 4), (0, 0, 0, 255), np.uint8))
    assert isinstance(black, EncodedPicture)
    of = area()
    # A picture of 40 mm right over the upper left mark.
    over = {"d": PrintDesign(black, 1.0, (0, 0))}
    pdf = write_print_pdf(A4, of.marks, of.machine.marks, [Placement("d", 0, 0, 40, 40, 0)], over)
    k = 10.0
    page = np.array(pypdfium2.PdfDocument(pdf)[0].render(scale=k * 25.4 / 72).to_pil().convert("L"))
    mark, turn = of.marks[0], np.linspace(0, 2 * np.pi, 90)
    for radius, light in ((4.8, True), (5.3, True), (5.8, False)):
        x, y = mark.x_mm + radius * np.cos(turn), mark.y_mm + radius * np.sin(turn)
        seen = page[(y * k).astype(int), (x * k).astype(int)]
        assert (seen > 200).all() if light else (seen < 50).all()


@pytest.mark.parametrize(
    ("pattern", "count", "told"),
    [
        ("four", 4, "four marks"),
        ("three", 3, "three marks"),
        ("pairs", 4, "two pairs of marks"),
        ("pairs", 10, "5 pairs of marks"),
        ("own", 7, "7 marks"),
    ],
)
def test_marks_are_counted_as_they_stand(pattern: str, count: int, told: str) -> None:
    assert PATTERNS[pattern].counted(count) == told
