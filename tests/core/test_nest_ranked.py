"""Which of a nest and rows stands, how a nest's strip comes onto the sheet, and how its time is shared."""

import shapely

from perisect.core.sheet import A4, Footprint, Placement, usable_area
from perisect.core.sheet.layout import lay_out
from perisect.core.sheet.nest import NestQuestion, _Search
from perisect.core.sheet.nest_strip import Strip
from perisect.core.sheet.placement import placed, pose
from perisect.core.sheet.recipe import SheetRecipe
from perisect.core.sheet.strip_frame import StripFrame

AREA = usable_area(A4)
SQUARE = shapely.box(0, 0, 40, 40)
PIECE = Footprint("s", 40, 40, 0, 0, 40, 40, 1600, 1, SQUARE)
NEST = SheetRecipe(method="nest", fill=False, gap_mm=2.0)


def test_the_two_ends_of_a_strip_that_is_not_full_come_together() -> None:
    frame = StripFrame(AREA, 2.0, across=False)
    # Half a gap from either end of the strip, clear of the marks.
    strip = Strip((pose("s", 0, 1, 100),), (pose("s", 0, -41, 100),), 84.0)
    left, right = (placed(SQUARE, each) for each in frame.fitted(strip, {"s": SQUARE}))
    assert abs(shapely.distance(left, right) - 2.0) < 0.05
    assert AREA.holds(left)
    assert AREA.holds(right)


def test_what_comes_together_stays_clear_of_the_marks_at_the_other_end() -> None:
    frame = StripFrame(AREA, 2.0, across=False)
    # Under the upper right mark's row: pushed to the very left it would stand on the upper left mark.
    top = frame.half
    strip = Strip((), (pose("s", 0, -41 - frame.corners.right_mm, top),), 84.0)
    (only,) = (placed(SQUARE, each) for each in frame.fitted(strip, {"s": SQUARE}))
    assert AREA.holds(only)


def test_of_a_nest_and_rows_on_as_many_sheets_the_one_that_leaves_more_stands() -> None:
    def layout_with(x_mm: float, y_mm: float) -> bool:
        return lay_out(AREA, [PIECE], NEST, lambda _: [Placement("s", x_mm, y_mm)]).rows_won

    (row,) = lay_out(AREA, [PIECE], SheetRecipe(method="rows", fill=False), lambda _: None).plan.sheets[0]
    assert layout_with(85, 128)  # in the middle of the sheet
    assert not layout_with(row.x_mm, row.y_mm)  # as good as rows


def test_sheets_that_are_each_another_get_the_same_time_and_one_that_is_repeated_most_of_it() -> None:
    def share(wanted: dict[str, int]) -> float:
        shapes = dict.fromkeys(wanted, SQUARE)
        return _Search(NestQuestion(AREA, shapes, wanted, 2.0, "quarter", 8, 1, 60), str, bool).share_of_time(
            wanted
        )

    # 60 of 42 by 42 mm at 62 of a hundred of the area: three or four sheets.
    assert share({f"s{n}": 1 for n in range(60)}) in (1 / 3, 1 / 4)
    assert share({"s": 100}) == 0.8
    assert share({"s": 3}) == 1.0
