"""Readers do not outlive the process they read for."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

from tests.processes import is_running

ASK = """
import importlib, os, time
sandbox = importlib.import_module("perisect.sandbox.call")
if __name__ == "__main__":
    print(sandbox.call(os.path.getsize, b"/proc/self/stat") or 0, flush=True)
    print(*(reader.process.pid for reader in sandbox._idle), flush=True)
    time.sleep(60)
"""


def test_readers_die_with_a_server_that_is_killed(tmp_path: Path) -> None:
    script = tmp_path / "ask.py"
    script.write_text(ASK, encoding="utf-8")
    server = subprocess.Popen([sys.executable, str(script)], stdout=subprocess.PIPE, text=True)
    assert server.stdout is not None
    server.stdout.readline()
    readers = [int(pid) for pid in server.stdout.readline().split()]
    assert readers
    assert all(is_running(pid) for pid in readers)
    os.kill(server.pid, signal.SIGKILL)
    server.wait()
    deadline = time.monotonic() + 10
    while any(is_running(pid) for pid in readers):
        assert time.monotonic() < deadline
        time.sleep(0.05)
