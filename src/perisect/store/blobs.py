"""Bytes by name, on anything fsspec speaks to."""

import shutil
import time
import uuid
from errno import ENOSPC
from functools import lru_cache
from pathlib import Path

import fsspec
from fsspec import AbstractFileSystem

from perisect.store.settings import settings

PASSING = ".passing-"
"""What is written aside is called so until it is whole."""
LEFT_OVER_S = 3600.0


class DiskFull(Exception):
    """There is no room for more."""


@lru_cache
def _place() -> tuple[AbstractFileSystem, str]:
    # Other processes write too: what a folder held a moment ago is not remembered.
    fs, root = fsspec.core.url_to_fs(settings().blobs, use_listings_cache=False)
    return fs, root.rstrip("/")


def _is_folder(fs: AbstractFileSystem) -> bool:
    return "file" in fs.protocol or "local" in fs.protocol


def put(name: str, data: bytes) -> str:
    """Save bytes under a name; a reader never sees half of them. Returns the name.

    Raises:
        DiskFull: there is no room; nothing half-written is left.
    """
    fs, root = _place()
    path = f"{root}/{name}"
    if not _is_folder(fs):
        fs.pipe_file(path, data)  # A bucket shows nothing before it is whole.
        return name
    passing = f"{path}{PASSING}{uuid.uuid4().hex}"
    try:
        fs.makedirs(path.rsplit("/", 1)[0], exist_ok=True)
        fs.pipe_file(passing, data)
        fs.mv(passing, path)
    except OSError as error:
        try:
            fs.rm_file(passing)
        except Exception:
            pass
        if error.errno == ENOSPC:
            raise DiskFull from error
        raise
    return name


def get(name: str) -> bytes | None:
    """Bytes under a name, or None."""
    fs, root = _place()
    try:
        return bytes(fs.cat_file(f"{root}/{name}"))
    except FileNotFoundError:
        return None


def exists(name: str) -> bool:
    """Whether there are bytes under a name."""
    fs, root = _place()
    return bool(fs.exists(f"{root}/{name}"))


def free_bytes() -> int | None:
    """Room left where blobs are; None where nobody can say, as in a bucket."""
    fs, root = _place()
    if not _is_folder(fs):
        return None
    folder = Path(root)
    while not folder.exists():
        folder = folder.parent
    return shutil.disk_usage(folder).free


def need_room() -> None:
    """Whether there is room to take more work in.

    Raises:
        DiskFull: less is left than the settings ask for.
    """
    free = free_bytes()
    if free is not None and free < settings().least_free_mb * 1_000_000:
        raise DiskFull


def sweep() -> int:
    """Remove what was written aside and left there by a process that died; how much there was."""
    fs, root = _place()
    if not _is_folder(fs) or not fs.exists(root):
        return 0
    old = [
        path
        for path, facts in fs.find(root, detail=True).items()
        if PASSING in path and time.time() - float(facts["mtime"]) > LEFT_OVER_S
    ]
    for path in old:
        fs.rm_file(path)
    return len(old)


def every() -> dict[str, tuple[int, float]]:
    """Names of all blobs that are whole, with their bytes and when each was written (seconds; 0 where nobody says)."""
    fs, root = _place()
    if not fs.exists(root):
        return {}
    found = {}
    for path, facts in fs.find(root, detail=True).items():
        if PASSING not in path:
            when = facts.get("mtime") or facts.get("LastModified") or 0.0
            seconds = when.timestamp() if hasattr(when, "timestamp") else float(when)
            found[path.removeprefix(root).lstrip("/")] = (int(facts["size"]), seconds)
    return found


def remove(name: str) -> None:
    """Remove what is under a name, if it is there."""
    fs, root = _place()
    try:
        fs.rm_file(f"{root}/{name}")
    except FileNotFoundError:
        pass
