"""Lists by their hash: the file as it was sent, and the table that was read from it."""

import json

from perisect.core.sheet.labels import Table
from perisect.store import blobs


class UnknownTable(KeyError):
    """No list has this hash."""


def save(sha256: str, data: bytes, table: Table) -> None:
    """Save a list: its file, and what was read from it.

    Args:
        sha256: hash of `data`.

    Raises:
        DiskFull: there is no room.
    """
    blobs.put(_name(sha256), data)
    save_read(sha256, table)


def save_read(sha256: str, table: Table) -> None:
    """Save what was read from a list.

    Raises:
        DiskFull: there is no room.
    """
    read = {"columns": table.columns, "rows": table.rows, "notes": table.notes}
    blobs.put(_read_name(sha256), json.dumps(read, ensure_ascii=False).encode())


def original(sha256: str) -> bytes:
    """Return the file of a list as it was sent.

    Raises:
        UnknownTable: none has this hash.
    """
    data = blobs.get(_name(sha256))
    if data is None:
        raise UnknownTable(sha256)
    return data


def find(sha256: str) -> Table | None:
    """Return the table of a list, None where it was not read yet or there is none."""
    data = blobs.get(_read_name(sha256))
    if data is None:
        return None
    read = json.loads(data)
    return Table(tuple(read["columns"]), tuple(map(tuple, read["rows"])), tuple(read["notes"]))


def _name(sha256: str) -> str:
    return f"tables/{sha256[:2]}/{sha256}"


def _read_name(sha256: str) -> str:
    return f"{_name(sha256)}.read"
