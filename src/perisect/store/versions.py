"""Optimistic locking: a record's version is a hash of its contents, and a write names the version it was made from."""

import hashlib
import json
from typing import Any

NONE = "none"
"""Version of a record that is not there."""


class StaleRecord(Exception):
    """Somebody changed a record meanwhile; `current` is what it says now, None where it is gone."""

    def __init__(self, current: Any) -> None:
        super().__init__(version_of(current))
        self.version, self.current = version_of(current), current


def version_of(value: Any) -> str:
    """Return the version of what a record says, sixteen hexadecimal digits; `none` where there is none."""
    if value is None:
        return NONE
    told = json.dumps(value, sort_keys=True, ensure_ascii=False, separators=(",", ":"))
    return hashlib.sha256(told.encode()).hexdigest()[:16]


def check_version(expected: str | None, current: Any) -> None:
    """Let a write go on that was made from what a record says now.

    The caller holds a lock on the record, so that of several who check it at once one writes first.

    Args:
        expected: the version that the write was made from; None for a write that replaces whatever is there.
        current: what the record says now, as JSON; None where it is not there.

    Raises:
        StaleRecord: the record says something else.
    """
    if expected is not None and expected != version_of(current):
        raise StaleRecord(current)
