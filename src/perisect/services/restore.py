"""Put a backup into an empty shop: all of it, or nothing."""

import hashlib
import json
import zipfile
from collections.abc import Iterator
from typing import IO

import psycopg
import structlog

from perisect.services.backup import FORMAT, MANIFEST, NAME, Backup
from perisect.store import blobs, dump
from perisect.store.made_keys import rekey_prints

BLOCK = 1 << 20
MAX_ENTRIES = 500_000
"""Most files of a backup. Chosen: a job has some thirty, and the largest shop that was measured has 5,000 jobs."""
MAX_COMPONENT = 180
"""Longest part of a blob's name between slashes; file systems take 255 bytes, and what is written aside has 41 more."""
MOST_MANIFEST = 256 << 20
MOST_TABLE, MOST_BLOB = 4 << 30, 512 << 20

log = structlog.get_logger()


class BackupError(ValueError):
    """A file that cannot be put back; the text says why. Nothing was changed."""


def restore(file: IO[bytes]) -> Backup:
    """Put a backup into an empty shop. All of it is read and compared with its hashes before anything is written.

    Raises:
        BackupError: it is no backup, damaged, of another version, or the shop is not empty.
        DiskFull: there is no room.
    """
    try:
        with zipfile.ZipFile(file) as archive:
            entries, older = _checked(archive)
            return _put_back(archive, entries, older)
    except (zipfile.BadZipFile, EOFError, NotImplementedError, OverflowError, zipfile.LargeZipFile) as error:
        raise BackupError("This zip file is incomplete. Use another copy of the backup.") from error


Entries = dict[str, tuple[str, int]]


def _checked(archive: zipfile.ZipFile) -> tuple[Entries, dump.Older]:
    """Read the list of what it holds, and how its tables differ from this shop's."""
    if len(archive.infolist()) > MAX_ENTRIES:
        raise BackupError("This zip holds more files than any shop has.")
    try:
        info = archive.getinfo(MANIFEST)
    except KeyError as error:
        raise BackupError("This zip is not a backup of a shop: it has no list of what it holds.") from error
    if info.file_size > MOST_MANIFEST:
        raise BackupError("The list of what this backup holds is too long to be one of ours.")
    try:
        told = json.loads(archive.read(info))
        entries = {
            str(name): (str(each["sha256"]), int(each["bytes"])) for name, each in told["entries"].items()
        }
        form, of = str(told["format"]), str(told["revision"])
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError, zipfile.BadZipFile) as error:
        raise BackupError("The list of what this backup holds is damaged.") from error
    if form != FORMAT:
        raise BackupError(f"This file says it is “{form[:40]}”, and this shop reads “{FORMAT}”.")
    with dump.connection() as connection:
        here = dump.revision(connection)
        older = dump.older(of, here)
        if older is None:
            raise BackupError(
                f"This backup is of tables of version {of[:20]}, and this shop has {here}. "
                "Put it back with the version that made it, then go on with this one."
            )
    _check_names(archive, entries)
    _check_folders(entries)
    need = sum(size for _, size in entries.values())
    free = blobs.free_bytes()
    if free is not None and need > free:
        raise BackupError(f"It needs {need // 1_000_000} MB, and {free // 1_000_000} MB are free.")
    for name, (digest, size) in entries.items():
        if _digest(archive, name, size) != digest:
            raise BackupError(f"“{name}” in this backup is damaged. Take another copy of it.")
    return entries, older


def _check_names(archive: zipfile.ZipFile, entries: Entries) -> None:
    there = archive.namelist()
    if len(there) != len(set(there)) or set(there) != {*entries, MANIFEST}:
        raise BackupError("The contents of this backup do not match its list.")
    for name, (_, size) in entries.items():
        folder, _, rest = name.partition("/")
        fits = folder == "blobs" and NAME.fullmatch(rest) and all(map(_is_component, rest.split("/")))
        table = folder == "tables" and rest.removesuffix(".csv") in dump.KEPT and rest.endswith(".csv")
        if (
            not (fits or table)
            or archive.getinfo(name).file_size != size
            or size > (MOST_TABLE if table else MOST_BLOB)
        ):
            raise BackupError(f"“{name[:80]}” is nothing that a backup of a shop holds.")
    lacking = [table for table in dump.KEPT if f"tables/{table}.csv" not in entries]
    if lacking:
        raise BackupError(f"This backup lacks {', '.join(lacking)}.")


