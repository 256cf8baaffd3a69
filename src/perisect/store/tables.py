"""Lists by their hash."""

import hashlib
from functools import lru_cache

from perisect.core.sheet.labels import Table, read_table
from perisect.store import blobs


class UnknownTable(KeyError):
    """No list has this hash."""


def save(data: bytes) -> tuple[str, Table]:
    """Keep a list; returns its hash and what was read.

    Raises:
        TableError: it cannot be used as a list.
    """
    table = read_table(data)
    sha256 = hashlib.sha256(data).hexdigest()
    blobs.put(_name(sha256), data)
    return sha256, table


@lru_cache(maxsize=64)
def get(sha256: str) -> Table:
    """A kept list; the same object for as long as it is remembered.

    Raises:
        UnknownTable: none under this hash.
    """
    data = blobs.get(_name(sha256))
    if data is None:
        raise UnknownTable(sha256)
    return read_table(data)


def _name(sha256: str) -> str:
    return f"tables/{sha256[:2]}/{sha256}"
