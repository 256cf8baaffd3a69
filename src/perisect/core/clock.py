"""Clocks that computations are handed: core reads no time of its own."""

from collections.abc import Callable

Clock = Callable[[], float]
"""Returns seconds that only rise, as `time.monotonic` does."""


def stopped() -> float:
    """Return 0 s: a clock under which no time passes, for work that ends by its steps alone."""
    return 0.0
