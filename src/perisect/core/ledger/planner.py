"""Plans the work of a shop by CP-SAT: no order later than need be, then every order done early.

Lateness is what a plan is judged by: the sum over orders of the minutes that each is late, times its weight.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ortools.sat.python import cp_model

from perisect.core.clock import Clock
from perisect.core.ledger.list_schedule import first_plan
from perisect.core.ledger.schedule import NoPlan, Order, Pin, Plan, Planned, Shop, Span, Step

SEED = 7
DUE_FIRST = 20
LISTED, SEARCHED = 0.15, 0.6
"""Shares of the time that a plan is given: for one by list, for the least lateness."""


def make_plan(
    orders: Sequence[Order],
    shop: Shop,
    pins: Sequence[Pin] = (),
    seconds: float = 4.0,
    before: Plan | None = None,
    workers: int = 2,
    *,
    clock: Clock,
) -> Plan:
    """Plan all orders within the openings.

    Args:
        pins: what is fixed; the rest is planned round it.
        seconds: the longest that is searched, for lateness and for the rest together.
        before: an earlier plan, from which the search begins.
        clock: the time that `seconds` is measured by.

    Raises:
        NoPlan: a step is longer than every opening, the openings are too few, or pins stand in each other's way.
    """
    if not any(order.steps for order in orders):
        return Plan((), {}, 0, 0)
    _check(orders, shop)
    begun = clock()
    model = _Model(orders, shop, pins)
    # Where nothing is pinned a quick plan is made first: from it the search gets further than from nothing, or from a
    # plan of this morning, when other work was to be done.
    listed = first_plan(orders, shop, seconds * LISTED, clock) if not pins else None
    if listed is not None and listed.lateness == 0:
        found, least = listed, 0
    else:
        found, least = _least_late(model, listed or before, bool(pins), _solver(seconds * SEARCHED, workers))
        if listed is not None and listed.lateness < found.lateness:
            found = listed
    # What is left of the time goes into early ends, no order later than it is.
    model.hint(found)
    left = seconds - (clock() - begun)
    second = _solver(max(left, 0.3), workers)
    if second.solve(model.for_early_ends(found.lateness)) in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        found = model.read(second)
    return Plan(found.steps, found.late, found.lateness, min(least, found.lateness))


def _least_late(
    model: "_Model", before: Plan | None, pinned: bool, solver: cp_model.CpSolver
) -> tuple[Plan, int]:
    """A plan that is late as little as was found, and a proven least."""
    model.hint(before)
    status = solver.solve(model.for_lateness())
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        why = "What is pinned stands in the way of other work, or of the opening hours."
        raise NoPlan(why if pinned else "The days ahead are too few for all that is to be done.")
    return model.read(solver), round(solver.best_objective_bound)


def _check(orders: Sequence[Order], shop: Shop) -> None:
    longest = max((end - start for start, end in shop.openings), default=0)
    for order in orders:
        for step in order.steps:
            if step.minutes + shop.setup_minutes > longest:
                raise NoPlan(
                    f"{step.name} of {order.id} takes {step.minutes} minutes and fits into no day's opening hours."
                )
            if not step.machines:
                raise NoPlan(f"There is no machine for {step.name} of {order.id}.")


def _solver(seconds: float, workers: int) -> cp_model.CpSolver:
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.num_workers = workers
    solver.parameters.random_seed = SEED
    return solver


Key = tuple[int, int]


class _Model:
    """The model of all orders: a start for each step, a presence on each of its machines."""

    def __init__(self, orders: Sequence[Order], shop: Shop, pins: Sequence[Pin]) -> None:
        self._orders, self._shop = orders, shop
        self._model = cp_model.CpModel()
        self._horizon = shop.openings[-1][1]
        self._start: dict[Key, cp_model.IntVar] = {}
        self._on: dict[tuple[Key, str], cp_model.IntVar] = {}
        self._intervals: dict[str, list[tuple[Key, cp_model.IntervalVar]]] = {}
        self._late: list[cp_model.LinearExprT] = []
        for number, order in enumerate(orders):
            self._add_order(number, order)
        for machine, work in self._intervals.items():
            self._one_at_a_time(machine, work)
        self._pin(pins)

    def _steps(self) -> list[tuple[Key, Order, Step]]:
        return [
            ((o, s), order, step)
            for o, order in enumerate(self._orders)
            for s, step in enumerate(order.steps)
        ]

    def _add_order(self, number: int, order: Order) -> None:
        end: cp_model.LinearExprT | None = None
        for at, step in enumerate(order.steps):
            key, model = (number, at), self._model
            start = model.new_int_var(step.not_before, self._horizon - step.minutes, f"s{number}.{at}")
            self._start[key] = start
            if end is not None:
                model.add(start >= end + step.wait)
            end = start + step.minutes
            present = []
            for machine in step.machines:
                on = model.new_bool_var(f"on{number}.{at}.{machine}")
                self._on[key, machine] = on
                present.append(on)
                interval = model.new_optional_fixed_size_interval_var(start, step.minutes, on, "")
                self._intervals.setdefault(machine, []).append((key, interval))
            model.add_exactly_one(present)
        if order.due is not None and end is not None:
            late = self._model.new_int_var(0, self._horizon, f"late{number}")
            self._model.add(late >= end - order.due)
            self._late.append(late * order.weight)

    def _closed(self) -> list[Span]:
        spans, at = [], 0
        for start, end in self._shop.openings:
            if start > at:
                spans.append((at, start))
            at = end
        return spans

    def _one_at_a_time(self, machine: str, work: list[tuple[Key, cp_model.IntervalVar]]) -> None:
        model = self._model
        closed = [model.new_fixed_size_interval_var(start, end - start, "") for start, end in self._closed()]
        many = self._shop.many.get(machine, 1)
        intervals = [interval for _, interval in work]
        if many > 1:
            demands = [1] * len(intervals) + [many] * len(closed)
            model.add_cumulative([*intervals, *closed], demands, many)
            return
        model.add_no_overlap([*intervals, *closed])
        gap, loaded = self._shop.setup_minutes, self._shop.loaded.get(machine)
        steps = {key: step for key, _, step in self._steps()}
        for n, (first, _) in enumerate(work):
            on = self._on[first, machine]
            if gap and loaded and steps[first].setup and steps[first].setup != loaded:
                # What lies in the machine now is taken out first.
                model.add(self._start[first] >= gap).only_enforce_if(on)
            for second, _ in work[n + 1 :]:
                one, two = steps[first].setup, steps[second].setup
                if first[0] == second[0] or not gap or not one or not two or one == two:
                    continue
                both = [on, self._on[second, machine]]
                before = model.new_bool_var("")
                earlier = self._start[first] + steps[first].minutes + gap
                later = self._start[second] + steps[second].minutes + gap
                model.add(self._start[second] >= earlier).only_enforce_if([*both, before])
                model.add(self._start[first] >= later).only_enforce_if([*both, before.negated()])

    def _pin(self, pins: Sequence[Pin]) -> None:
        for pin in pins:
            for key, order, step in self._steps():
                if (order.id, step.name) != (pin.order, pin.step):
                    continue
                if pin.start is not None:
                    self._model.add(self._start[key] == max(pin.start, 0))
                if pin.machine is not None and (on := self._on.get((key, pin.machine))) is not None:
                    self._model.add(on == 1)

    def hint(self, plan: Plan | None) -> None:
        """Begin the search from a plan."""
        self._model.clear_hints()
        known = {(each.order, each.step): each for each in plan.steps} if plan is not None else {}
        for key, order, step in self._steps():
            if (there := known.get((order.id, step.name))) is None:
                continue
            self._model.add_hint(self._start[key], there.start)
            for machine in step.machines:
                self._model.add_hint(self._on[key, machine], int(machine == there.machine))

    def for_lateness(self) -> cp_model.CpModel:
        """To be solved for the least lateness of all, weighted."""
        self._model.minimize(sum(self._late))
        return self._model

    def for_early_ends(self, lateness: int) -> cp_model.CpModel:
        """To be solved for early ends of all orders, with that lateness at most."""
        if self._late:
            self._model.add(sum(self._late) <= lateness)
        # What is due sooner counts for more: of two that are in time, it is done first. Short work that nobody
        # waits for would still go before it by a little, and people would ask why: hence the factor.
        by_due = sorted(
            (number for number, order in enumerate(self._orders) if order.steps),
            key=lambda number: (self._orders[number].due is None, self._orders[number].due or 0),
            reverse=True,
        )
        ends = [
            rank**2
            * (DUE_FIRST if self._orders[number].due is not None else 1)
            * (
                self._start[number, len(self._orders[number].steps) - 1]
                + self._orders[number].steps[-1].minutes
            )
            for rank, number in enumerate(by_due, start=1)
        ]
        self._model.minimize(sum(ends))
        return self._model

    def read(self, solver: cp_model.CpSolver) -> Plan:
        """The plan that was found."""
        steps, ends = [], dict[str, int]()
        for key, order, step in self._steps():
            start = solver.value(self._start[key])
            machine = next(each for each in step.machines if solver.value(self._on[key, each]))
            steps.append(Planned(order.id, step.name, machine, start, start + step.minutes))
            ends[order.id] = start + step.minutes
        late = {
            order.id: ends[order.id] - order.due
            for order in self._orders
            if order.due is not None and order.id in ends and ends[order.id] > order.due
        }
        weighed = sum(late.get(order.id, 0) * order.weight for order in self._orders)
        return Plan(tuple(sorted(steps, key=lambda each: each.start)), late, weighed, 0)


@dataclass(frozen=True)
class Rescue:
    """What would save a late order: doing it before others (and how late each of those would be then, minutes; none
    where nobody is), or, where even that does not do, so many minutes more of open shop before it is due."""

    order: str
    first: bool
    others_late: dict[str, int]
    minutes_short: int
    moves: dict[str, int]
    """When each of its steps begins then."""


def rescue(
    order_id: str,
    orders: Sequence[Order],
    shop: Shop,
    pins: Sequence[Pin],
    plan: Plan,
    seconds: float = 1.0,
    *,
    clock: Clock,
) -> Rescue:
    """Find the least change that saves a late order, within `seconds` of `clock`."""
    heavy = [replace(each, weight=each.weight * 1000) if each.id == order_id else each for each in orders]
    tried = make_plan(heavy, shop, pins, seconds, plan, clock=clock)
    still = tried.late.get(order_id, 0)
    others = {
        each: minutes
        for each, minutes in tried.late.items()
        if each != order_id and minutes > plan.late.get(each, 0)
    }
    moves = {each.step: each.start for each in tried.steps if each.order == order_id}
    return Rescue(order_id, still == 0, others, still, moves)
