"""What people ask of a sheet: how many, how large, how many to print, how far off in the corner."""

from dataclasses import replace
from math import comb

import numpy as np
import pytest

from perisect.core.cutting.error_map import History, outside_marks, predicted_error
from perisect.core.cutting.registration import register
from perisect.core.ledger.spares import NeverEnough, least_to_print
from perisect.core.sheet import A4, LETTER, Footprint, UsableArea, usable_area
from perisect.core.sheet.grid import best_grid
from perisect.core.sheet.largest import largest_for

pytestmark = pytest.mark.slow


def brute_force(area: UsableArea, width: float, height: float, gap: float, step: float) -> int:
    """The most cells over phases a step apart, upright or turned, by trying every one."""
    most = 0
    notches = np.array(area.notches)
    for w, h in ((width, height), (height, width)):
        for dx in np.arange(0, w + gap, step):
            x = np.arange(area.left_mm + dx, area.right_mm - w + 1e-9, w + gap)
            for dy in np.arange(0, h + gap, step):
                y = np.arange(area.top_mm + dy, area.bottom_mm - h + 1e-9, h + gap)
                if len(x) * len(y) <= most:
                    continue
                gx, gy = (each.ravel()[:, None] for each in np.meshgrid(x, y))
                hit = (gx < notches[:, 2] - 1e-9) & (gx + w > notches[:, 0] + 1e-9)
                hit &= (gy < notches[:, 3] - 1e-9) & (gy + h > notches[:, 1] + 1e-9)
                most = max(most, int((~hit.any(axis=1)).sum()))
    return most


@pytest.mark.long
def test_rows_and_columns_hold_as_many_as_brute_force_over_all_phases() -> None:
    rng = np.random.default_rng(3)
    for _ in range(300):
        area = usable_area(A4 if rng.random() < 0.5 else LETTER)
        width, height, gap = rng.uniform(14, 95), rng.uniform(14, 95), rng.uniform(0, 6)
        found = best_grid(area, width, height, gap)
        assert found.count >= brute_force(area, width, height, gap, 1.0)
        w, h = (height, width) if found.turned else (width, height)
        x, y = found.corners_mm.T
        assert (x >= area.left_mm - 1e-6).all()
        assert (x + w <= area.right_mm + 1e-6).all()
        assert (y >= area.top_mm - 1e-6).all()
        assert (y + h <= area.bottom_mm + 1e-6).all()


def square(side: float, border: float) -> Footprint:
    out = side + border
    return Footprint("d", side, side * 0.8, -border, -border, out, side * 0.8 + border, out * out, 1)


@pytest.mark.long
@pytest.mark.parametrize("count", [1, 2, 5, 6, 9, 12, 20, 35])
@pytest.mark.parametrize("border", [0.0, 2.5])
def test_the_largest_size_fits_and_a_little_more_does_not(count: int, border: float) -> None:
    area = usable_area(A4)
    largest = largest_for(area, square(50, border), 2.0, count)
    assert largest is not None

    def up(size: float) -> int:
        return best_grid(area, size + 2 * border, size * 0.8 + 2 * border, 2.0).count

    assert up(largest) >= count
    assert all(up(size) < count for size in np.arange(largest + 0.05, largest + 60, 0.05))


def test_a_sheet_without_marks_has_the_size_a_person_would_work_out() -> None:
    bare = replace(usable_area(A4), marks=())
    wide, high = bare.right_mm - bare.left_mm, bare.bottom_mm - bare.top_mm
    footprint = Footprint("d", 50, 50, 0, 0, 50, 50, 2500, 1)
    # Squares, 2 mm apart: twelve stand three by four.
    assert largest_for(bare, footprint, 2.0, 12) == pytest.approx(
        min((wide - 4) / 3, (high - 6) / 4), abs=0.01
    )
    assert largest_for(bare, footprint, 2.0, 100_000) is None


@pytest.mark.parametrize(("order", "rate"), [(1, 0.0), (10, 0.1), (250, 0.04), (40, 0.5), (1000, 0.01)])
def test_the_number_to_print_is_the_least_that_is_sure_enough(order: int, rate: float) -> None:
    n = least_to_print(order, rate)

    def sure(printed: int) -> float:
        bad = range(printed - order + 1)
        return sum(comb(printed, k) * rate**k * (1 - rate) ** (printed - k) for k in bad)

    assert sure(n) >= 0.95
    assert n == order or sure(n - 1) < 0.95


def test_nothing_is_printed_for_no_order_and_no_number_is_enough_when_all_are_bad() -> None:
    assert least_to_print(0, 0.5) == 0
    with pytest.raises(NeverEnough):
        least_to_print(10, 1.0)


def test_the_predicted_error_is_that_of_four_hundred_rehearsals_at_every_place() -> None:
    rng = np.random.default_rng(11)
    marks = [(11.0, 12.0), (199.0, 12.0), (11.0, 282.0), (199.0, 282.0)]
    x, y = np.meshgrid(np.linspace(15, 195, 5), np.linspace(15, 290, 6))
    places = np.column_stack([x.ravel(), y.ravel()])
    turn = np.radians(0.6)
    loaded = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    true = places @ loaded.T + (30, 40)
    off = []
    for _ in range(400):
        seen = np.array(marks) @ loaded.T + (30, 40) + rng.normal(scale=0.05, size=(4, 2))
        off.append(np.hypot(*(register(marks, seen.tolist()).apply(places) - true).T))
    measured = np.sqrt(np.mean(np.square(off), axis=0))
    predicted = predicted_error(marks, places, History(0.05))
    assert np.abs(predicted / measured - 1).max() < 0.15
    # Four corners: least in the middle, where it is the noise of the mean of four along both axes.
    middle = predicted_error(marks, [(105.0, 147.0)], History(0.05))[0]
    assert middle == pytest.approx(0.05 * np.sqrt(2 / 4), rel=1e-6)
    assert outside_marks(marks, [(105, 147), (205, 147), (105, 290)]).tolist() == [False, True, True]


def test_marks_on_a_line_fix_nothing() -> None:
    with pytest.raises(ValueError, match="one line"):
        predicted_error([(0, 0), (1, 1), (2, 2)], [(5, 5)])
