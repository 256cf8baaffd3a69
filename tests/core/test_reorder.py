"""When to order, what an order costs, and which points are out of the ordinary."""

import numpy as np
import pytest

from perisect.core.ledger.control import limits_of_shares, limits_of_values, pareto
from perisect.core.ledger.cost import CostRates, SheetUse, breaks, order_cost, sheets_needed
from perisect.core.ledger.reorder import forecast
from perisect.core.ledger.whose import Claim, share_out


def test_ordering_at_the_level_told_runs_out_as_seldom_as_was_stated() -> None:
    """Two months of sheets, jobs of ten or so on some days: 600 shops, each ordering at its own level."""
    rng = np.random.default_rng(4)
    out = 0
    for _ in range(600):
        busy, size = rng.uniform(0.2, 0.9), rng.uniform(2, 15)
        use = rng.poisson(size, 200) * (rng.random(200) < busy)
        told = forecast(1000, use[:60].astype(float), 5, 50, 0.05)
        assert told is not None
        out += use[60:66].sum() > told.reorder_at
    # 5 % are stated; three deviations of 600 draws are 2.7 %.
    assert 0.02 < out / 600 < 0.078


def test_what_is_there_in_plenty_needs_no_order_and_what_is_short_gets_whole_packs() -> None:
    use = np.full(30, 4.0)
    plenty, short = forecast(200, use, 5, 50, 0.05), forecast(20, use, 5, 50, 0.05)
    assert plenty is not None
    assert short is not None
    assert (plenty.order, plenty.lasts_days) == (0, 50)
    # Four a day for six days are 24: 20 do not last.
    assert short.order == 50
    assert short.runs_out > 0.5
    assert forecast(20, use[:5], 5, 50, 0.05) is None  # too few days


def test_a_cost_is_the_sum_of_its_parts() -> None:
    rates = CostRates(
        hand_hour=18, machine_hour=6, blade=6, blade_m=120, mat=10, mat_loads=50, packing=0.5,
        sheet_min=2, sticker_s=4, order_min=10, print_min=3, margin=0.5,
    )  # fmt: skip
    use = SheetUse(stock=0.40, ink=0.10, cut_m=6, cut_s=120, film_mm2=0, up=12)
    cost = order_cost(use, 100, *sheets_needed(100, 12, 0.1), rates)
    # 100 / 0.9 / 12 = 9.26, so ten sheets; without rejects nine.
    assert cost.sheets == 10
    # A sheet: 0.40 + 0.10 + 6 m of 120 at 6 (0.30) + a load (0.20) + 5 min of machine (0.50) + 2 min by hand (0.60).
    a_sheet = 2.10
    # The order: 400 s by hand (2.00), ten minutes (3.00), packing 0.50.
    assert cost.total == pytest.approx(10 * a_sheet + 5.5)
    assert next(part.amount for part in cost.parts if part.name == "Rejects") == pytest.approx(a_sheet)
    assert cost.price == pytest.approx(cost.total * 1.5)
    each = [one.each for one in breaks(use, 0.1, rates)]
    assert each == sorted(each, reverse=True)


def test_a_bad_day_is_outside_the_limits_and_ordinary_ones_are_not() -> None:
    good, of = np.array([48, 47, 49, 48, 47, 48, 30, 49]), np.full(8, 50)
    limits = limits_of_shares(good, of)
    assert limits is not None
    assert list(np.flatnonzero(limits.outside(good / of))) == [6]
    slips = np.array([0.20, 0.22, 0.19, 0.21, 0.20, 0.22, 0.55])
    values = limits_of_values(slips[:6])
    assert values is not None
    # Neighbours are 0.02 apart in the median: limits three times 0.02 / 0.954 from 0.2067.
    assert values.high[0] == pytest.approx(0.2067 + 3 * 0.02 / 0.954, abs=1e-3)
    assert limits_of_shares(good[:3], of[:3]) is None


def test_causes_are_ranked_by_how_often_they_were() -> None:
    ranked = pareto({"slipped": 6, "ragged": 3, "lost": 1, "clings": 0})
    assert [(each.name, each.count, round(each.cumulative, 2)) for each in ranked] == [
        ("slipped", 6, 0.6),
        ("ragged", 3, 0.9),
        ("lost", 1, 1.0),
    ]


def test_orders_on_shared_sheets_get_their_own_and_a_bad_one_is_made_good_by_the_next() -> None:
    sheets = [["heron"] * 4 + ["knot"] * 2, ["heron"] * 4]
    claims = [Claim(1, "heron", 3), Claim(2, "knot", 2), Claim(2, "heron", 4)]
    shared = share_out(sheets, {0: frozenset({1, 4})}, claims)
    assert shared.sheets[0] == (1, None, 1, 1, None, 2)
    assert shared.sheets[1] == (2, 2, 2, 2)
    assert shared.lacking == ((Claim(2, "knot", 2), 1),)
    assert (shared.of(1), shared.of(2)) == (3, 5)
