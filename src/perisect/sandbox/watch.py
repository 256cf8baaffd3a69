"""Who follows the work at hand, and how they stop it."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass

from perisect.core.stage import Report


@dataclass(frozen=True)
class Watch:
    """Follows a piece of work. All but `owner` are called often and answer at once.

    Attributes:
        report: hears what is being done.
        cancelled: says that nobody wants it any more.
        enough: says that what there is by now will do.
        owner: whose work it is; owners take turns.
    """

    report: Report = lambda _: None
    cancelled: Callable[[], bool] = lambda: False
    enough: Callable[[], bool] = lambda: False
    owner: str = ""


_NOBODY = Watch()
_current: ContextVar[Watch] = ContextVar("watch", default=_NOBODY)


def current() -> Watch:
    """The watch of the work at hand."""
    return _current.get()


@contextmanager
def watched(watch: Watch) -> Iterator[None]:
    """Everything called meanwhile is watched."""
    token = _current.set(watch)
    try:
        yield
    finally:
        _current.reset(token)
