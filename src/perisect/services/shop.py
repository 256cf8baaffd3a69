"""What the shop has set once."""

from sqlalchemy.orm import Session

from perisect.store import sign_ins

NAME = "name"
NAMELESS = "Your shop"


def get_name(session: Session) -> str:
    """The shop's name."""
    return sign_ins.get_setting(session, NAME) or NAMELESS


def set_name(session: Session, name: str) -> None:
    """Give it another."""
    sign_ins.set_setting(session, NAME, name)
