"""Who is signed in, and who tries to be."""

import hashlib
import ipaddress
import secrets
from datetime import UTC, datetime, timedelta
from math import ceil

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from perisect.store.events import SIGN_INS, notify
from perisect.store.locks import hold
from perisect.store.models import ShopSetting, SignIn, SignInAddress, SignInTry
from perisect.store.versions import check_version

LASTS = timedelta(days=14)
KNOWN = timedelta(days=90)
"""How long an address that signed in is remembered."""
WITHIN = timedelta(hours=1)
"""How long a wrong passphrase is remembered."""
FREE_TRIES, FREE_OF_NETWORK = 8, 40
"""Wrong passphrases of an address, and of its network, before the next one has to wait."""
MAX_WAIT_S = 600.0
CALM_TRIES, BRAKE_S, MAX_BRAKE_S = 60, 0.02, 3.0
"""Wrong passphrases of everybody before all tries are slowed, by how much each further one slows them, and by how much
they are slowed at most."""


class TooManyTries(Exception):
    """An address tried too many wrong passphrases lately; `seconds` is when it may try again."""

    def __init__(self, seconds: float) -> None:
        super().__init__(seconds)
        self.seconds = ceil(seconds)


def get_setting(session: Session, key: str) -> str | None:
    """Something the shop has set once."""
    row = session.get(ShopSetting, key)
    return None if row is None else row.value


def set_setting(session: Session, key: str, value: str, expected: str | None = None) -> None:
    """Set it.

    Args:
        session: the transaction that it is set in.
        key: its name.
        value: what it is from now on.
        expected: the version that the change was made from.

    Raises:
        StaleRecord: somebody set it meanwhile.
    """
    hold(session, "shop_setting")
    row = session.get(ShopSetting, key, populate_existing=True)
    check_version(expected, None if row is None else row.value)
    if row is None:
        row = ShopSetting(key=key)
        session.add(row)
    row.value = value


def check_tries(session: Session, address: str) -> float:
    """Let an address try a passphrase; tries come one after the other.

    An address that has signed in before never waits: nobody else's wrong tries lock it out.

    Returns:
        By how much this try is slowed, s.

    Raises:
        TooManyTries: it, or its network, has to wait.
    """
    hold(session, "sign_in")
    if session.get(SignInAddress, address[:64]) is not None:
        return 0.0
    now = datetime.now(UTC)
    recent = SignInTry.at > now - WITHIN
    for those, free in (
        (SignInTry.address == address[:64], FREE_TRIES),
        (SignInTry.network == network_of(address), FREE_OF_NETWORK),
    ):
        tries, last = session.execute(select(func.count(), func.max(SignInTry.at)).where(those, recent)).one()
        wait = wait_after(tries, free) - (0.0 if last is None else (now - last).total_seconds())
        if wait > 0:
            raise TooManyTries(wait)
    everybody = session.scalar(select(func.count()).where(recent)) or 0
    return min(MAX_BRAKE_S, max(0, everybody - CALM_TRIES) * BRAKE_S)


def wait_after(tries: int, free: int) -> float:
    """Return how long the next try has to wait after so many, s: two seconds after those that are free, twice as long
    after each further one."""
    return 0.0 if tries < free else min(MAX_WAIT_S, 2.0 ** min(20, 1 + tries - free))


def network_of(address: str) -> str:
    """Return the network that an address is counted with: 256 of IPv4, of IPv6 what one household is given."""
    try:
        number = ipaddress.ip_address(address)
    except ValueError:
        return address[:64]
    return str(ipaddress.ip_network((number, 24 if number.version == 4 else 56), strict=False))


def add_try(session: Session, address: str) -> None:
    """Count a wrong passphrase, or one that is not checked yet."""
    session.add(SignInTry(address=address[:64], network=network_of(address)))
    session.flush()


def forget_tries(session: Session, address: str) -> None:
    """Forget the tries of an address that was right in the end, and remember it as one that was."""
    session.execute(delete(SignInTry).where(SignInTry.address == address[:64]))
    session.execute(
        insert(SignInAddress).values(address=address[:64]).on_conflict_do_nothing(index_elements=["address"])
    )


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
    """Sign somebody out; what is open in their name hears of it."""
    session.execute(delete(SignIn).where(SignIn.token_hash == _hash(token)))
    notify(session, SIGN_INS)


def end_all(session: Session) -> None:
    """Sign everybody out; what is open in anybody's name hears of it. Addresses that signed in are forgotten too."""
    session.execute(delete(SignIn))
    session.execute(delete(SignInAddress))
    notify(session, SIGN_INS)


def sweep(session: Session) -> None:
    """Forget sign-ins and tries that are over."""
    session.execute(delete(SignIn).where(SignIn.expires_at < datetime.now(UTC)))
    session.execute(delete(SignInTry).where(SignInTry.at < datetime.now(UTC) - WITHIN))
    session.execute(delete(SignInAddress).where(SignInAddress.at < datetime.now(UTC) - KNOWN))


def _hash(token: str) -> bytes:
    return hashlib.sha256(token.encode()).digest()
