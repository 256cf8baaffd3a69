"""What a ruler says of a printer's size, and what is made of it."""

from math import sqrt

import numpy as np
import pytest

from perisect.core.ledger.scale_check import NoSuchMarks, ReadingImpossible, check_scale, spans
from perisect.core.sheet import A4, MarkSettings, marks_for
from perisect.core.sheet.marks import Mark

DRAWN = (188.0, 270.0)


def test_the_longest_distances_between_the_marks_of_a_sheet_are_measured() -> None:
    # 11 mm from both sides of 210, 12 from the head and 15 from the foot of 297.
    across, along = spans(marks_for(A4, MarkSettings()))
    assert (across.mm, across.from_name, across.to_name) == (188.0, "top left", "top right")
    assert (along.mm, along.to_name) == (270.0, "lower left")
    with pytest.raises(NoSuchMarks):
        spans((Mark(10, 10, "ringed"), Mark(90, 40, "plain"), Mark(30, 90, "plain")))


def test_an_error_is_corrected_where_a_ruler_could_not_have_made_it() -> None:
    across, along = check_scale(DRAWN, (187.25, 270.0))
    assert across.error == pytest.approx(-0.75 / 188)
    # Two readings to a quarter of a millimetre: 0.194 mm is the most in 95 of 100.
    assert across.uncertainty == pytest.approx(0.25 * (1 - sqrt(0.05)) / 188)
    assert across.factor == pytest.approx(188 / 187.25)
    assert not along.is_sure
    assert along.factor == 1.0
    assert not check_scale(DRAWN, (188.15, 270.0))[0].is_sure


@pytest.mark.parametrize(
    ("read", "why"),
    [
        ((270.0, 188.0), "swapped"),
        ((0.001, 270.0), "188.0 mm as drawn"),
        ((188.0, 300.0), "270.0 mm as drawn"),
        ((float("nan"), 270.0), "cannot be"),
    ],
)
def test_what_no_printer_does_is_not_believed(read: tuple[float, float], why: str) -> None:
    with pytest.raises(ReadingImpossible, match=why):
        check_scale(DRAWN, read)


def test_after_the_correction_a_printer_is_within_what_was_stated() -> None:
    rng = np.random.default_rng(12)
    within = made_worse = 0
    printers = 2000
    for _ in range(printers):
        true = 1 + rng.normal(0, 0.004, 2)
        zero = rng.uniform(0, 1, 2)
        # Both ends of the ruler are read to its nearest quarter of a millimetre.
        ends = np.array([zero, zero + true * DRAWN])
        read = np.diff(np.round(ends / 0.25) * 0.25, axis=0)[0]
        checks = check_scale(DRAWN, tuple(read.tolist()))
        left = np.abs(true * [check.factor for check in checks] - 1)
        within += int((left <= [check.uncertainty for check in checks]).sum())
        made_worse += int((left > np.abs(true - 1) + 1e-12).sum())
    assert within >= 0.95 * 2 * printers * 0.99
    assert made_worse <= 0.05 * 2 * printers
