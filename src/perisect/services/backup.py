"""The whole shop in one file: a zip of tables as CSV and of blobs, each known by its hash. `restore` puts it back."""

import hashlib
import io
import json
import os
import re
import zipfile
from collections.abc import Generator, Iterator
from contextlib import closing, contextmanager, suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import IO, TYPE_CHECKING, Any
from uuid import uuid4

import psycopg

from perisect.store import blobs, dump

if TYPE_CHECKING:
    from _typeshed import ReadableBuffer as Buffer

FORMAT = "perisect shop 1"
MANIFEST = "manifest.json"
NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9._/-]{0,250}")
"""Names of blobs."""


@dataclass
class Backup:
    """What a backup holds: rows by table, and blobs with their bytes."""

    rows: int = 0
    blobs: int = 0
    bytes: int = 0


class BackupUnderWay(Exception):
    """Another backup of this shop is being made."""


def write_backup(path: Path) -> Backup:
    """Write the shop into a file, as it is at one moment, while others work.

    The file has its name when it is whole, and not before: a kill leaves nothing behind.

    Raises:
        BackupUnderWay: another one is being made.
        OSError: it cannot be written.
    """
    made = Backup()
    with _nameless_file(path) as file:
        for block in _blocks(made):
            file.write(block)
    return made


def stream_backup() -> Generator[bytes, None, None]:
    """Yield the shop as a zip, as it is at one moment, while others work; it is nowhere on the disk.

    Raises:
        BackupUnderWay: another one is being made.
    """
    yield from _blocks(Backup())


@contextmanager
def _nameless_file(path: Path) -> Iterator[IO[bytes]]:
    """A file that has its name once it is whole, and until then none at all (open(2), O_TMPFILE); on file systems
    that know no such files, as those of most sticks, another name."""
    folder = os.open(path.parent, os.O_DIRECTORY)
    passing = f"{path.name}.{uuid4().hex}"
    try:
        try:
            handle, named = os.open(".", os.O_TMPFILE | os.O_WRONLY, 0o600, dir_fd=folder), False
        except OSError:
            handle = os.open(passing, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600, dir_fd=folder)
            named = True
        with os.fdopen(handle, "wb") as file:
            yield file
            file.flush()
            if not named:
                os.link(f"/proc/self/fd/{handle}", passing, dst_dir_fd=folder)
        os.replace(passing, path.name, src_dir_fd=folder, dst_dir_fd=folder)
    finally:
        with suppress(FileNotFoundError):
            os.unlink(passing, dir_fd=folder)
        os.close(folder)


class _Sink(io.RawIOBase):
    """Buffer that a zip is written into and that is emptied after each block."""

    def __init__(self) -> None:
        self._parts: list[bytes] = []

    def writable(self) -> bool:
        return True

    def write(self, data: "Buffer", /) -> int:
        self._parts.append(bytes(data))
        return len(self._parts[-1])

    def take(self) -> bytes:
        """Return and forget what was written."""
        parts, self._parts = self._parts, []
        return b"".join(parts)


def _blocks(made: Backup) -> Iterator[bytes]:
    """Yield the zip block by block, and count in `made` what it holds."""
    sink = _Sink()
    with (
        dump.connection() as connection,
        zipfile.ZipFile(sink, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as archive,
    ):
        if not dump.hold_backup(connection):
            raise BackupUnderWay
        dump.begin_snapshot(connection)
        told: dict[str, Any] = {
            "format": FORMAT,
            "revision": dump.revision(connection),
            "made_at": datetime.now(UTC).isoformat(timespec="seconds"),
            "entries": {},
        }
        # Whoever stops in the middle ends what reads the tables first, and only then the connection they are read by.
        with closing(_entries(connection, made)) as entries:
            for entry, blocks, how in entries:
                told["entries"][entry] = known = {"sha256": "", "bytes": 0}
                with closing(_put(archive, entry, blocks, how, known)) as parts:
                    for _ in parts:
                        yield sink.take()
        archive.writestr(MANIFEST, json.dumps(told, indent=0))
    yield sink.take()


def _entries(
    connection: psycopg.Connection, made: Backup
) -> Generator[tuple[str, Iterator[bytes], int], None, None]:
    """Yield name, blocks and way of packing of every file in the zip but its list."""
    for table in dump.KEPT:
        with closing(dump.csv_of(connection, table)) as blocks:
            yield f"tables/{table}.csv", blocks, zipfile.ZIP_DEFLATED
        made.rows += dump.count_of(connection, table)
    # A row refers only to blobs that were there before it: those of the snapshot are all here by now.
    for name in sorted(name for name in blobs.every() if NAME.fullmatch(name)):
        data = blobs.get(name)
        # What was tidied away in between nothing of the snapshot needs.
        if data is not None:
            yield f"blobs/{name}", iter((data,)), zipfile.ZIP_STORED
            made.blobs, made.bytes = made.blobs + 1, made.bytes + len(data)


def _put(
    archive: zipfile.ZipFile, entry: str, blocks: Iterator[bytes], how: int, known: dict[str, Any]
) -> Generator[None, None, None]:
    """Write an entry, yielding after each block; then `known` holds its hash and its bytes."""
    digest = hashlib.sha256()
    info = zipfile.ZipInfo(entry, (1980, 1, 1, 0, 0, 0))
    info.compress_type = how
    with archive.open(info, "w", force_zip64=True) as out:
        for block in blocks:
            digest.update(block)
            known["bytes"] += len(block)
            out.write(block)
            yield
    known["sha256"] = digest.hexdigest()
    yield
