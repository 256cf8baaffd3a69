"""Bytes by name, on anything fsspec speaks to."""

import uuid
from functools import lru_cache

import fsspec
from fsspec import AbstractFileSystem

from perisect.store.settings import settings


@lru_cache
def _place() -> tuple[AbstractFileSystem, str]:
    fs, root = fsspec.core.url_to_fs(settings().blobs)
    return fs, root.rstrip("/")


def put(name: str, data: bytes) -> str:
    """Keep bytes under a name; a reader never sees half of them. Returns the name."""
    fs, root = _place()
    path = f"{root}/{name}"
    fs.makedirs(path.rsplit("/", 1)[0], exist_ok=True)
    passing = f"{path}.{uuid.uuid4().hex}"
    fs.pipe_file(passing, data)
    fs.mv(passing, path)
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
