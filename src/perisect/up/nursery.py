"""Children of a shop, forked from one process that has loaded what they need: it takes each of them seconds.

They live as long as the supervisor does, whatever becomes of the process they were forked from: a cut that is under way
does not end because nobody new can be forked for a moment.
"""

import ctypes
import multiprocessing
import os
import runpy
import select
import signal
import sys
import tempfile
import threading
from collections.abc import Mapping, Sequence
from contextlib import suppress
from multiprocessing import forkserver
from multiprocessing.process import BaseProcess
from pathlib import Path

PR_SET_CHILD_SUBREAPER = 36
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


LAST_S = 12.0
"""Time that a child has to end once its supervisor is gone, s: twice what a worker takes to let go of its work."""


def open_nursery() -> None:
    """Begin to load, beside whatever is done until the first child is wanted."""
    # Children whose nursery has died become the supervisor's own (prctl(2)), which can still tell when they end.
    ctypes.CDLL(None).prctl(PR_SET_CHILD_SUBREAPER, 1)
    _context.set_forkserver_preload(LOADED)
    forkserver.ensure_running()


def keep_nursery() -> None:
    """Load again where the process that children are forked from has died, and bury orphans that have ended."""
    forkserver.ensure_running()
    for process in _own_children():
        if process != _nursery_pid() and _has_ended(process):
            with suppress(ChildProcessError):
                os.waitpid(process, os.WNOHANG)


def _nursery_pid() -> int | None:
    # Its own keeper waits for it, and would be confused if somebody else had.
    return getattr(forkserver._forkserver, "_forkserver_pid", None)


def _own_children() -> list[int]:
    files = Path("/proc/self/task").glob("*/children")
    return [int(each) for file in files for each in file.read_text(encoding="ascii").split()]


def _has_ended(process: int) -> bool:
    try:
        return Path(f"/proc/{process}/stat").read_text(encoding="utf-8").rpartition(")")[2].split()[0] == "Z"
    except (OSError, IndexError):
        return False


class Running:
    """A child, known by its process alone: the one it was forked from may be gone (pidfd_open(2))."""

    def __init__(self, process: BaseProcess) -> None:
        self.pid = process.pid or 0
        # Were it forgotten, its end of the pipe would be closed by which the child knows that the supervisor lives.
        self._process = process
        try:
            self._handle: int | None = os.pidfd_open(self.pid)
        except ProcessLookupError:
            self._handle = None

    def is_alive(self) -> bool:
        """Return whether it has not ended."""
        return not self.wait(0)

    def wait(self, seconds: float) -> bool:
        """Wait so long for its end; return whether it has ended."""
        if self._handle is None or not select.select([self._handle], [], [], max(0.0, seconds))[0]:
            return self._handle is None
        os.close(self._handle)
        self._handle = None
        return True

    def send(self, number: signal.Signals) -> None:
        """Send it a signal, if it has not ended."""
        if self._handle is not None:
            with suppress(ProcessLookupError):
                signal.pidfd_send_signal(self._handle, number)


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
    _end_with_supervisor()
    # Looked up before the environment was known.
    tempfile.tempdir = None
    nothing, written = os.open(os.devnull, os.O_RDONLY), os.open(log, os.O_WRONLY | os.O_APPEND)
    for here, there in ((nothing, 0), (written, 1), (written, 2)):
        os.dup2(here, there)
    os.close(nothing)
    os.close(written)
    sys.argv = ["perisect", *arguments]
    runpy.run_module(COMMAND_LINE, run_name="__main__", alter_sys=False)


def _end_with_supervisor() -> None:
    """Let nobody be left behind when the supervisor is killed outright."""
    supervisor = multiprocessing.parent_process()
    if supervisor is not None:
        threading.Thread(target=_end_after, args=(supervisor,), daemon=True).start()


def _end_after(supervisor: BaseProcess) -> None:
    supervisor.join()
    os.kill(os.getpid(), signal.SIGTERM)
    threading.Event().wait(LAST_S)
    os.kill(os.getpid(), signal.SIGKILL)
