"""A first plan by list scheduling: orders one after the other, every step at the earliest minute at which it fits.

The sequence of orders is bettered by moving one of them at a time (a descent with equal moves; Pinedo, Scheduling,
5th ed., 14.4). It is where the exact search begins.
"""

import random
from bisect import insort
from collections.abc import Sequence

from perisect.core.clock import Clock
from perisect.core.ledger.schedule import Order, Plan, Planned, Shop, Step

Taken = tuple[int, int, str]
"""Start, end, and what is loaded."""


def first_plan(
    orders: Sequence[Order], shop: Shop, seconds: float, clock: Clock, seed: int = 7
) -> Plan | None:
    """Return the least late plan found within `seconds`; None where none fits into the openings."""
    chance = random.Random(seed)
    end = clock() + seconds
    there = [order for order in orders if order.steps]
    sequence = sorted(there, key=lambda each: (each.due is None, each.due or 0))
    best = scheduled(sequence, shop)
    if best is None:
        return None
    while best.lateness and len(sequence) > 1 and clock() < end:
        tried = list(sequence)
        # What is late comes earlier, or anything goes anywhere.
        late = [at for at, order in enumerate(tried) if order.id in best.late]
        if late and chance.random() < 0.6:
            at = chance.choice(late)
            moved = tried.pop(at)
            tried.insert(chance.randint(0, at), moved)
        else:
            moved = tried.pop(chance.randrange(len(tried)))
            tried.insert(chance.randint(0, len(tried)), moved)
        found = scheduled(tried, shop)
        if found is not None and found.lateness <= best.lateness:
            sequence, best = tried, found
    return best


def scheduled(sequence: Sequence[Order], shop: Shop) -> Plan | None:
    """The orders in that sequence, each step at the earliest minute on the machine that ends it first."""
    taken: dict[str, list[Taken]] = {}
    steps, late, lateness = [], {}, 0
    for order in sequence:
        done = 0
        for number, step in enumerate(order.steps):
            ready = max(step.not_before, done + step.wait if number else 0)
            places = [
                (start, machine)
                for machine in step.machines
                if (start := _earliest(step, machine, taken.get(machine, []), ready, shop)) is not None
            ]
            if not places:
                return None
            start, machine = min(places)
            done = start + step.minutes
            insort(taken.setdefault(machine, []), (start, done, step.setup))
            steps.append(Planned(order.id, step.name, machine, start, done))
        if order.due is not None and done > order.due:
            late[order.id] = done - order.due
            lateness += (done - order.due) * order.weight
    return Plan(tuple(sorted(steps, key=lambda each: each.start)), late, lateness, 0)


def _earliest(step: Step, machine: str, taken: Sequence[Taken], ready: int, shop: Shop) -> int | None:
    """The earliest minute from `ready` at which a step fits onto a machine."""
    loaded, many = shop.loaded.get(machine), shop.many.get(machine, 1)
    at = max(ready, _gap(step.setup, loaded or "", shop))
    for opening, closing in shop.openings:
        at = max(at, opening)
        while at + step.minutes <= closing:
            free = _free_after(step, at, taken, many, shop)
            if free is None:
                return at
            at = free
    return None


def _free_after(step: Step, at: int, taken: Sequence[Taken], many: int, shop: Shop) -> int | None:
    """None where the step fits at that minute; else the next at which it may."""
    end = at + step.minutes
    if many > 1:
        meanwhile = [each for each in taken if each[0] < end and each[1] > at]
        return min(each[1] for each in meanwhile) if len(meanwhile) >= many else None
    for start, until, setup in taken:
        gap = _gap(step.setup, setup, shop)
        if start - gap < end and until + gap > at:
            return until + gap
    return None


def _gap(one: str, two: str, shop: Shop) -> int:
    return shop.setup_minutes if one and two and one != two else 0
