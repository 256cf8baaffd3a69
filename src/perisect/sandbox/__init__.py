"""Strangers' bytes and long computation in processes of their own: one a piece of work, with limits, kept warm."""

from perisect.sandbox import work
from perisect.sandbox.beside import beside
from perisect.sandbox.call import SECONDS, call
from perisect.sandbox.errors import Cancelled, TooBusy, WorkFailed
from perisect.sandbox.reader import asked_to_stop, report
from perisect.sandbox.watch import Watch, watched

__all__ = [
    "SECONDS",
    "Cancelled",
    "TooBusy",
    "Watch",
    "WorkFailed",
    "asked_to_stop",
    "beside",
    "call",
    "report",
    "watched",
    "work",
]
