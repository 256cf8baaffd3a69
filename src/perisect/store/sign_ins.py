"""Who is signed in, and who tries to be."""

import hashlib
import secrets
from datetime import UTC, datetime, timedelta

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from perisect.store.locks import hold
from perisect.store.models import ShopSetting, SignIn, SignInTry

LASTS = timedelta(days=14)
TRIES, WITHIN = 8, timedelta(minutes=10)
ALL_TRIES = 60
"""Wrong passphrases of one address, and of everybody, within that time before nobody may try."""


class TooManyTries(Exception):
    """Too many wrong passphrases lately."""


def get_setting(session: Session, key: str) -> str | None:
    """Something the shop has set once."""
    row = session.get(ShopSetting, key)
    return None if row is None else row.value


def set_setting(session: Session, key: str, value: str) -> None:
    """Set it."""
    hold(session, "shop_setting")
    row = session.get(ShopSetting, key)
    if row is None:
        row = ShopSetting(key=key)
        session.add(row)
    row.value = value


def check_tries(session: Session, address: str) -> None:
    """Whether an address may try a passphrase; tries of one address come one after the other.

    Raises:
        TooManyTries: it may not for now.
    """
    hold(session, "sign_in")
    since = datetime.now(UTC) - WITHIN
    mine = session.scalar(select(func.count()).where(SignInTry.address == address, SignInTry.at > since))
    everybody = session.scalar(select(func.count()).where(SignInTry.at > since))
    if (mine or 0) >= TRIES or (everybody or 0) >= ALL_TRIES:
        raise TooManyTries


def add_try(session: Session, address: str) -> None:
    """A wrong passphrase, or one that is not checked yet."""
    session.add(SignInTry(address=address[:64]))
    session.flush()


def forget_tries(session: Session, address: str) -> None:
    """It was right in the end."""
    session.execute(delete(SignInTry).where(SignInTry.address == address))


def begin(session: Session) -> str:
    """Sign somebody in; returns the token that their browser shows."""
    token = secrets.token_urlsafe(32)
    session.add(SignIn(token_hash=_hash(token), expires_at=datetime.now(UTC) + LASTS))
    return token


def is_signed_in(session: Session, token: str) -> bool:
    """Whether a token is that of somebody signed in."""
    row = session.get(SignIn, _hash(token))
    return row is not None and row.expires_at > datetime.now(UTC)


def end(session: Session, token: str) -> None:
    """Sign somebody out."""
    session.execute(delete(SignIn).where(SignIn.token_hash == _hash(token)))


def end_all(session: Session) -> None:
    """Sign everybody out."""
    session.execute(delete(SignIn))


def sweep(session: Session) -> None:
    """Forget sign-ins and tries that are over."""
    session.execute(delete(SignIn).where(SignIn.expires_at < datetime.now(UTC)))
    session.execute(delete(SignInTry).where(SignInTry.at < datetime.now(UTC) - WITHIN))


def _hash(token: str) -> bytes:
    return hashlib.sha256(token.encode()).digest()
