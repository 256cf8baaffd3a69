"""Children of a shop, forked from one process that has loaded what they need: it takes each of them seconds."""

import ctypes
import multiprocessing
import os
import runpy
import signal
import sys
import threading
from collections.abc import Mapping, Sequence
from multiprocessing import forkserver
from multiprocessing.process import BaseProcess
from pathlib import Path

PR_SET_PDEATHSIG = 1
COMMAND_LINE = "perisect.cli"
LOADED = [
    COMMAND_LINE,
    "uvicorn",
    "alembic.command",
    "perisect.api.app",
    "perisect.queue.worker",
    "perisect.demo.load",
    "perisect.stand_ins.printer_server",
    "perisect.stand_ins.plotter_server",
]

_context = multiprocessing.get_context("forkserver")


def open_nursery() -> None:
    """Begin to load, beside whatever is done until the first child is wanted."""
    _context.set_forkserver_preload(LOADED)
    forkserver.ensure_running()


def run_child(arguments: Sequence[str], environment: Mapping[str, str], log: Path) -> BaseProcess:
    """Run `perisect <arguments>` as a process of a session of its own, which writes to the end of a log and ends with
    the caller.

    Raises:
        OSError, EOFError: it could not be started.
    """
    child = _context.Process(target=_run, args=(list(arguments), dict(environment), str(log)))
    child.start()
    return child


def _run(arguments: list[str], environment: dict[str, str], log: str) -> None:
    from setproctitle import setproctitle

    # Before the environment is changed, beside which the kernel keeps the title.
    setproctitle(" ".join(["perisect", *arguments]))
    os.environ.update(environment)
    # Ctrl C reaches the supervisor alone, which then stops the others.
    os.setsid()
    _end_with_callers()
    nothing, written = os.open(os.devnull, os.O_RDONLY), os.open(log, os.O_WRONLY | os.O_APPEND)
    for here, there in ((nothing, 0), (written, 1), (written, 2)):
        os.dup2(here, there)
    os.close(nothing)
    os.close(written)
    sys.argv = ["perisect", *arguments]
    runpy.run_module(COMMAND_LINE, run_name="__main__", alter_sys=False)


def _end_with_callers() -> None:
    """Nobody is left behind when the supervisor is killed outright; where the process dies that all are forked from,
    nobody hears of a child any more, and another takes its place at once (prctl(2))."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    caller = multiprocessing.parent_process()
    if caller is not None:
        threading.Thread(target=_end_after, args=(caller,), daemon=True).start()


def _end_after(caller: BaseProcess) -> None:
    caller.join()
    os.kill(os.getpid(), signal.SIGTERM)
