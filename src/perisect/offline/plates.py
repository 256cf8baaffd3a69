"""Plates as they are given on the command line, and what a file holds of them."""

from collections.abc import Mapping
from pathlib import Path

from perisect import sandbox
from perisect.core.artwork import ArtworkError
from perisect.core.prepress.plates import AREAS, AreaPlate, Plate, PlateError, checked
from perisect.core.prepress.plates_check import Found, PlatesUnreadable, plates_in
from perisect.core.process import TABLE

MOST_BYTES = 100_000_000
COLOURS = ((0.0, 1.0, 0.0, 0.0), (1.0, 0.0, 0.0, 0.0), (0.0, 0.0, 1.0, 0.0), (0.0, 0.5, 1.0, 0.0))
"""What stands in for one plate after the other, so that they are told apart where no plates are shown."""


class CheckError(Exception):
    """A file cannot be read for its plates; the text says why."""


def given_plates(text: str, spreads_mm: Mapping[str, float] = AREAS) -> dict[str, Plate | AreaPlate]:
    """Plates by process or kind of area from `kiss=NAME,through=NAME,white=NAME`.

    Args:
        spreads_mm: by how much each kind of area spreads.

    Raises:
        PlateError: an unknown process, one without a name, a name that cannot be, or one given twice.
    """
    found: dict[str, Plate | AreaPlate] = {}
    for part in filter(None, (each.strip() for each in text.split(","))):
        what, equals, name = (each.strip() for each in part.partition("="))
        if what not in (*TABLE, *AREAS) or not equals:
            known = ", ".join([*TABLE, *AREAS])
            raise PlateError(f"--plates takes WHAT=NAME, with one of {known}; not “{part}”.")
        if what in found:
            raise PlateError(f"--plates names a plate for {what} twice.")
        if what in AREAS:
            found[what] = AreaPlate(name, spread_mm=spreads_mm[what])
        else:
            found[what] = Plate(name, COLOURS[len(found) % len(COLOURS)])
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
        return sandbox.call(_found, data, kind=sandbox.work.FILE)
    except ArtworkError as error:
        raise CheckError(f"{path}: {error.title} {error.detail}") from error


def _found(data: bytes) -> list[Found]:
    try:
        return plates_in(data)
    except PlatesUnreadable as error:
        raise ArtworkError("This file could not be read.", str(error)) from error
