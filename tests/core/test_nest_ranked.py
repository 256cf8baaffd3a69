"""Which of a nest and rows stands, and how the steps of a search are shared."""

from collections import Counter
from collections.abc import Mapping

import pytest
import shapely

from perisect.core.sheet import A4, Footprint, Placement, usable_area
from perisect.core.sheet.layout import lay_out
from perisect.core.sheet.nest import PATIENCE, Nest, NestQuestion, in_threads, nest
from perisect.core.sheet.nest.search import _Search
from perisect.core.sheet.recipe import SheetRecipe

AREA = usable_area(A4)
SQUARE = shapely.box(0, 0, 40, 40)
PIECE = Footprint("s", 40, 40, 0, 0, 40, 40, 1600, 1, SQUARE)
NEST = SheetRecipe(method="nest", fill=False, gap_mm=2.0)


def test_of_a_nest_and_rows_on_as_many_sheets_the_one_that_leaves_more_stands() -> None:
    def layout_with(x_mm: float, y_mm: float) -> bool:
        return lay_out(AREA, [PIECE], NEST, lambda _: Nest((Placement("s", x_mm, y_mm),))).rows_won

    (row,) = lay_out(AREA, [PIECE], SheetRecipe(method="rows", fill=False), lambda _: None).plan.sheets[0]
    assert layout_with(85, 128)  # in the middle of the sheet
    assert not layout_with(row.x_mm, row.y_mm)  # as good as rows


def test_sheets_that_are_each_another_get_as_many_steps_and_one_that_is_repeated_most_of_it() -> None:
    def share(wanted: dict[str, int]) -> float:
        shapes = dict.fromkeys(wanted, SQUARE)
        question = NestQuestion(AREA, shapes, wanted, 2.0, "quarter", 8, 1, 60)
        return _Search(question, str, bool, in_threads, PATIENCE).share_of_steps(wanted)

    # 60 of 42 by 42 mm at 62 of a hundred of the area: three or four sheets.
    assert share({f"s{n}": 1 for n in range(60)}) in (1 / 3, 1 / 4)
    assert share({"s": 100}) == 0.8
    assert share({"s": 3}) == 1.0


def test_what_is_left_of_a_sheet_stands_where_a_search_for_it_finds_less(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """Two large ones to a sheet and three small ones between them, of which there are four; later searches, which have
    less time, find one large one."""

    def one_sheet(
        self: _Search, left: Mapping[str, int], fixed: list[Placement], sheet: int
    ) -> list[Placement]:
        large = [
            Placement("large", 10 + 90 * n, 10) for n in range(min(2 if sheet == 0 else 1, left["large"]))
        ]
        return large + [Placement("small", 10 + 9 * n, 120) for n in range(min(3, left["small"]))]

    monkeypatch.setattr(_Search, "one_sheet", one_sheet)
    shapes = {"large": shapely.box(0, 0, 80, 100), "small": shapely.box(0, 0, 6, 6)}
    found = nest(NestQuestion(AREA, shapes, {"large": 7, "small": 4}, 2.0, "none", 2, 1, 60)).placements
    sheets = [Counter(piece.key for piece in found if piece.sheet == n) for n in range(4)]
    assert sheets == [{"large": 2, "small": 3}, {"large": 2, "small": 1}, {"large": 2}, {"large": 1}]
    assert len(found) == 11
