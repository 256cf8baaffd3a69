"""Several sizes share a sheet: in rows, none on another, none over the marks."""

import numpy as np
import pytest
import shapely

from perisect.core.sheet import A4, LETTER, usable_area
from perisect.core.sheet.fill import Footprint, Placement, fill_sheets
from perisect.core.sheet.placement import matrix, placed
from perisect.core.sheet.shelves import Item, best_pack, pack

AREA = usable_area(A4)


def items(*sizes: tuple[float, float, int]) -> list[Item]:
    return [Item(f"k{n}", w, h) for n, (w, h, count) in enumerate(sizes) for _ in range(count)]


def boxes(stands: list, wanted: list[Item], turned_sizes: bool = True) -> list[list[shapely.Polygon]]:
    by_key = {item.key: item for item in wanted}
    sheets: list[list[shapely.Polygon]] = [[] for _ in range(max(s.sheet for s in stands) + 1)]
    for stand in stands:
        item = by_key[stand.key]
        size = (item.height_mm, item.width_mm) if stand.turned else (item.width_mm, item.height_mm)
        sheets[stand.sheet].append(
            shapely.box(stand.x_mm, stand.y_mm, stand.x_mm + size[0], stand.y_mm + size[1])
        )
    return sheets


@pytest.mark.parametrize("stock", [A4, LETTER])
@pytest.mark.parametrize("seed", range(8))
def test_everything_stands_once_apart_and_inside(stock, seed: int) -> None:
    area = usable_area(stock)
    rng = np.random.default_rng(seed)
    wanted = items(*[(rng.uniform(8, 90), rng.uniform(8, 90), int(rng.integers(1, 9))) for _ in range(4)])
    stands, left = best_pack(area, wanted, 2.0, 60)
    assert left == []
    assert sorted(s.key for s in stands) == sorted(i.key for i in wanted)
    room = area.polygon.buffer(1e-6)
    for sheet in boxes(stands, wanted):
        tree = shapely.STRtree(sheet)
        assert all(room.contains(box) for box in sheet)
        one, other = tree.query(sheet, predicate="dwithin", distance=2 - 1e-6)
        assert (one == other).all()


def test_a_row_is_as_tall_as_its_tallest_and_the_next_begins_a_gap_below() -> None:
    stands, _ = pack(AREA, items((60, 40, 2), (60, 30, 2)), 3.0, 1)
    rows = sorted({stand.y_mm for stand in stands})
    # 60 wide fits between the upper marks from the first row on: it begins at the margin.
    assert rows[0] == 6
    assert rows[1] == pytest.approx(6 + 40 + 3)


def test_what_is_too_wide_between_the_marks_stands_below_them() -> None:
    (stand,), _ = pack(AREA, items((190, 20, 1)), 2.0, 1)
    assert stand.y_mm == pytest.approx(17.5)
    assert stand.x_mm == pytest.approx(6)


def test_what_fits_nowhere_is_left_over_and_the_rest_stands() -> None:
    stands, left = best_pack(AREA, items((250, 250, 1), (30, 30, 3)), 2.0, 60)
    assert [item.key for item in left] == ["k0"]
    assert len(stands) == 3
    assert {stand.sheet for stand in stands} == {0}


def test_lying_down_is_taken_when_it_needs_fewer_sheets() -> None:
    wanted = items((60, 150, 9))
    upright, _ = pack(AREA, wanted, 2.0, 60)
    best, _ = best_pack(AREA, wanted, 2.0, 60)
    assert max(s.sheet for s in best) <= max(s.sheet for s in upright)
    wide = items((30, 190, 8))
    turned, left = best_pack(AREA, wide, 2.0, 1)
    assert left == []
    assert all(stand.turned for stand in turned)


@pytest.mark.parametrize("turn", [0, 90, 180, 270, 33])
def test_a_placement_turns_clockwise_about_the_middle_of_its_box(turn: float) -> None:
    placement = Placement("d", 20, 30, 40, 10, turn)
    middle = placed(shapely.Point(20, 5), placement)
    assert (middle.x, middle.y) == pytest.approx((40, 35))
    right = placed(shapely.Point(40, 5), placement)
    a = np.radians(turn)
    assert (right.x, right.y) == pytest.approx((40 + 20 * np.cos(a), 35 + 20 * np.sin(a)))
    assert np.linalg.det(matrix(placement)[:, :2]) == pytest.approx(1)  # no mirror, no scale


def test_filling_has_every_picture_once_on_as_many_sheets_as_it_takes() -> None:
    # Sixteen squares of 70 mm: an A4 sheet with marks holds two by three of them, so three sheets.
    arts = [Footprint(f"d{n}", 70, 70, 0, 0, 70, 70, 4900, 1) for n in range(16)]
    plan = fill_sheets(AREA, arts, 2.0, fill=True)
    assert plan.missing == {}
    assert len(plan.sheets) == 3
    assert {each.key for sheet in plan.sheets for each in sheet} == {art.key for art in arts}
    # Nine of them stand on two sheets and leave three places: not one more of each.
    nine = fill_sheets(AREA, arts[:9], 2.0, fill=True)
    assert (len(nine.sheets), nine.count) == (2, 9)
    # Small ones beside a large one still fill the sheet that holds them all.
    assert len(fill_sheets(AREA, arts[:4], 2.0, fill=True).sheets) == 1
