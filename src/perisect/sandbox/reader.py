"""The process that does one piece of work at a time: what runs in it, and what the work may call."""

import os
import resource
import threading
import time
import traceback
from collections.abc import Callable
from math import ceil
from multiprocessing import parent_process
from multiprocessing.connection import Connection, wait
from pathlib import Path
from typing import Any

from perisect.core.stage import Stage

MEMORY_BYTES = 1_500_000_000
"""What a reader may use in all."""

READY, STAGE, DONE, ERROR, FAULT, MEMORY = "ready", "stage", "done", "error", "fault", "memory"
"""What a reader says: it is there, a stage, a result, an exception of the work's own, a fault, too little memory."""
STOP = "stop"
"""What a reader is told when whoever waits wants what there is by now."""

_caller: Connection | None = None
_stopped = False
_asking = threading.Lock()
"""A search asks from several threads: the second to see one message would wait for another for ever."""


def report(stage: Stage) -> None:
    """Say what the work is doing; outside of a reader this does nothing."""
    if _caller is not None:
        _caller.send((STAGE, stage))


def asked_to_stop() -> bool:
    """Whether whoever waits wants what there is by now."""
    global _stopped
    with _asking:
        if _caller is not None and not _stopped and _caller.poll():
            _caller.recv()
            _stopped = True
        return _stopped


def serve(caller: Connection) -> None:
    """Do work after work until the caller goes away: each a callable, the bytes it takes, and its CPU seconds."""
    threading.Thread(target=_die_with_parent, daemon=True).start()
    _limit_memory()
    caller.send((READY, None))
    while True:
        try:
            asked = caller.recv()
        except (EOFError, OSError):
            return
        # A stop that came when its work had just ended is nobody's.
        if asked != STOP:
            caller.send(_answer(caller, *asked))


def _answer(
    caller: Connection, work: Callable[[bytes], Any], data: bytes, cpu_seconds: float
) -> tuple[str, Any]:
    global _caller, _stopped
    _caller, _stopped = caller, False
    _limit_cpu(cpu_seconds)
    try:
        return DONE, work(data)
    except MemoryError:
        return MEMORY, None
    except Exception as error:
        # All that GEOS tells of memory it did not get.
        if "bad_alloc" in str(error):
            return MEMORY, None
        # A trade's own refusal says so by having a title; anything else is a fault, whatever it is called.
        return (ERROR, error) if hasattr(error, "title") else (FAULT, _plain(error))
    finally:
        _caller = None


def _plain(error: Exception) -> str:
    return "".join(traceback.format_exception(error, limit=-12))[-6000:]


def _limit_memory() -> None:
    import cv2

    import perisect.core.job  # noqa: F401, so that what it maps is not counted

    cv2.setNumThreads(1)
    # Libraries map far more than they use: the limit is on what is used from here on.
    mapped, used = _memory()
    most = mapped + MEMORY_BYTES - used
    resource.setrlimit(resource.RLIMIT_AS, (most, most))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _limit_cpu(seconds: float) -> None:
    """Let this process use so many more seconds of a processor; the kernel ends it then (SIGXCPU, setrlimit(2))."""
    _, most = resource.getrlimit(resource.RLIMIT_CPU)
    resource.setrlimit(resource.RLIMIT_CPU, (ceil(time.process_time() + seconds), most))


def _die_with_parent() -> None:
    """A reader whose caller was killed in the middle of its work hears of it from nobody else."""
    parent = parent_process()
    if parent is not None:
        wait([parent.sentinel])
        os._exit(1)


def _memory() -> tuple[int, int]:
    """Bytes this process has mapped, and those it uses."""
    pages = Path("/proc/self/statm").read_text(encoding="ascii").split()
    size = resource.getpagesize()
    return int(pages[0]) * size, int(pages[1]) * size
