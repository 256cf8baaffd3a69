"""Locks that a transaction holds to its end, for writes that no row can guard."""

from zlib import crc32

from sqlalchemy import func, select
from sqlalchemy.orm import Session


def hold(session: Session, name: str) -> None:
    """Wait until nobody else holds this name, and hold it until the transaction ends."""
    session.execute(select(func.pg_advisory_xact_lock(7310, crc32(name.encode()) - 2**31)))
