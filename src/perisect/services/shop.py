"""What the shop has set once."""

import json
from collections.abc import Callable, Iterable
from dataclasses import asdict
from typing import Any, TypeVar, get_args

from sqlalchemy.orm import Session

from perisect.core.job.new_piece import ComesOff
from perisect.core.ledger.hours import ShopHours
from perisect.core.prepress.plates import AREAS, AreaPlate, Plate, PlateError, checked
from perisect.core.process import TABLE
from perisect.store import sign_ins
from perisect.store.locks import hold
from perisect.store.versions import version_of

NAME = "name"
NAMELESS = "Your shop"
HABIT = "comes_off"
CURRENCY = "currency"
HOURS = "hours"


def versions(session: Session) -> dict[str, str]:
    """Return the versions of all settings, by their keys."""
    keys = (NAME, HABIT, CURRENCY, HOURS, *map(_plate_key, (*TABLE, *AREAS)))
    return {key: version_of(sign_ins.get_setting(session, key)) for key in keys}


def get_name(session: Session) -> str:
    """The shop's name."""
    return sign_ins.get_setting(session, NAME) or NAMELESS


def set_name(session: Session, name: str, expected: str | None = None) -> None:
    """Give it another."""
    sign_ins.set_setting(session, NAME, name, expected)


def get_habit(session: Session) -> ComesOff | None:
    """How the shop's pieces come off; None until somebody has said."""
    said = sign_ins.get_setting(session, HABIT)
    return next((each for each in get_args(ComesOff) if each == said), None)


def set_habit(session: Session, comes_off: ComesOff, expected: str | None = None) -> None:
    """Say how pieces of new jobs come off."""
    sign_ins.set_setting(session, HABIT, comes_off, expected)


def get_currency(session: Session) -> str:
    """What stands before sums of money; empty until somebody has said."""
    return sign_ins.get_setting(session, CURRENCY) or ""


def set_currency(session: Session, currency: str, expected: str | None = None) -> None:
    """Name the shop's money."""
    sign_ins.set_setting(session, CURRENCY, currency, expected)


def get_hours(session: Session) -> ShopHours:
    """When the shop is open, and how many work by hand."""
    kept = sign_ins.get_setting(session, HOURS)
    return ShopHours.model_validate_json(kept) if kept else ShopHours()


def set_hours(session: Session, hours: ShopHours, expected: str | None = None) -> None:
    """Say when the shop is open."""
    sign_ins.set_setting(session, HOURS, hours.model_dump_json(), expected)


def _plate_key(process: str) -> str:
    return f"plate.{process}"


P = TypeVar("P", Plate, AreaPlate)


def get_plates(session: Session) -> dict[str, Plate]:
    """Plates of the shop's RIP by process, for those that have one."""
    return _kept_plates(
        session, TABLE, lambda told: Plate(told["name"], tuple(told["cmyk"]), told["width_mm"])
    )


def get_area_plates(session: Session) -> dict[str, AreaPlate]:
    """Plates of white and varnish by kind, for those that have one."""
    return _kept_plates(
        session, AREAS, lambda told: AreaPlate(told["name"], tuple(told["cmyk"]), told["spread_mm"])
    )


def _kept_plates(session: Session, of: Iterable[str], made: Callable[[dict[str, Any]], P]) -> dict[str, P]:
    """What was kept; a plate that is not taken any more, of a name say, is none, and stops nothing."""
    found = {}
    for what in of:
        told = sign_ins.get_setting(session, _plate_key(what))
        try:
            if told:
                found[what] = made(json.loads(told))
        except PlateError:
            continue
    return found


def set_plate(
    session: Session, what: str, plate: Plate | AreaPlate | None, expected: str | None = None
) -> None:
    """Name the plate of a process or a kind of area; None for none.

    Raises:
        PlateError: another one has a plate of this name.
    """
    # Two who name two plates alike at once are told apart one after the other.
    hold(session, "plates")
    if plate is None:
        sign_ins.set_setting(session, _plate_key(what), "", expected)
        return
    checked({**get_plates(session), **get_area_plates(session), what: plate})
    told = json.dumps(asdict(plate), ensure_ascii=False)
    sign_ins.set_setting(session, _plate_key(what), told, expected)
