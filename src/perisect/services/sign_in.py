"""The shop's door: a passphrase, signing in and out. On loopback it stands open."""

import threading
import time

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from perisect.store import sign_ins
from perisect.store.database import transaction

PASSPHRASE = "passphrase"
LEAST_LETTERS = 10
REMEMBERED_S = 3.0

_hasher = PasswordHasher()
_seen: dict[str, float] = {}
_lock = threading.Lock()
_one_at_a_time = threading.Semaphore(2)
"""Checking a passphrase is slow and takes memory, on purpose."""


class TooShort(ValueError):
    """A passphrase that is guessed too soon."""


def set_passphrase(passphrase: str) -> None:
    """Set the shop's passphrase; everybody signs in anew.

    Raises:
        TooShort: fewer than ten letters.
    """
    if len(passphrase.strip()) < LEAST_LETTERS:
        raise TooShort
    hashed = _hasher.hash(passphrase)
    with transaction() as session:
        sign_ins.set_setting(session, PASSPHRASE, hashed)
        sign_ins.end_all(session)


def has_passphrase() -> bool:
    """Whether the shop has one."""
    with transaction() as session:
        return sign_ins.get_setting(session, PASSPHRASE) is not None


def announce(address: str) -> float:
    """Count a try before it is checked, so that a crowd of tries at once is counted too.

    Returns:
        How long to wait before it is checked, s: many wrong tries of others slow everybody down.

    Raises:
        TooManyTries: too many of this address or its network were wrong lately.
    """
    with transaction() as session:
        brake = sign_ins.check_tries(session, address)
        sign_ins.add_try(session, address)
    return brake


def sign_in(passphrase: str, address: str) -> str | None:
    """Check a passphrase whose try was announced; return the token of a new sign-in, None when it is wrong."""
    with transaction() as session:
        hashed = sign_ins.get_setting(session, PASSPHRASE)
    with _one_at_a_time:
        if hashed is None or not _is_right(hashed, passphrase):
            return None
    with transaction() as session:
        sign_ins.forget_tries(session, address)
        return sign_ins.begin(session)


def is_signed_in(token: str) -> bool:
    """Whether a token is that of somebody signed in; a yes is remembered for a moment."""
    now = time.monotonic()
    with _lock:
        if _seen.get(token, 0.0) > now:
            return True
    with transaction() as session:
        found = sign_ins.is_signed_in(session, token)
    if found:
        with _lock:
            if len(_seen) > 1000:
                _seen.clear()
            _seen[token] = now + REMEMBERED_S
    return found


def forget_seen() -> None:
    """Ask the database again for whoever comes next: somebody's sign-in has ended."""
    with _lock:
        _seen.clear()


def sign_out(token: str) -> None:
    """Forget a sign-in."""
    with _lock:
        _seen.pop(token, None)
    with transaction() as session:
        sign_ins.end(session, token)


def _is_right(hashed: str, passphrase: str) -> bool:
    try:
        return _hasher.verify(hashed, passphrase)
    except (VerificationError, InvalidHashError):
        return False
