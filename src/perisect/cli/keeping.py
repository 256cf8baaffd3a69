"""Commands that keep a shop: backup, restore, tidying up."""

import json
from pathlib import Path
from typing import Annotated

import typer

from perisect.cli.command import app, fail, for_owner_only

RESTORE_BYTES = 4_000_000_000
"""Memory of a restore: the largest blob twice, and a list of half a million files."""


@app.command()
def backup(file: Annotated[Path, typer.Argument(help="The file to write.")]) -> None:
    """Write the whole shop into one file, while others work."""
    from perisect.services.backup import BackupUnderWay, write_backup

    for_owner_only()
    try:
        made = write_backup(file)
    except BackupUnderWay as error:
        raise fail("Another backup of this shop is being made. Wait for it.") from error
    except OSError as error:
        raise fail(f"{file} cannot be written: {error.strerror}.") from error
    typer.echo(f"{made.rows} rows and {made.blobs} files, {made.bytes / 1e6:.1f} MB, are in {file}.")


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(help="A file that `backup` wrote.")],
    as_json: Annotated[bool, typer.Option("--json", help="Tell the outcome as JSON.")] = False,
) -> None:
    """Put a backup into an empty shop."""
    import resource

    from perisect.services.restore import BackupError
    from perisect.services.restore import restore as run
    from perisect.store.blobs import DiskFull

    for_owner_only()
    # A stranger's file is read here.
    resource.setrlimit(resource.RLIMIT_AS, (RESTORE_BYTES, RESTORE_BYTES))
    refused: str | None = None
    try:
        with file.open("rb") as data:
            made = run(data)
    except BackupError as error:
        refused = str(error)
    except DiskFull:
        refused = "The disk is full. Make room on it, then put the backup back."
    except MemoryError:
        refused = "This backup needs more memory than a shop's would."
    except OSError as error:
        refused = f"{file} cannot be read: {error.strerror}."
    if as_json:
        told = (
            {"refused": refused} if refused else {"rows": made.rows, "files": made.blobs, "bytes": made.bytes}
        )
        typer.echo(json.dumps(told))
        return
    if refused:
        raise fail(refused, 2)
    typer.echo(f"{made.rows} rows and {made.blobs} files are back.")


@app.command()
def tidy(
    dry_run: Annotated[bool, typer.Option(help="Tell what would go, and remove nothing.")] = False,
) -> None:
    """Remove files that nothing in the shop refers to any more."""
    from perisect.services.retention import left_over, remove

    found = left_over()
    for each in found:
        typer.echo(f"{each.bytes:>12}  {each.why}: {each.name}")
    freed = sum(each.bytes for each in found) if dry_run else remove(found)
    typer.echo(f"{len(found)} files, {freed / 1e6:.1f} MB, {'would go' if dry_run else 'are gone'}.")
