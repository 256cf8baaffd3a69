"""A plan of the day: nothing late that need not be, nothing at two places at once."""

import itertools
import time

import numpy as np
import pytest

from perisect.core.ledger.plan_check import broken_rules
from perisect.core.ledger.planner import make_plan, rescue
from perisect.core.ledger.schedule import NoPlan, Order, Pin, Shop, Step

DAYS = tuple((1440 * day + 540, 1440 * day + 1020) for day in range(8))
SHOP = Shop(DAYS, setup_minutes=10)


def order(name: str, due: int | None, stock: str = "film", print_min: int = 30, cut_min: int = 20) -> Order:
    return Order(
        name,
        (
            Step("print", ("desk",), print_min, stock),
            Step("cut", ("plotter",), cut_min, stock, wait=15),
            Step("pack", ("hands",), 10),
        ),
        due,
    )


def test_a_lone_order_begins_when_the_shop_opens_and_waits_for_the_ink() -> None:
    plan = make_plan([order("a", None)], SHOP, seconds=1, clock=time.monotonic)
    # 9:00 to 9:30 printed, dry at 9:45, cut until 10:05, packed until 10:15.
    assert [(each.step, each.start, each.end) for each in plan.steps] == [
        ("print", 540, 570),
        ("cut", 585, 605),
        ("pack", 605, 615),
    ]


def test_what_is_due_first_goes_first_and_stocks_are_changed_as_seldom_as_that_allows() -> None:
    orders = [order("late", 5000, "paper"), order("soon", 640, "film"), order("next", 700, "film")]
    plan = make_plan(orders, SHOP, seconds=2, clock=time.monotonic)
    assert broken_rules(plan, orders, SHOP) == []
    assert not plan.late
    prints = [each.order for each in plan.steps if each.step == "print"]
    assert prints == ["soon", "next", "late"]


def test_what_is_due_goes_before_short_work_that_nobody_waits_for() -> None:
    orders = [
        order("whenever", None, print_min=5, cut_min=5),
        order("due", 1440 + 900, print_min=60, cut_min=40),
    ]
    plan = make_plan(orders, SHOP, seconds=1, clock=time.monotonic)
    assert [each.order for each in plan.steps if each.step == "print"] == ["due", "whenever"]


def test_drying_goes_on_over_night_and_work_does_not() -> None:
    slow = Order("roll", (Step("print", ("desk",), 60), Step("cut", ("plotter",), 30, wait=20 * 60)), None)
    plan = make_plan([slow], SHOP, seconds=1, clock=time.monotonic)
    # Printed at 10:00, dry at 6:00 the next day, cut when the shop opens.
    assert [each.start for each in plan.steps] == [540, 1440 + 540]


def brute_force(orders: list[Order], shop: Shop) -> int:
    """The least lateness of orders on one machine each kind, by trying every sequence of them at both machines."""
    best = 10**9
    for first in itertools.permutations(range(len(orders))):
        for second in itertools.permutations(range(len(orders))):
            at, printed = {"p": 0, "c": 0}, {}
            end, late = dict[int, int](), 0
            for machine, sequence, step in (("p", first, 0), ("c", second, 1)):
                for n in sequence:
                    work = orders[n].steps[step]
                    start = max(at[machine], printed.get(n, 0) + work.wait if step else 0)
                    start = next(max(start, o) for o, c in shop.openings if max(start, o) + work.minutes <= c)
                    at[machine] = end[n] = start + work.minutes
                    if step == 0:
                        printed[n] = end[n]
            for n, each in enumerate(orders):
                late += max(0, end[n] - (each.due or 10**9))
            best = min(best, late)
    return best


@pytest.mark.parametrize("seed", range(3))
def test_no_sequence_is_less_late(seed: int) -> None:
    rng = np.random.default_rng(seed)
    shop = Shop(DAYS, setup_minutes=0)
    orders = [
        Order(
            f"o{n}",
            (
                Step("print", ("desk",), int(rng.integers(20, 90))),
                Step("cut", ("plotter",), int(rng.integers(20, 90)), wait=int(rng.integers(0, 60))),
            ),
            int(rng.integers(640, 900)),
        )
        for n in range(4)
    ]
    plan = make_plan(orders, shop, seconds=3, clock=time.monotonic)
    assert broken_rules(plan, orders, shop) == []
    assert plan.lateness == plan.least == brute_force(orders, shop)


def test_what_is_pinned_stays_and_the_rest_goes_round_it() -> None:
    orders = [order("a", 700), order("b", 900)]
    pins = [Pin("b", "print", start=540)]
    plan = make_plan(orders, SHOP, pins, seconds=1, clock=time.monotonic)
    assert broken_rules(plan, orders, SHOP, pins) == []
    assert next(each.start for each in plan.steps if (each.order, each.step) == ("b", "print")) == 540
    with pytest.raises(NoPlan, match="pinned stands in the way"):
        make_plan(
            orders,
            SHOP,
            [Pin("a", "print", start=545), Pin("b", "print", start=550)],
            seconds=1,
            clock=time.monotonic,
        )


def test_a_late_order_is_told_what_would_save_it() -> None:
    # Two at once for one printer, both due when one of them can be done, the second an hour later at the earliest.
    orders = [order("a", 640), order("b", 640)]
    plan = make_plan(orders, SHOP, seconds=1, clock=time.monotonic)
    (late,) = plan.late
    other = "b" if late == "a" else "a"
    saved = rescue(late, orders, SHOP, (), plan, clock=time.monotonic)
    assert saved.first
    assert saved.others_late[other] > 0
    # Print 30, dry 15, cut 20, pack 10 from 9:00: 10:15 at the earliest. Due at 10:00 it is short of 15 minutes.
    hopeless = [order("c", 600)]
    plan = make_plan(hopeless, SHOP, seconds=1, clock=time.monotonic)
    assert plan.late == {"c": 15}
    assert rescue("c", hopeless, SHOP, (), plan, clock=time.monotonic).minutes_short == 15


def test_what_no_day_is_long_enough_for_is_said() -> None:
    with pytest.raises(NoPlan, match="fits into no day"):
        make_plan([order("a", None, print_min=600)], SHOP, seconds=1, clock=time.monotonic)


def test_the_checker_sees_what_is_broken() -> None:
    orders = [order("a", None), order("b", None, "paper")]
    plan = make_plan(orders, SHOP, seconds=1, clock=time.monotonic)
    for broken, said in (
        ({"start": 0, "end": 30}, "closed"),
        ({"machine": "nowhere"}, "another step"),
    ):
        first = next(each for each in plan.steps if each.step == "print")
        changed = [type(first)(**(vars(each) | broken)) if each == first else each for each in plan.steps]
        assert any(said in rule for rule in broken_rules(type(plan)(tuple(changed), {}, 0, 0), orders, SHOP))
    together = [
        type(e)(**(vars(e) | {"start": 540, "end": 570})) if e.step == "print" else e for e in plan.steps
    ]
    told = broken_rules(type(plan)(tuple(together), {}, 0, 0), orders, SHOP)
    assert any("beside others" in rule for rule in told)
