"""Commands that keep a shop: backup, restore, tidying up."""

from pathlib import Path
from typing import Annotated

import typer

from perisect.cli.command import app, fail


@app.command()
def backup(file: Annotated[Path, typer.Argument(help="The file to write.")]) -> None:
    """Write the whole shop into one file, while others work."""
    from perisect.services.backup import write_backup

    try:
        made = write_backup(file)
    except OSError as error:
        raise fail(f"{file} cannot be written: {error.strerror}.") from error
    typer.echo(f"{made.rows} rows and {made.blobs} files, {made.bytes / 1e6:.1f} MB, are in {file}.")


@app.command()
def restore(file: Annotated[Path, typer.Argument(help="A file that `backup` wrote.")]) -> None:
    """Put a backup into an empty shop."""
    from perisect.services.backup import BackupError
    from perisect.services.backup import restore as run

    try:
        with file.open("rb") as data:
            made = run(data)
    except BackupError as error:
        raise fail(str(error), 2) from error
    except OSError as error:
        raise fail(f"{file} cannot be read: {error.strerror}.", 2) from error
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
