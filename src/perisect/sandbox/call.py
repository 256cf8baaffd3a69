"""Have a piece of work done in a reader of its own.

A reader serves one caller at a time and is kept for the next. Its clock runs from the start of the work, not from
when it was asked for; one that dies or is killed takes only the work at hand with it.
"""

import multiprocessing
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from typing import Any, TypeVar

from perisect.core.artwork import ArtworkError
from perisect.sandbox import reader
from perisect.sandbox.errors import Cancelled, WorkFailed
from perisect.sandbox.line import Line
from perisect.sandbox.watch import Watch, current

SECONDS = 40.0
"""How long a piece of work may take."""
START_S = 60.0
"""How long a reader may take to be there; the clock of the work runs from then on."""
READERS = 2
MOST_WAITING = 64
LOOK_S = 0.05
WORKS_EACH = 100
"""A reader that has done so much makes room for a fresh one."""

T = TypeVar("T")

_context = multiprocessing.get_context("forkserver")
# What readers need is loaded once, in the process they are all forked from: it takes a second or two. Each of them
# loads the caller's own first module again, the command line.
_context.set_forkserver_preload(["perisect.sandbox.reader", "perisect.core.job", "cv2", "typer"])
_line = Line(READERS, MOST_WAITING, seconds_each=1.0)
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


def call(work: Callable[[bytes], T], data: bytes, seconds: float = SECONDS) -> T:
    """`work(data)` in a reader. Whoever watches hears its stages, and its place while it waits in line.

    Raises:
        ArtworkError: raised by the work, or it needed too much memory or time, or its reader died.
        TooBusy: too many wait already.
        Cancelled: nobody wants it any more.
        WorkFailed: a fault of Perisect's own.
    """
    watch = current()
    waits = "Waiting behind {} other{}".format
    with _line.place(
        lambda ahead: watch.report(waits(ahead + 1, "" if ahead == 0 else "s")), watch.cancelled
    ) as mine:
        if not mine or watch.cancelled():
            raise Cancelled
        kept = _take()
        try:
            outcome, value = _follow(kept, work, data, watch, seconds)
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
            raise _too_much()
        case _:
            raise WorkFailed(value)


def _follow(
    kept: _Reader, work: Callable[[bytes], T], data: bytes, watch: Watch, seconds: float
) -> tuple[str, Any]:
    """What the reader says in the end."""
    end, stopping = time.monotonic() + seconds, False
    try:
        kept.link.send((work, data))
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
                raise ArtworkError(
                    f"Reading the picture took more than {seconds:.0f} s.",
                    "Export it smaller and drop it again.",
                )
    except (EOFError, ConnectionError, OSError) as error:
        kept.process.join(2)
        # Killed by the kernel for its memory, or by a library that could not get any.
        if kept.process.exitcode in (-9, -6, -11):
            raise _too_much() from error
        raise WorkFailed(f"the reader ended by itself ({kept.process.exitcode})") from error


def _too_much() -> ArtworkError:
    return ArtworkError(
        "The picture needs more memory than a reader is given.", "Export it smaller and drop it again."
    )
