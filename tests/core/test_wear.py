"""Blade wear, from test cuts that were taken over, and what it makes of a setting of the book."""

import numpy as np
import pytest

from perisect.core.cutting.book import BookEntry, BookKey, Duller, Surroundings, known
from perisect.core.cutting.setting import CutSetting
from perisect.core.cutting.wear import TakenTest, Wear, wear_of
from perisect.core.sheet.force import ForceScale
from perisect.core.sheet.shop_records import EXAMPLE_STOCKS

STOCKS = ("a4", "a4-vinyl", "a4-film")


def key(stock: str = "a4") -> BookKey:
    return BookKey(stock=stock, process="kiss", plotter="desk", blade="45")


def taken(seed: int, per_m: float, count: int = 12) -> list[TakenTest]:
    """Tests on three stocks over the life of a blade: each proposal is 5 % beside what would do."""
    rng = np.random.default_rng(seed)
    level = dict(zip(STOCKS, (10.0, 16.0, 8.0), strict=True))
    return [
        TakenTest(key(stock), level[stock] * float(np.exp(per_m * metres + rng.normal(0, 0.05))), metres)
        for stock, metres in zip(
            np.resize(STOCKS, count).tolist(), np.sort(rng.uniform(0, 180, count)).tolist(), strict=True
        )
    ]


def test_wear_is_found_within_what_it_states() -> None:
    true = 0.0025  # A quarter of one in a hundred each metre: 28 % over a hundred.
    found = [wear_of(taken(seed, true)) for seed in range(200)]
    told = [wear for wear in found if wear is not None]
    assert len(told) >= 195
    within = np.mean([abs(wear.per_m - true) <= 2 * wear.error for wear in told])
    assert within >= 0.9
    assert np.median([wear.factor(100) for wear in told]) == pytest.approx(np.exp(0.25), rel=0.03)


def test_no_more_than_half_again_is_told_without_a_test() -> None:
    steep = Wear(per_m=0.01, error=0.001, tests=9)
    assert steep.factor(20) == pytest.approx(np.exp(0.2))
    assert (steep.factor(500), steep.factor(-500)) == pytest.approx((1.5, 1 / 1.5))


def test_a_blade_that_does_not_wear_is_rarely_said_to() -> None:
    false = np.mean([wear_of(taken(seed, 0.0)) is not None for seed in range(400)])
    assert false <= 0.08
    assert all(wear_of(taken(seed, -0.003)) is None for seed in range(50))


def test_few_tests_or_tests_at_one_time_say_nothing() -> None:
    assert wear_of([]) is None
    assert wear_of(taken(1, 0.01, 5)) is None  # three levels and the wear leave one
    assert wear_of([TakenTest(key(), force, 40.0) for force in (8, 9, 10, 11, 12, 13)]) is None


def test_a_setting_follows_the_blade_and_says_so() -> None:
    stocks = {each.id: each.recipe for each in EXAMPLE_STOCKS}
    entry = BookEntry(key=key(), setting=CutSetting(speed_cm_s=20, force=20), source="test", sure=0.97)
    scale = ForceScale(least=1, most=33, step=1, unit="steps")

    def now(*duller: Duller, stock: str = "a4") -> tuple[float, float | None, str]:
        shop = Surroundings(stocks, {"desk": scale}, {"desk": "Desk"}, {key(): each for each in duller})
        found = known(key(stock), [entry], shop)
        return found.setting.force, found.sure, found.why

    assert now()[:2] == (20, 0.97)
    assert now(Duller(60, 1.15)) == (23, None, "from a test cut, 15 % more force for 60 m of blade")
    assert now(Duller(-60, 0.87)) == (17, None, "from a test cut, 13 % less force for a newer blade")
    assert now(Duller(900, 3.0))[0] == 33  # never more than the plotter takes
    plain, worn = now(stock="a4-kraft")[0], now(Duller(60, 1.15), stock="a4-kraft")[0]
    assert worn == pytest.approx(plain * 1.15, abs=0.5 + 0.5)
    assert worn > plain
