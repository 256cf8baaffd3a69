"""What is done when at which machine: printing, drying, cutting and work by hand, for orders that are due.

Times are whole minutes from the beginning of the plan. A step lies within one opening of the shop; drying goes on while
it is closed. `planner` plans them.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

Span = tuple[int, int]


@dataclass(frozen=True)
class Step:
    """One piece of work: on one of some machines, so many minutes.

    `setup` is what must be loaded for it (a change takes the shop's set-up time), `wait` minutes must pass after the
    step before (drying), and it begins at `not_before` at the earliest.
    """

    name: str
    machines: tuple[str, ...]
    minutes: int
    setup: str = ""
    wait: int = 0
    not_before: int = 0


@dataclass(frozen=True)
class Order:
    """Steps one after the other, due at a minute (None for whenever), more or less urgent."""

    id: str
    steps: tuple[Step, ...]
    due: int | None = None
    weight: int = 1


@dataclass(frozen=True)
class Pin:
    """What somebody has decided of a step: its machine, its beginning, or both."""

    order: str
    step: str
    machine: str | None = None
    start: int | None = None


@dataclass(frozen=True)
class Shop:
    """Openings as spans of minutes, in order; how many work by hand at once on machines named in `hands`; minutes that
    a change of set-up takes; what each machine has loaded now."""

    openings: tuple[Span, ...]
    setup_minutes: int = 5
    loaded: Mapping[str, str] = field(default_factory=dict)
    many: Mapping[str, int] = field(default_factory=dict)
    """How many steps a machine takes at once, where that is not one: the hands of three people."""


@dataclass(frozen=True)
class Planned:
    """When and where a step is done."""

    order: str
    step: str
    machine: str
    start: int
    end: int


@dataclass(frozen=True)
class Plan:
    """A plan, minutes by which each late order is late, and a proven least of the lateness of all (weighted)."""

    steps: tuple[Planned, ...]
    late: Mapping[str, int]
    lateness: int
    least: int


class NoPlan(Exception):
    """Nothing can be planned so; the text says why."""
