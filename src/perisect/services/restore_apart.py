"""Put a backup that somebody sent into the shop in a process of its own, with limits."""

import json
import subprocess
import sys
from typing import IO

import structlog

from perisect.services.backup import Backup
from perisect.services.restore import BackupError

SECONDS = 3600.0
"""Longest time for a restore, s. Chosen: 8 GB at the pace of a slow disk."""

log = structlog.get_logger()


class RestoreFailed(Exception):
    """The process that read the backup ended without an answer; nothing was changed."""


def restore_apart(file: IO[bytes]) -> Backup:
    """Put a backup into an empty shop by the command `restore`.

    Args:
        file: a real file, or one that becomes one when its number is asked for.

    Raises:
        BackupError: it cannot be put back; the text says why.
        RestoreFailed: its reader died, of too much memory for one.
    """
    number = file.fileno()
    command = [sys.executable, "-m", "perisect.cli", "restore", "--json", f"/proc/self/fd/{number}"]
    done = subprocess.run(
        command, pass_fds=(number,), capture_output=True, text=True, timeout=SECONDS, check=False
    )
    try:
        told = json.loads(done.stdout)
    except ValueError as error:
        log.warning("restore failed", code=done.returncode, said=done.stderr[-500:])
        raise RestoreFailed from error
    if "refused" in told:
        raise BackupError(told["refused"])
    return Backup(told["rows"], told["files"], told["bytes"])
