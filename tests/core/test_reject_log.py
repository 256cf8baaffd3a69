"""How many to print where the stickers of a sheet share its fate."""

import numpy as np
import pytest

from perisect.core.ledger.spares import RejectLog


def test_sheets_that_are_all_good_ask_for_next_to_nothing_more() -> None:
    log = RejectLog([(20, 0)] * 100)
    many, sure = log.least(40, 20)
    # A hundred sheets of twenty without one reject: under one in a hundred is lost, now and then a whole third.
    assert 40 <= many <= 42
    assert 0.95 <= sure <= 1
    assert log.least(0, 20) == (0, 1.0)


def test_rejects_that_come_by_the_sheet_ask_for_more_than_those_that_come_alone() -> None:
    """One of ten either way: two of ten sheets half lost, or two stickers of each sheet."""
    by_sheet = RejectLog([(20, 0)] * 80 + [(10, 10)] * 20)
    alone = RejectLog([(18, 2)] * 100)
    assert by_sheet.least(40, 20)[0] > alone.least(40, 20)[0] + 2


@pytest.mark.long
def test_what_is_stated_comes_true() -> None:
    """Over 600 shops that lose 1 sticker of 100, a quarter of them the half of every seventh sheet as well."""
    rng = np.random.default_rng(4)

    def good(many: int, often: float) -> int:
        return int(rng.binomial(many, 0.5 if rng.uniform() < often else 0.99))

    stated, true = [], []
    for shop in range(600):
        often = 1 / 7 if shop % 4 == 0 else 0.0
        log = RejectLog([(n := good(18, often), 18 - n) for _ in range(15)])
        many, sure = log.least(30, 18)
        stated.append(sure)
        true.append(sum(good(sheet, often) for sheet in (*([18] * (many // 18)), many % 18)) >= 30)
    assert np.mean(true) == pytest.approx(np.mean(stated), abs=0.035)


def test_before_anything_was_counted_a_lost_third_of_a_sheet_is_reckoned_with() -> None:
    many, sure = RejectLog([]).least(20, 20)
    assert 21 <= many <= 26
    assert sure >= 0.95
