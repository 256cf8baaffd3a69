"""Processes that tests look at from outside."""

from pathlib import Path


def is_running(process: int) -> bool:
    """Tell whether a process runs; one that has ended but that nobody has waited for yet does not."""
    try:
        return Path(f"/proc/{process}/stat").read_text("ascii").rsplit(")", 1)[1].split()[0] != "Z"
    except (FileNotFoundError, ProcessLookupError):
        return False
