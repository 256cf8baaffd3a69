"""Keep the processes of one shop running, and stop all of them together."""

import os
import shutil
import signal
import socket
import ssl
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from dataclasses import dataclass, field
from multiprocessing.process import BaseProcess
from pathlib import Path

from perisect.up.nursery import Running, keep_nursery, open_nursery, run_child

TOO_OFTEN = 5
WITHIN_S = 20.0
"""A child is started at most `TOO_OFTEN` times within `WITHIN_S` seconds."""
LOOK_S = 0.2
LARGEST_LOG = 5_000_000


class SupervisorError(Exception):
    """A process that the shop cannot begin without does not run; one sentence says which."""


@dataclass
class Child:
    """A process by its name, what `perisect` is told, and its latest starts."""

    name: str
    arguments: list[str]
    process: Running | None = None
    starts: list[float] = field(default_factory=list)

    @property
    def is_failing(self) -> bool:
        """Whether it died so often of late that it has to wait until it is started again."""
        return len(self.starts) >= TOO_OFTEN and time.monotonic() - self.starts[-TOO_OFTEN] < WITHIN_S


@dataclass
class _Task:
    every_s: float
    do: Callable[[], None]
    last: float = 0.0


def port_is_free(host: str, port: int) -> bool:
    """Whether a server could listen there."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    with socket.socket(family) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            return False
        return True


class Supervisor:
    """Starts children of `perisect`, starts again what dies, stops all."""

    def __init__(self, logs: Path, environment: dict[str, str]) -> None:
        logs.mkdir(parents=True, exist_ok=True)
        logs.chmod(0o700)
        self._logs = logs
        self._environment = {**os.environ, **environment}
        self._children: list[Child] = []
        self._tasks: list[_Task] = [_Task(10.0, self._rotate), _Task(1.0, keep_nursery)]
        self._stopping = False
        open_nursery()

    def start(self, name: str, *arguments: str) -> None:
        """Start `perisect <arguments>` and keep it running; one of this name with other arguments is replaced."""
        command = list(arguments)
        child = next((each for each in self._children if each.name == name), None)
        if child is None:
            child = Child(name, command)
            self._children.append(child)
        elif child.arguments == command:
            return
        else:
            child.arguments, child.starts = command, []
            _end(child)
        self._spawn(child)

    def forget(self, name: str) -> None:
        """Stop a child for good."""
        for child in [each for each in self._children if each.name == name]:
            self._children.remove(child)
            _end(child)

    def is_failing(self, name: str) -> bool:
        """Whether a child is dead and has died again and again."""
        return any(each.name == name and each.is_failing and not _is_alive(each) for each in self._children)

    def every(self, seconds: float, do: Callable[[], None]) -> None:
        """Do something again and again while watching; it raises nothing but `SupervisorError`."""
        self._tasks.append(_Task(seconds, do))

    def run_once(self, name: str, *arguments: str) -> None:
        """Run `perisect <arguments>` to its end.

        Raises:
            SupervisorError: it failed.
        """
        child = self._run(name, list(arguments))
        child.join()
        if child.exitcode != 0:
            raise SupervisorError(
                f"`perisect {' '.join(arguments)}` failed; {self._logs / name}.log says why."
            )

    def watch(self) -> None:
        """Until SIGINT or SIGTERM: start again whatever dies.

        What dies again and again is said and waits between its starts; the others go on, for a shop whose simulated
        printer does not run can still draw and cut.
        """
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, self._on_signal)
        while not self._stopping:
            for child in self._children:
                if not _is_alive(child) and not child.is_failing and not self._stopping:
                    self._spawn(child)
            for task in self._tasks:
                if not self._stopping and time.monotonic() - task.last > task.every_s:
                    task.last = time.monotonic()
                    task.do()
            time.sleep(LOOK_S)

    def stop(self) -> None:
        """Ask every child to end, the last started first; kill what has not ended after 8 seconds."""
        alive = [child.process for child in reversed(self._children) if child.process is not None]
        for process in alive:
            process.send(signal.SIGTERM)
        deadline = time.monotonic() + 8
        for process in alive:
            _wait_or_kill(process, deadline - time.monotonic())

    def _on_signal(self, number: int, frame: object) -> None:
        self._stopping = True

    def _spawn(self, child: Child) -> None:
        child.starts = [*child.starts[1 - TOO_OFTEN :], time.monotonic()]
        if child.is_failing:
            reason = self._logs / f"{child.name}.log"
            print(f"The {child.name} keeps failing; {reason} says why.", file=sys.stderr, flush=True)
        try:
            child.process = Running(self._run(child.name, child.arguments))
        except SupervisorError:
            # The process that all are forked from may be about to end: it is not alive, and is tried again.
            child.process = None

    def _run(self, name: str, arguments: list[str]) -> BaseProcess:
        path = self._logs / f"{name}.log"
        # A log that its owner alone reads.
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_APPEND, 0o600)
        os.fchmod(handle, 0o600)
        os.close(handle)
        try:
            return run_child(arguments, self._environment, path)
        except (OSError, EOFError) as error:
            raise SupervisorError(f"No process can be started: {error or type(error).__name__}.") from error

    def _rotate(self) -> None:
        """Put large logs aside, one generation of each; whoever writes appends to what is left."""
        for log in self._logs.glob("*.log"):
            if log.stat().st_size > LARGEST_LOG:
                old = log.with_suffix(".log.1")
                shutil.copyfile(log, old)
                old.chmod(0o600)
                os.truncate(log, 0)


def _is_alive(child: Child) -> bool:
    return child.process is not None and child.process.is_alive()


def _end(child: Child) -> None:
    if child.process is not None:
        child.process.send(signal.SIGTERM)
        _wait_or_kill(child.process, 3)


def _wait_or_kill(process: Running, seconds: float) -> None:
    if not process.wait(max(0.1, seconds)):
        process.send(signal.SIGKILL)
        process.wait(10)


def wait_until_up(url: str, seconds: float = 180) -> None:
    """Until the API answers.

    Raises:
        SupervisorError: it does not.
    """
    # The server is this machine's own, and its certificate need not be known here.
    trusting = ssl._create_unverified_context() if url.startswith("https") else None
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        try:
            with urllib.request.urlopen(f"{url}/api/health", timeout=5, context=trusting):
                return
        except urllib.error.HTTPError as error:
            if error.code == 503:
                time.sleep(0.1)
                continue
            return
        except OSError:
            time.sleep(0.1)
    raise SupervisorError(f"The server did not come up at {url} within {seconds:.0f} seconds.")
