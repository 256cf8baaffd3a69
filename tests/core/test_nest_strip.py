"""Strips that searches of many pieces begin with: along the sheet and down it."""

from collections import Counter

import pytest
import shapely
from shapely import affinity

from perisect.core.sheet import A4, usable_area
from perisect.core.sheet.nest_strip import on_strip

AREA = usable_area(A4)
ELL = shapely.box(0, 0, 30, 10).union(shapely.box(0, 0, 10, 30))


@pytest.mark.slow
@pytest.mark.parametrize("across", [False, True])
def test_pieces_lie_in_the_box_and_apart_whichever_way_the_strip_runs(across: bool) -> None:
    demand = {"l": 40}
    laid = on_strip(AREA, {"l": ELL}, demand, 1.0, "quarter", 2, 1, across)
    # Two of 500 mm² make a block of 30 by 40: 198 by 282 mm hold more than 40 of them, which all lie on the sheet.
    assert Counter(piece.key for piece in laid) == demand
    there = [
        affinity.translate(affinity.rotate(ELL, piece.rotation_deg, origin=(0, 0)), piece.x_mm, piece.y_mm)
        for piece in laid
    ]
    box = shapely.box(AREA.left_mm - 1, AREA.top_mm - 1, AREA.right_mm + 1, AREA.bottom_mm + 1).buffer(1e-3)
    assert all(box.covers(each) for each in there)
    assert all(a.intersection(b).area < 0.05 for n, a in enumerate(there) for b in there[:n])
    # The strip begins at one side, and is as short as can be: another is free.
    left, top, right, bottom = shapely.total_bounds(there)
    assert (top - AREA.top_mm > 20) if across else (AREA.right_mm - right > 20)
    assert (right - left > 180) if across else (bottom - top > 250)


@pytest.mark.slow
def test_what_the_sheet_does_not_take_is_left_out() -> None:
    laid = on_strip(AREA, {"l": ELL}, {"l": 200}, 1.0, "none", 2, 1, False)
    assert 40 < len(laid) < 120
    assert {piece.rotation_deg for piece in laid} == {0.0}
