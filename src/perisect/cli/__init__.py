"""The command line: `perisect`."""

from perisect.cli import files, keeping, running
from perisect.cli.command import app

__all__ = ["app", "files", "keeping", "running"]
