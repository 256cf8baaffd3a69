"""Plates as they are given on the command line, and what a file holds of them."""

from pathlib import Path

from perisect import sandbox
from perisect.core.artwork import ArtworkError
from perisect.core.prepress.plates import Plate, PlateError, checked
from perisect.core.prepress.plates_check import Found, PlatesUnreadable, plates_in
from perisect.core.process import TABLE

MOST_BYTES = 100_000_000
COLOURS = ((0.0, 1.0, 0.0, 0.0), (1.0, 0.0, 0.0, 0.0), (0.0, 0.0, 1.0, 0.0), (0.0, 0.5, 1.0, 0.0))
"""What stands in for one plate after the other, so that they are told apart where no plates are shown."""


class CheckError(Exception):
    """A file cannot be read for its plates; the text says why."""


def given_plates(text: str) -> dict[str, Plate]:
    """Plates by process from `kiss=NAME,through=NAME`.

    Raises:
        PlateError: an unknown process, one without a name, a name that cannot be, or one given twice.
    """
    found: dict[str, Plate] = {}
    for part in filter(None, (each.strip() for each in text.split(","))):
        process, equals, name = part.partition("=")
        if process.strip() not in TABLE or not equals:
            raise PlateError(
                f"--plates takes PROCESS=NAME, with a process of {', '.join(TABLE)}; not “{part}”."
            )
        if process.strip() in found:
            raise PlateError(f"--plates names a plate for {process.strip()} twice.")
        found[process.strip()] = Plate(name.strip(), COLOURS[len(found) % len(COLOURS)])
    return dict(checked(found))


def check_plates(path: Path) -> list[Found]:
    """The separations a file holds.

    Raises:
        CheckError: there is no such file, or it cannot be read.
    """
    try:
        if path.stat().st_size > MOST_BYTES:
            raise CheckError(f"{path} is larger than {MOST_BYTES // 1_000_000} MB.")
        data = path.read_bytes()
    except OSError as error:
        raise CheckError(f"{path} cannot be read: {error.strerror}.") from error
    try:
        # Strangers' bytes, in a process with limits.
        return sandbox.call(_found, data)
    except ArtworkError as error:
        raise CheckError(f"{path}: {error.title} {error.detail}") from error


def _found(data: bytes) -> list[Found]:
    try:
        return plates_in(data)
    except PlatesUnreadable as error:
        raise ArtworkError("This file could not be read.", str(error)) from error
