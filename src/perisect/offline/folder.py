"""A folder to write files into that may hold other people's."""

import json
import os
import re
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from perisect.offline.whole import write_whole

REPORT = "report.json"
_OURS = re.compile(r"sheet-\d{2,}\.(print\.pdf|cut\.[a-z]+)")


class FolderError(Exception):
    """Nothing is written; the text says why."""


class Folder:
    """Files of one run in a folder: what others put there stays, what the last run wrote is replaced or goes."""

    def __init__(self, path: Path, names: Iterable[str], force: bool) -> None:
        """Claim the names that are going to be written.

        Args:
            force: replace files of these names whoever wrote them.

        Raises:
            FolderError: it is no folder, cannot be written, or holds such files that no run of ours wrote.
        """
        self.path = path
        self._before = _written_before(path)
        names = {*names, REPORT}
        try:
            foreign = sorted(name for name in names - self._before if os.path.lexists(path / name))
            if foreign and not force:
                raise FolderError(
                    f"{path} holds {foreign[0]}{_and_more(len(foreign) - 1)} that was not written here: take another "
                    "folder, or --force to replace it."
                )
            path.mkdir(parents=True, exist_ok=True)
            # Told before anything is written, so that a run that breaks off leaves nothing that the next takes for
            # somebody else's.
            self.write(REPORT, json.dumps({"files": sorted((self._before | names) - {REPORT})}))
        except OSError as error:
            raise FolderError(f"{path} cannot be written: {error.strerror}.") from error
        self._names = names

    def write(self, name: str, data: str | bytes) -> None:
        """Write a file whole or not at all.

        Raises:
            OSError: it cannot be written.
        """
        write_whole(self.path / name, data.encode() if isinstance(data, str) else data)

    def finish(self, report: dict[str, Any]) -> None:
        """Write the report with the names of all files, and remove what only the last run wrote."""
        files = sorted(self._names - {REPORT})
        self.write(REPORT, json.dumps({"files": files, **report}, indent=1) + "\n")
        for name in self._before - self._names:
            (self.path / name).unlink(missing_ok=True)


def _and_more(count: int) -> str:
    return f" and {count} more" if count else ""


def _written_before(path: Path) -> set[str]:
    """Names that the last report lists as its own, and the report itself; none where there is no such report."""
    try:
        report = json.loads((path / REPORT).read_text(encoding="utf-8"))
        listed = report["files"]
    except (OSError, ValueError, KeyError, TypeError, RecursionError):
        return set()
    if not isinstance(listed, list):
        return set()
    return {name for name in listed if isinstance(name, str) and _OURS.fullmatch(name)} | {REPORT}
