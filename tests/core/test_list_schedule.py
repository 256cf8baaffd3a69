"""A first plan by list: worked out by hand, within every rule, and late no more than need be where that is known."""

import time

import numpy as np
import pytest

from perisect.core.ledger.list_schedule import first_plan, scheduled
from perisect.core.ledger.plan_check import broken_rules
from perisect.core.ledger.schedule import Order, Shop, Step

DAYS = tuple((1440 * day + 540, 1440 * day + 1020) for day in range(14))


def printed(name: str, minutes: int, stock: str = "", due: int | None = None, not_before: int = 0) -> Order:
    return Order(name, (Step("print", ("desk",), minutes, stock, not_before=not_before),), due)


def test_a_gap_is_filled_and_a_change_of_stock_takes_its_time() -> None:
    shop = Shop(DAYS, setup_minutes=10, loaded={"desk": "film"})
    sequence = [
        printed("noon", 60, "film", not_before=720),
        printed("short", 40, "paper"),
        printed("long", 150, "film"),
    ]
    plan = scheduled(sequence, shop)
    assert plan is not None
    # Paper goes in at once (film lies loaded, but the shop opens long after), out by 9:40 and 9:50; 150 minutes of film
    # do not fit before 12:00 from then on, so they follow what is fixed at noon.
    assert {each.order: each.start for each in plan.steps} == {"noon": 720, "short": 540, "long": 780}


def test_what_does_not_fit_into_today_is_done_tomorrow_and_three_hands_do_three_things() -> None:
    shop = Shop(DAYS[:2], many={"hands": 3})
    hands = [Order(f"{n}", (Step("pack", ("hands",), 300),)) for n in range(4)]
    plan = scheduled(hands, shop)
    assert plan is not None
    assert [each.start for each in plan.steps] == [540, 540, 540, 1440 + 540]
    assert scheduled([*hands, *(Order(f"more {n}", hands[0].steps) for n in range(3))], shop) is None


def test_the_sequence_is_bettered_until_nothing_is_late() -> None:
    # By due dates the long one goes first and both others are late; done last it is in time, for it is due at 12:35.
    orders = [
        Order("long", (Step("print", ("desk",), 150), Step("dry", ("hands",), 1)), 755),
        Order("a", (Step("print", ("desk",), 30), Step("pack", ("hands",), 20, wait=160)), 760),
        Order("b", (Step("print", ("desk",), 20), Step("pack", ("hands",), 20, wait=100)), 770),
    ]
    sequence = scheduled(orders, Shop(DAYS))
    assert sequence is not None
    assert sequence.lateness == (690 + 30 + 160 + 20 - 760) + (690 + 30 + 20 + 100 + 20 - 770)
    bettered = first_plan(orders, Shop(DAYS), seconds=2, clock=time.monotonic)
    assert bettered is not None
    assert bettered.late == {}


@pytest.mark.parametrize("seed", range(6))
def test_no_plan_by_list_breaks_a_rule(seed: int) -> None:
    rng = np.random.default_rng(seed)
    shop = Shop(DAYS, 8, loaded={"p0": "film"}, many={"hands": 2})
    stocks = ("film", "paper")
    orders = [
        Order(
            f"o{n}",
            (
                Step(
                    "print",
                    ("p0", "p1")[: int(rng.integers(1, 3))],
                    int(rng.integers(10, 90)),
                    stocks[n % 2],
                ),
                Step("cut", ("c0",), int(rng.integers(5, 40)), wait=int(rng.integers(0, 90))),
                Step("finish", ("hands",), int(rng.integers(5, 30)), not_before=int(rng.integers(0, 900))),
            ),
            int(rng.integers(600, 4000)),
        )
        for n in range(20)
    ]
    plan = first_plan(orders, shop, seconds=0.2, clock=time.monotonic)
    assert plan is not None
    assert broken_rules(plan, orders, shop) == []
