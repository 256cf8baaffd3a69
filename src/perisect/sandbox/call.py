"""Have a piece of work done in a reader of its own.

A reader serves one caller at a time and is kept for the next. Its clock runs from the start of the work, not from
when it was asked for; one that dies or is killed takes only the work at hand with it.
"""

import multiprocessing
import signal
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from typing import Any, TypeVar

from perisect.core.stage import waiting
from perisect.sandbox import reader
from perisect.sandbox.errors import Cancelled, WorkFailed
from perisect.sandbox.line import Line
from perisect.sandbox.watch import Watch, current
from perisect.sandbox.work import PICTURE, Work

SECONDS = 40.0
"""How long a piece of work may take."""
CPU_SHARE = 0.75
"""Share of those seconds that it may keep a processor busy: what only computes is ended before what waits for its turn
on a busy machine."""
START_S = 60.0
"""How long a reader may take to be there; the clock of the work runs from then on."""
READERS = 2
"""Readers that one owner, such as a job, has at a time; one more is left for the others."""
MOST_WAITING = 64
LOOK_S = 0.05
WORKS_EACH = 100
"""A reader that has done so much makes room for a fresh one."""

T = TypeVar("T")

_context = multiprocessing.get_context("forkserver")
# What readers need is loaded once, in the process they are all forked from: it takes a second or two. Each of them
# loads the caller's own first module again, the command line.
_context.set_forkserver_preload(["perisect.sandbox.reader", "perisect.core.job", "cv2", "typer"])
_line = Line(READERS + 1, MOST_WAITING, seconds_each=1.0, most_each=READERS)
_idle: list["_Reader"] = []
_idle_lock = threading.Lock()


@dataclass
class _Reader:
    process: BaseProcess
    link: Connection
    works: int = 0

    def kill(self) -> None:
        self.process.kill()
        self.process.join(5)
        self.link.close()


def _start() -> _Reader:
    mine, its = _context.Pipe()
    process = _context.Process(target=reader.serve, args=(its,), daemon=True)
    process.start()
    its.close()
    started = _Reader(process, mine)
    try:
        if mine.poll(START_S) and mine.recv():
            return started
    except (EOFError, OSError):
        pass  # It ended before it was there; what follows tells of it.
    started.kill()
    raise WorkFailed(f"a reader did not start within {START_S:.0f} s")


def _take() -> _Reader:
    with _idle_lock:
        while _idle:
            kept = _idle.pop()
            if kept.process.is_alive():
                return kept
            kept.link.close()
    return _start()


def _give_back(kept: _Reader) -> None:
    kept.works += 1
    if kept.works >= WORKS_EACH:
        kept.kill()
        return
    with _idle_lock:
        _idle.append(kept)


def call(
    work: Callable[[bytes], T],
    data: bytes,
    seconds: float = SECONDS,
    cpu_seconds: float | None = None,
    kind: Work = PICTURE,
) -> T:
    """Do `work(data)` in a reader. Whoever watches hears its stages, and its place while it waits in line.

    Args:
        seconds: how long it may take, s.
        cpu_seconds: how long it may keep a processor busy, s; three quarters of `seconds` when it is left out.
        kind: what it is called where it takes too much.

    Raises:
        ArtworkError: raised by the work, or it needed too much memory or time, or its reader died.
        TooBusy: too many wait already.
        Cancelled: nobody wants it any more.
        WorkFailed: a fault of Perisect's own.
    """
    watch = current()
    with _line.place(lambda ahead: watch.report(waiting(ahead + 1)), watch.cancelled, watch.owner) as mine:
        if not mine or watch.cancelled():
            raise Cancelled
        kept = _take()
        try:
            asked = work, data, CPU_SHARE * seconds if cpu_seconds is None else cpu_seconds
            outcome, value = _follow(kept, asked, watch, seconds, kind)
        except BaseException:
            kept.kill()
            raise
        _give_back(kept)
    match outcome:
        case reader.DONE:
            return value
        case reader.ERROR:
            raise value
        case reader.MEMORY:
            raise kind.too_much_memory()
        case _:
            raise WorkFailed(value)


def _follow(
    kept: _Reader, asked: tuple[Callable[[bytes], T], bytes, float], watch: Watch, seconds: float, kind: Work
) -> tuple[str, Any]:
    """What the reader says in the end."""
    end, stopping = time.monotonic() + seconds, False
    try:
        kept.link.send(asked)
        while True:
            if kept.link.poll(LOOK_S):
                outcome, value = kept.link.recv()
                if outcome != reader.STAGE:
                    return outcome, value
                watch.report(value)
            if watch.cancelled():
                raise Cancelled
            if not stopping and watch.enough():
                stopping = True
                kept.link.send(reader.STOP)
            if time.monotonic() > end:
                raise kind.took_too_long(seconds)
    except (EOFError, ConnectionError, OSError) as error:
        kept.process.join(2)
        if kept.process.exitcode == -signal.SIGXCPU:
            raise kind.took_too_long(asked[2]) from error
        # Killed by the kernel for its memory, or by a library that could not get any.
        if kept.process.exitcode in (-9, -6, -11):
            raise kind.too_much_memory() from error
        raise WorkFailed(f"the reader ended by itself ({kept.process.exitcode})") from error
