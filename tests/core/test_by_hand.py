"""Marks taken by hand: what two, three and more of them say of the sheet."""

import numpy as np
import pytest

from perisect.core.cutting.by_hand import MarkPlaces, Place
from perisect.core.cutting.registration import register_similar
from perisect.core.sheet import Mark

SHEET = [(10.0, 10.0), (110.0, 10.0), (10.0, 210.0), (110.0, 210.0)]


def turned(points: list[tuple[float, float]], scale: float = 1.01, degrees: float = 2.0) -> np.ndarray:
    """Plate places of a sheet 300 mm high that lies at (20, 30), turned and sized."""
    xy = np.array(points) * [1, -1] + [0, 300]
    angle = np.radians(degrees)
    return scale * xy @ [[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]] + [20, 30]


def places(count: int, off: dict[int, tuple[float, float]] | None = None) -> MarkPlaces:
    marks = [Mark(x, y, "plain", name=name) for (x, y), name in zip(SHEET, "abcd", strict=True)]
    found = MarkPlaces(marks, lambda x, y: (20 + x, 330 - y))
    for n, (x, y) in list(enumerate(turned(SHEET)))[:count]:
        dx, dy = (off or {}).get(n, (0, 0))
        found.places[n] = Place(x + dx, y + dy, "hand")
    return found


def test_two_marks_give_shift_turn_and_one_scale_and_the_next_is_where_they_say() -> None:
    two = places(2)
    fit = two.fit()
    assert fit is not None
    told = fit.describe()
    assert (told["scale_x_pct"], told["scale_y_pct"]) == (pytest.approx(1), pytest.approx(1))
    assert (told["turn_deg"], two.trouble) == (pytest.approx(-2), None)  # clockwise is positive
    assert two.guess(3) == pytest.approx(turned(SHEET)[3])
    one = places(1)
    assert one.fit() is None
    assert "Two marks at least" in (one.trouble or "")
    # With one, the next is shifted like it.
    assert one.guess(1) == pytest.approx(turned(SHEET)[0] + [100, 0])


def test_a_bad_one_is_named_and_may_be_left_out() -> None:
    four = places(4, {2: (3.0, 0.0)})
    # An affine map through four corners leaves a quarter of one corner's error at each.
    assert four.off_mm() == {n: pytest.approx(0.75) for n in range(4)}
    assert "0.75 mm are left over" in (four.trouble or "")
    four.left_out.add(2)
    assert four.trouble is None
    fit = four.fit()
    assert fit is not None
    assert fit.apply(SHEET) == pytest.approx(turned(SHEET))


def test_marks_on_one_line_give_one_scale() -> None:
    row = [(10.0, 10.0), (110.0, 10.0), (210.0, 10.0)]
    fit = register_similar(row, [tuple(p) for p in turned(row)])
    assert fit.apply(SHEET) == pytest.approx(turned(SHEET))
    assert fit.residual_mm == pytest.approx(0, abs=1e-9)


def test_what_the_sensor_found_is_held_to_its_own_tolerance() -> None:
    four = places(4, {0: (0.8, 0.0)})
    assert four.trouble is None  # by hand half a mm may be left over, and 0.2 is
    four.places = {n: Place(p.x_mm, p.y_mm, "sensor") for n, p in four.places.items()}
    assert "0.20 mm are left over" in (four.trouble or "")


def test_what_is_left_over_says_something_only_where_readings_outnumber_unknowns() -> None:
    # Two readings a mark; a similarity has four unknowns, an affine map six.
    assert [places(count).spare_readings for count in (2, 3, 4)] == [0, 0, 2]
    on_a_line = places(3)
    on_a_line.marks = [
        Mark(x, 10.0, "plain", name=name) for x, name in ((10.0, "a"), (60.0, "b"), (110.0, "c"))
    ]
    assert on_a_line.spare_readings == 2
    three, four = places(3, {2: (5.0, 5.0)}), places(4)
    assert three.trouble is None  # five millimetres off, and nothing shows it
    assert "3 marks fit whatever they are" in three.doubts[0]
    assert four.doubts == []
    four.unmoved.add(3)
    assert "was not moved at the d mark" in four.doubts[0]
    four.left_out.add(3)
    assert [doubt[:7] for doubt in four.doubts] == ["3 marks"]
