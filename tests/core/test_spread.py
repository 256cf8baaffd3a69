"""Pieces set apart in their room."""

import pytest
import shapely

from perisect.core.sheet.fill import Footprint
from perisect.core.sheet.placement import Placement, placed
from perisect.core.sheet.spread import spread


def box(key: str, width: float, height: float, border: float = 0.0) -> Footprint:
    return Footprint(key, width, height, -border, -border, width + border, height + border, width * height, 1)


def test_what_is_left_lies_evenly_along_rows_and_between_them() -> None:
    footprints = [box("a", 20, 10), box("b", 30, 10), box("c", 40, 20)]
    packed = [
        Placement("a", 0, 0, 20, 10),
        Placement("b", 22, 0, 30, 10),
        Placement("c", 0, 12, 40, 20),
    ]
    found = spread(packed, footprints, (0, 0, 80, 60), 2.0)
    # Along: 80 - 50 in three gaps, and 80 - 40 in two; down: 60 - 30 in three.
    places = [(p.x_mm, p.y_mm) for p in found]
    assert places == [pytest.approx(want) for want in ((10, 10), (40, 10), (20, 30))]


def test_no_gap_is_narrower_than_before_and_borders_count() -> None:
    footprints = [box("a", 36, 36, border=2)]
    packed = [Placement("a", 2, 2, 36, 36), Placement("a", 44, 2, 36, 36)]
    found = spread(packed, footprints, (0, 0, 82, 40), 2.0)
    assert [p.x_mm for p in found] == pytest.approx([2, 44])
    wide = spread(packed, footprints, (0, 0, 110, 40), 2.0)
    assert [p.x_mm for p in wide] == pytest.approx([12, 62])


def test_turned_pieces_stay_inside_and_a_nest_comes_to_the_middle() -> None:
    footprints = [box("a", 30, 10)]
    turned = [Placement("a", -10, 10, 30, 10, rotation_deg=90.0)]
    (found,) = spread(turned, footprints, (0, 0, 50, 60), 1.0)
    assert placed(shapely.box(0, 0, 30, 10), found).bounds == pytest.approx((20, 15, 30, 45))
    nested = [Placement("a", 0, 0, 30, 10), Placement("a", 20, 6, 30, 10)]
    low, high = spread(nested, footprints, (0, 0, 100, 100), 1.0)
    assert (high.x_mm - low.x_mm, high.y_mm - low.y_mm) == pytest.approx((20, 6))
    assert low.x_mm == pytest.approx(25)
