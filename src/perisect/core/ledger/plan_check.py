"""Whether a plan keeps what it must, told without the planner: by looking at every step and every pair."""

from collections.abc import Sequence
from itertools import combinations

from perisect.core.ledger.schedule import Order, Pin, Plan, Planned, Shop


def broken_rules(plan: Plan, orders: Sequence[Order], shop: Shop, pins: Sequence[Pin] = ()) -> list[str]:
    """What a plan breaks, in words; empty for one that keeps everything."""
    known = {(each.order, each.step): each for each in plan.steps}
    told = []
    for order in orders:
        before: Planned | None = None
        for step in order.steps:
            there = known.get((order.id, step.name))
            if there is None:
                told.append(f"{step.name} of {order.id} is forgotten")
                continue
            if there.end - there.start != step.minutes or there.machine not in step.machines:
                told.append(f"{step.name} of {order.id} is another step")
            if there.start < step.not_before:
                told.append(f"{step.name} of {order.id} begins too early")
            if before is not None and there.start < before.end + step.wait:
                told.append(f"{step.name} of {order.id} does not wait")
            if not any(start <= there.start and there.end <= end for start, end in shop.openings):
                told.append(f"{step.name} of {order.id} is done while the shop is closed")
            before = there
    setups = {(order.id, step.name): step.setup for order in orders for step in order.steps}
    for machine in {each.machine for each in plan.steps}:
        mine = sorted((each for each in plan.steps if each.machine == machine), key=lambda each: each.start)
        told += _crowded(mine, shop.many.get(machine, 1))
        if shop.many.get(machine, 1) == 1:
            told += _not_set_up(mine, setups, shop, machine)
    for pin in pins:
        there = known.get((pin.order, pin.step))
        if there is not None and pin.start is not None and there.start != pin.start:
            told.append(f"{pin.step} of {pin.order} is not where it is pinned")
        if there is not None and pin.machine is not None and there.machine != pin.machine:
            told.append(f"{pin.step} of {pin.order} is not at its pinned machine")
    return told


def _crowded(mine: Sequence[Planned], many: int) -> list[str]:
    """Moments at which a machine has more work than it takes."""
    return [
        f"{each.machine} does {each.step} of {each.order} beside others"
        for each in mine
        if sum(other.start <= each.start < other.end for other in mine) > many
    ]


def _not_set_up(
    mine: Sequence[Planned], setups: dict[tuple[str, str], str], shop: Shop, machine: str
) -> list[str]:
    """Steps that follow another stock without the time to change it."""
    told = []
    loaded = shop.loaded.get(machine)
    for each in mine:
        wanted = setups[each.order, each.step]
        if wanted and loaded and wanted != loaded and each.start < shop.setup_minutes:
            told.append(f"{machine} is not set up for {each.step} of {each.order}")
    for one, two in combinations(mine, 2):
        first, second = setups[one.order, one.step], setups[two.order, two.step]
        apart = one.order != two.order and first and second and first != second
        if apart and two.start < one.end + shop.setup_minutes:
            told.append(f"{machine} is not set up for {two.step} of {two.order}")
    return told
