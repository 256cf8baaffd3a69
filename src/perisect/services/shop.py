"""What the shop has set once."""

from typing import get_args

from sqlalchemy.orm import Session

from perisect.core.job.new_piece import ComesOff
from perisect.store import sign_ins

NAME = "name"
NAMELESS = "Your shop"
HABIT = "comes_off"
CURRENCY = "currency"


def get_name(session: Session) -> str:
    """The shop's name."""
    return sign_ins.get_setting(session, NAME) or NAMELESS


def set_name(session: Session, name: str) -> None:
    """Give it another."""
    sign_ins.set_setting(session, NAME, name)


def get_habit(session: Session) -> ComesOff | None:
    """How the shop's pieces come off; None until somebody has said."""
    said = sign_ins.get_setting(session, HABIT)
    return next((each for each in get_args(ComesOff) if each == said), None)


def set_habit(session: Session, comes_off: ComesOff) -> None:
    """Say how pieces of new jobs come off."""
    sign_ins.set_setting(session, HABIT, comes_off)


def get_currency(session: Session) -> str:
    """What stands before sums of money; empty until somebody has said."""
    return sign_ins.get_setting(session, CURRENCY) or ""


def set_currency(session: Session, currency: str) -> None:
    """Name the shop's money."""
    sign_ins.set_setting(session, CURRENCY, currency)
