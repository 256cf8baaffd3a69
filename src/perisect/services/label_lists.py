"""Lists that drive labels: read in the sandbox once, kept as what was read."""

import hashlib
from functools import lru_cache

from perisect import sandbox
from perisect.core.sheet.labels import Table, TableError, read_table
from perisect.store import blobs, tables


def take_in(data: bytes) -> tuple[str, Table]:
    """Read and save a list that was sent.

    Returns:
        Its hash and its table.

    Raises:
        TableError: it cannot be used as a list.
        DiskFull: there is no room.
    """
    blobs.need_room()
    table = _read_apart(data)
    sha256 = hashlib.sha256(data).hexdigest()
    tables.save(sha256, data, table)
    return sha256, table


@lru_cache(maxsize=64)
def get(sha256: str) -> Table:
    """Return the table of a saved list; the same object for as long as it is remembered.

    Raises:
        UnknownTable: none has this hash.
    """
    table = tables.find(sha256)
    if table is None:
        # A shop of an earlier version kept the file alone.
        table = _read_apart(tables.original(sha256))
        tables.save_read(sha256, table)
    return table


def _read_apart(data: bytes) -> Table:
    found = sandbox.call(_read, data, kind=sandbox.work.LIST)
    if isinstance(found, str):
        raise TableError(found)
    return found


def _read(data: bytes) -> Table | str:
    """Return the table, or why there is none: what the sandbox raises is told of pictures. Runs in the sandbox."""
    try:
        return read_table(data)
    except TableError as error:
        return str(error)
