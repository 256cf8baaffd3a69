"""Parts of a long computation beside each other, each in a process forked from the one that does it.

Threads of Python take turns; searches of many short steps are hardly faster in two of them than in one.
"""

import mmap
import os
import signal
from collections.abc import Callable, Sequence
from multiprocessing import Pipe
from multiprocessing.connection import Connection, wait
from typing import Any, TypeVar

T = TypeVar("T")

LOOK_S = 0.1
GRACE_S = 10.0
"""How long a part may go on that was told to end."""

_RESULT, _ERROR = True, False


def beside(jobs: Sequence[Callable[[Callable[[], bool]], T]], over: Callable[[], bool]) -> list[T | None]:
    """What each job brings; None of one whose process died. Each is handed what tells it to end with what it has.

    A job must not ask anything of threads that its caller started before.

    Args:
        over: asked some ten times a second whether they are to end.

    Raises:
        Exception: what a job raised.
    """
    ended = mmap.mmap(-1, 1)
    parts: list[tuple[int, Connection]] = []
    try:
        parts.extend(_fork(job, ended) for job in jobs)
        return _results(parts, ended, over)
    finally:
        for process, link in parts:
            link.close()
            _end(process)
        ended.close()


def _fork(job: Callable[[Callable[[], bool]], Any], ended: mmap.mmap) -> tuple[int, Connection]:
    mine, its = Pipe(duplex=False)
    parent = os.getpid()
    process = os.fork()
    if process:
        its.close()
        return process, mine
    # Nothing of the caller's may run here any more, whatever happens: no clean-up and no handler of its own.
    try:
        answer: tuple[bool, Any] = _RESULT, job(lambda: ended[0] != 0 or os.getppid() != parent)
    except BaseException as error:
        answer = _ERROR, error
    try:
        its.send(answer)
    finally:
        os._exit(0)


def _results(
    parts: Sequence[tuple[int, Connection]], ended: mmap.mmap, over: Callable[[], bool]
) -> list[Any]:
    found: dict[Connection, Any] = {}
    looks = 0
    while waiting := [link for _, link in parts if link not in found]:
        for link in wait(waiting, timeout=LOOK_S):
            assert isinstance(link, Connection)
            try:
                fine, value = link.recv()
            except EOFError:
                fine, value = _RESULT, None
            if not fine:
                raise value
            found[link] = value
        if over():
            ended[0] = 1
        looks = looks + 1 if ended[0] else 0
        if looks * LOOK_S > GRACE_S:
            break
    return [found.get(link) for _, link in parts]


def _end(process: int) -> None:
    os.kill(process, signal.SIGKILL)
    os.waitpid(process, 0)
