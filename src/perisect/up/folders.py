"""The folder of a shop: for its owner alone, and without what a kill left in it."""

import fcntl
import os
import shutil
from pathlib import Path

OURS = {"blobs", "log", "pg", "pg-password", "tmp"}
LONGEST_TEMPORARY = 70
"""Longest path of a temporary folder: sockets below it have addresses of 108 bytes at most (unix(7))."""


def prepare(local: Path) -> Path | None:
    """Make the folder of a shop, close it to others, and empty its temporary folder.

    Args:
        local: the folder. One that holds what is not of a shop stays as open as it is; what is ours in it is closed.

    Returns:
        The temporary folder; None where its path would be too long for the sockets in it, or where a shop that runs
        already uses it.
    """
    local = local.resolve()
    local.mkdir(mode=0o700, parents=True, exist_ok=True)
    if {each.name for each in local.iterdir()} <= OURS:
        # The database of a shop that was made by root runs as another user, who passes through.
        passes = os.geteuid() == 0 and (local / "pg").is_dir() and not (local / "pg").is_symlink()
        local.chmod(0o711 if passes else 0o700)
    for name in ("blobs", "log"):
        if (local / name).is_dir():
            (local / name).chmod(0o700)
    temporary = local / "tmp"
    if len(str(temporary)) > LONGEST_TEMPORARY or not _hold(local):
        return None
    shutil.rmtree(temporary, ignore_errors=True)
    temporary.mkdir(mode=0o700, exist_ok=True)
    return temporary


def _hold(local: Path) -> bool:
    """Hold a folder until this process ends (flock(2)); return whether no other process does."""
    handle = os.open(local, os.O_RDONLY | os.O_DIRECTORY)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        os.close(handle)
        return False
    # Never closed: it is let go of with the process.
    return True