def _is_component(part: str) -> bool:
    return part not in ("", ".", "..") and len(part) <= MAX_COMPONENT and blobs.PASSING not in part


def _check_folders(entries: Entries) -> None:
    """Refuse a file whose name is that of a folder."""
    for name in entries:
        folder = name
        while "/" in folder:
            folder = folder.rpartition("/")[0]
            if folder in entries:
                raise BackupError(f"“{folder[:80]}” in this backup is both a file and a folder.")


def _digest(archive: zipfile.ZipFile, name: str, size: int) -> str:
    """The hash of an entry, which is read no further than it says it is long."""
    digest = hashlib.sha256()
    try:
        for block in _blocks(archive, name, size):
            digest.update(block)
    except (zipfile.BadZipFile, EOFError, RuntimeError, OSError, ValueError) as error:
        raise BackupError(f"“{name[:80]}” in this backup cannot be read. Take another copy of it.") from error
    return digest.hexdigest()


def _blocks(archive: zipfile.ZipFile, name: str, size: int) -> Iterator[bytes]:
    left = size
    with archive.open(name) as source:
        while left > 0 and (block := source.read(min(BLOCK, left))):
            left -= len(block)
            yield block


def _put_back(archive: zipfile.ZipFile, entries: Entries, older: dump.Older) -> Backup:
    many = size = rows = 0
    with dump.connection() as connection:
        # Nobody begins anything while the shop is filled.
        for table in dump.KEPT:
            connection.execute(f'LOCK TABLE "{table}" IN EXCLUSIVE MODE')
        if not dump.is_empty(connection):
            raise BackupError(
                "This shop already has jobs or records of its own. Restore the backup into a new, empty one."
            )
        written: list[str] = []
        try:
            for name, (_, length) in entries.items():
                if name.startswith("blobs/"):
                    blob = name.removeprefix("blobs/")
                    if not blobs.exists(blob):
                        written.append(blob)
                    blobs.put(blob, b"".join(_blocks(archive, name, length)))
                    many, size = many + 1, size + length
            rows = _fill_tables(connection, archive, entries, older)
            _check_blobs(connection)
            connection.commit()
        except BaseException:
            for blob in written:
                blobs.remove(blob)
            raise
    return Backup(rows, many, size)


def _fill_tables(
    connection: psycopg.Connection, archive: zipfile.ZipFile, entries: Entries, older: dump.Older
) -> int:
    """Replace the rows of every table; return how many there are."""
    rows = 0
    try:
        for table in reversed(dump.KEPT):
            connection.execute(
                f'DELETE FROM "{table}"' + (" WHERE key <> 'passphrase'" if table == "shop_setting" else "")
            )
        for table in dump.KEPT:
            size_of_it = entries[f"tables/{table}.csv"][1]
            rows += _fill(connection, archive, table, size_of_it, older)
        dump.settle(connection)
        if not older.is_keyed:
            rekey_prints(connection)
    except psycopg.Error as error:
        log.warning("backup does not fit", reason=str(error)[:300])
        raise BackupError("The rows of this backup do not fit this shop's tables.") from error
    return rows


def _check_blobs(connection: psycopg.Connection) -> None:
    """Refuse rows whose files are not there."""
    missing = [name for name in dump.blobs_needed(connection) if not blobs.exists(name)]
    if missing:
        raise BackupError(
            f"{len(missing)} files that this backup's rows need are not in it, “{missing[0][:120]}” for one."
        )


def _fill(
    connection: psycopg.Connection, archive: zipfile.ZipFile, table: str, size: int, older: dump.Older
) -> int:
    name = f"tables/{table}.csv"
    with archive.open(name) as source:
        head = source.readline(100_000)
    renamed = older.renamed.get(table, {})
    named = [column.strip().strip('"') for column in head.decode("utf-8", "replace").split(",")]
    columns = [renamed.get(column, column) for column in named]
    with dump.with_columns(connection, table, older.dropped.get(table, set())):
        if sorted({*columns, *older.lacking.get(table, set())}) != sorted(dump.columns_of(connection, table)):
            raise BackupError(f"The columns of “{table}” in this backup are not those of this shop.")
        dump.read_csv(connection, table, _blocks(archive, name, size), columns)
    return dump.count_of(connection, table)
