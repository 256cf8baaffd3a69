"""Read what strangers drop in a process of its own, with limits on memory and time.

The process may die without harm: the caller gets an `ArtworkError` and the next picture a new
process. One that behaves is used again, so nothing is paid for a start. Work that was given a ticket
says what it is doing under it, and can be cancelled by it.
"""

import contextlib
import ctypes
import multiprocessing
import os
import resource
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor, TimeoutError
from concurrent.futures.process import BrokenProcessPool
from contextvars import ContextVar
from multiprocessing.connection import wait
from pathlib import Path
from typing import Any, TypeVar

from perisect.core.artwork import ArtworkError

MEMORY_BYTES = 1_500_000_000
"""What a reader may use in all."""
SECONDS = 40.0
READERS = 2
SLOTS = 64

T = TypeVar("T")


class Cancelled(Exception):
    """Somebody cancelled the work; nothing was changed."""


class _Doing(ctypes.Structure):
    """What a reader is at, in memory it shares with the caller."""

    _fields_ = [("reader", ctypes.c_int), ("stop", ctypes.c_int), ("stage", ctypes.c_char * 60)]


_context = multiprocessing.get_context("forkserver")
_lock = threading.Lock()
_pool: ProcessPoolExecutor | None = None
_slots: Any = None
_free = list(range(SLOTS))
_tickets: dict[str, int | None] = {}
"""The slot of each ticket's work; None before it has begun and between two readings."""
_cancelled: set[str] = set()
_gentle: set[str] = set()
"""Tickets whose work ends by itself when it is asked to, with what it has."""
_mine: int | None = None
"""In a reader: the slot of the work at hand."""

ticket: ContextVar[str | None] = ContextVar("ticket", default=None)
"""Under which ticket the request at hand is worked on."""


def report(stage: str) -> None:
    """Say what a reader is doing; outside of one this does nothing."""
    if _mine is not None:
        _slots[_mine].stage = stage.encode()[:59]


def asked_to_stop() -> bool:
    """In a reader: whether whoever waits wants what there is by now."""
    return _mine is not None and bool(_slots[_mine].stop)


def stop_gently() -> None:
    """From here on, cancelling the ticket at hand asks its work to end with what it has."""
    number = ticket.get()
    if number is not None:
        with _lock:
            _gentle.add(number)


def doing(number: str) -> str | None:
    """What is being done under a ticket: a stage, or "" when none has begun; None for an unknown ticket."""
    with _lock:
        if number not in _tickets:
            return None
        slot = _tickets[number]
    return "" if slot is None else _slots[slot].stage.decode(errors="ignore")


def cancel(number: str, gently: bool = True) -> bool:
    """Stop the work under a ticket; whether there was any. Work that can end with what it has does so, if it is
    asked gently."""
    with _lock:
        if number not in _tickets:
            return False
        slot = _tickets[number]
        if gently and number in _gentle:
            if slot is not None:
                _slots[slot].stop = 1
            return True
        _cancelled.add(number)
    reader = _slots[slot].reader if slot is not None else 0
    if reader:
        with contextlib.suppress(ProcessLookupError):
            os.kill(reader, 9)
    return True


@contextlib.contextmanager
def under_ticket(number: str | None) -> Iterator[None]:
    """Everything read meanwhile is read under this ticket."""
    if number is None:
        yield
        return
    token = ticket.set(number)
    with _lock:
        _tickets[number] = None
    try:
        yield
    finally:
        ticket.reset(token)
        with _lock:
            _tickets.pop(number, None)
            _cancelled.discard(number)
            _gentle.discard(number)


def _limit(slots: Any) -> None:
    global _slots
    _slots = slots
    threading.Thread(target=_die_with_parent, daemon=True).start()
    import cv2

    import perisect.core.job  # noqa: F401, so that what it maps is not counted

    cv2.setNumThreads(1)
    # Libraries map far more than they use: the limit is on what is used from here on.
    mapped, used = _memory()
    most = mapped + MEMORY_BYTES - used
    resource.setrlimit(resource.RLIMIT_AS, (most, most))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _die_with_parent() -> None:
    """A reader whose caller was killed hears of it from nobody else: its queue stays open."""
    parent = multiprocessing.parent_process()
    if parent is not None:
        wait([parent.sentinel])
        os._exit(1)


def _memory() -> tuple[int, int]:
    """Bytes this process has mapped, and those it uses."""
    pages = Path("/proc/self/statm").read_text(encoding="ascii").split()
    size = resource.getpagesize()
    return int(pages[0]) * size, int(pages[1]) * size


def _work(slot: int | None, work: Callable[[bytes], T], data: bytes) -> T:
    global _mine
    _mine = slot
    if slot is not None:
        _slots[slot].reader = os.getpid()
    try:
        return work(data)
    finally:
        if slot is not None:
            _slots[slot].reader = 0
        _mine = None


def _current_pool() -> ProcessPoolExecutor:
    global _pool, _slots
    with _lock:
        if _pool is None:
            _slots = _slots or _context.Array(_Doing, SLOTS, lock=False)
            _pool = ProcessPoolExecutor(READERS, _context, initializer=_limit, initargs=(_slots,))
        return _pool


def _discard(pool: ProcessPoolExecutor) -> None:
    global _pool
    with _lock:
        if _pool is pool:
            _pool = None
    for process in list(getattr(pool, "_processes", {}).values()):
        with contextlib.suppress(Exception):
            process.kill()
    pool.shutdown(wait=False, cancel_futures=True)


@contextlib.contextmanager
def _slot() -> Iterator[int | None]:
    """A slot for the work of the ticket at hand; none without a ticket or when all are taken."""
    number = ticket.get()
    with _lock:
        slot = _free.pop() if number is not None and _free and _slots is not None else None
        if number is not None:
            _tickets[number] = slot
    if slot is not None:
        _slots[slot].reader, _slots[slot].stop, _slots[slot].stage = 0, 0, b""
    try:
        yield slot
    finally:
        with _lock:
            if slot is not None:
                _free.append(slot)
            if number in _tickets:
                _tickets[number] = None


def _refuse_cancelled() -> None:
    if ticket.get() in _cancelled:
        raise Cancelled


def call(work: Callable[[bytes], T], data: bytes) -> T:
    """`work(data)` in a reader process.

    Raises:
        ArtworkError: raised by the work, or the reader died, ran out of memory or of time.
        Cancelled: by the ticket at hand.
    """
    for attempt in range(3):
        _refuse_cancelled()
        pool = _current_pool()
        try:
            with _slot() as slot:
                future: Future[T] = pool.submit(_work, slot, work, data)
                return future.result(timeout=SECONDS)
        except TimeoutError as error:
            _discard(pool)
            raise ArtworkError(
                f"Reading the picture took more than {SECONDS:.0f} s.", "Export it smaller and drop it again."
            ) from error
        except MemoryError as error:
            raise _too_much() from error
        except (BrokenProcessPool, RuntimeError) as error:
            # Another picture's reader may have died and taken this one with it: try again.
            _discard(pool)
            _refuse_cancelled()
            if attempt == 2:
                raise _too_much() from error
    raise AssertionError("not reached")


def _too_much() -> ArtworkError:
    return ArtworkError(
        "The picture needs more memory than a reader is given.", "Export it smaller and drop it again."
    )
