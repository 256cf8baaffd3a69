"""The whole shop in one file, and back: a zip of tables as CSV and of blobs, each known by its hash."""

import hashlib
import json
import re
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import IO, Any

import psycopg
import structlog

from perisect.store import blobs, dump

FORMAT = "perisect shop 1"
MANIFEST = "manifest.json"
NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9._/-]{0,250}")
BLOCK = 1 << 20
MOST_MANIFEST = 256 << 20
MOST_TABLE, MOST_BLOB = 4 << 30, 512 << 20

log = structlog.get_logger()


class BackupError(ValueError):
    """A file that cannot be put back; the text says why. Nothing was changed."""


@dataclass(frozen=True)
class Backup:
    """What a backup holds: rows by table, and blobs with their bytes."""

    rows: int
    blobs: int
    bytes: int


def write_backup(path: Path) -> Backup:
    """Write the shop into a file, as it is at one moment, while others work.

    Raises:
        OSError: it cannot be written. A file that is not whole is removed.
    """
    passing = path.with_name(f"{path.name}.part")
    try:
        with zipfile.ZipFile(passing, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as archive:
            made = _write(archive)
        passing.replace(path)
    finally:
        passing.unlink(missing_ok=True)
    return made


def _write(archive: zipfile.ZipFile) -> Backup:
    entries: dict[str, dict[str, Any]] = {}
    rows = 0
    with dump.connection() as connection:
        dump.begin_snapshot(connection)
        of = dump.revision(connection)
        for table in dump.KEPT:
            entry = f"tables/{table}.csv"
            entries[entry] = _put(archive, entry, dump.csv_of(connection, table))
            count = connection.execute(f'SELECT count(*) FROM "{table}"').fetchone()
            rows += 0 if count is None else int(count[0])
    # A row refers only to blobs that were there before it: those of the snapshot are all here by now.
    names = [name for name in blobs.every() if NAME.fullmatch(name)]
    many = size = 0
    for name in sorted(names):
        data = blobs.get(name)
        if data is None:
            continue  # Tidied away in between: nothing of the snapshot needs it.
        entry = f"blobs/{name}"
        entries[entry] = _put(archive, entry, iter((data,)), zipfile.ZIP_STORED)
        many, size = many + 1, size + len(data)
    told = {
        "format": FORMAT,
        "revision": of,
        "made_at": datetime.now(UTC).isoformat(timespec="seconds"),
        "entries": entries,
    }
    archive.writestr(MANIFEST, json.dumps(told, indent=0))
    return Backup(rows, many, size)


def _put(
    archive: zipfile.ZipFile, entry: str, blocks: Iterator[bytes], how: int = zipfile.ZIP_DEFLATED
) -> dict[str, Any]:
    digest, size = hashlib.sha256(), 0
    info = zipfile.ZipInfo(entry, (1980, 1, 1, 0, 0, 0))
    info.compress_type = how
    with archive.open(info, "w", force_zip64=True) as out:
        for block in blocks:
            digest.update(block)
            size += len(block)
            out.write(block)
    return {"sha256": digest.hexdigest(), "bytes": size}


def restore(file: IO[bytes]) -> Backup:
    """Put a backup into an empty shop. All of it is read and compared with its hashes before anything is written.

    Raises:
        BackupError: it is no backup, damaged, of another version, or the shop is not empty.
        DiskFull: there is no room.
    """
    try:
        with zipfile.ZipFile(file) as archive:
            entries, lacking = _checked(archive)
            return _put_back(archive, entries, lacking)
    except (zipfile.BadZipFile, EOFError, NotImplementedError, OverflowError, zipfile.LargeZipFile) as error:
        raise BackupError("This is no whole zip file. Take another copy of the backup.") from error


Entries = dict[str, tuple[str, int]]
Lacking = dict[str, set[str]]


def _checked(archive: zipfile.ZipFile) -> tuple[Entries, Lacking]:
    """What it holds, and the columns that its tables lack beside this shop's."""
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
        lacking = dump.lacking_since(of, here)
        if lacking is None:
            raise BackupError(
                f"This backup is of tables of version {of[:20]}, and this shop has {here}. "
                "Put it back with the version that made it, then go on with this one."
            )
    _check_names(archive, entries)
    need = sum(size for _, size in entries.values())
    free = blobs.free_bytes()
    if free is not None and need > free:
        raise BackupError(f"It needs {need // 1_000_000} MB, and {free // 1_000_000} MB are free.")
    for name, (digest, size) in entries.items():
        if _digest(archive, name, size) != digest:
            raise BackupError(f"“{name}” in this backup is damaged. Take another copy of it.")
    return entries, lacking


def _check_names(archive: zipfile.ZipFile, entries: Entries) -> None:
    there = archive.namelist()
    if len(there) != len(set(there)) or set(there) != {*entries, MANIFEST}:
        raise BackupError("What this backup holds is not what it says it holds.")
    for name, (_, size) in entries.items():
        folder, _, rest = name.partition("/")
        fits = folder == "blobs" and NAME.fullmatch(rest) and ".." not in rest.split("/") and "//" not in rest
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


def _put_back(archive: zipfile.ZipFile, entries: Entries, lacking: Lacking) -> Backup:
    many = size = rows = 0
    with dump.connection() as connection:
        # Nobody begins anything while the shop is filled.
        for table in dump.KEPT:
            connection.execute(f'LOCK TABLE "{table}" IN EXCLUSIVE MODE')
        if not dump.is_empty(connection):
            raise BackupError(
                "This shop has jobs or things of its own already. Put a backup back into a new, empty one."
            )
        for name, (_, length) in entries.items():
            if name.startswith("blobs/"):
                blobs.put(name.removeprefix("blobs/"), b"".join(_blocks(archive, name, length)))
                many, size = many + 1, size + length
        try:
            for table in reversed(dump.KEPT):
                connection.execute(
                    f'DELETE FROM "{table}"'
                    + (" WHERE key <> 'passphrase'" if table == "shop_setting" else "")
                )
            for table in dump.KEPT:
                size_of_it = entries[f"tables/{table}.csv"][1]
                rows += _fill(connection, archive, table, size_of_it, lacking.get(table, set()))
            dump.settle(connection)
        except psycopg.Error as error:
            log.warning("backup does not fit", reason=str(error)[:300])
            raise BackupError("The rows of this backup do not fit this shop's tables.") from error
    return Backup(rows, many, size)


def _fill(
    connection: psycopg.Connection, archive: zipfile.ZipFile, table: str, size: int, lacking: set[str]
) -> int:
    name = f"tables/{table}.csv"
    with archive.open(name) as source:
        head = source.readline(100_000)
    columns = [column.strip().strip('"') for column in head.decode("utf-8", "replace").split(",")]
    if sorted({*columns, *lacking}) != sorted(dump.columns_of(connection, table)):
        raise BackupError(f"The columns of “{table}” in this backup are not those of this shop.")
    dump.read_csv(connection, table, _blocks(archive, name, size), columns)
    count = connection.execute(f'SELECT count(*) FROM "{table}"').fetchone()
    return 0 if count is None else int(count[0])
