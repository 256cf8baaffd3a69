"""The command line's own root, and how a command that cannot go on says so."""

import typer

app = typer.Typer(no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False)


def fail(message: str, code: int = 1) -> typer.Exit:
    """To be raised: one line on the error channel, and the code the command ends with."""
    typer.echo(f"perisect: {' '.join(message.split())}", err=True)
    return typer.Exit(code)


def for_owner_only() -> None:
    """Let all that this process writes be read by its owner alone, as every command of a shop does."""
    import os

    os.umask(0o077)


def log() -> None:
    """Begin to log, as every command that stays does, and write for the owner alone."""
    from perisect.logs import configure

    for_owner_only()
    configure()
