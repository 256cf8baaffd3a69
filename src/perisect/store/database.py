"""Connections and sessions."""

from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache

from sqlalchemy import Engine, create_engine
from sqlalchemy.orm import Session

from perisect.store.settings import settings


@lru_cache
def engine() -> Engine:
    """The process's engine, made at first use; a dead connection is noticed and replaced."""
    return create_engine(
        settings().sqlalchemy_url,
        pool_pre_ping=True,
        pool_size=10,
        max_overflow=20,
        pool_timeout=10,
        connect_args={"connect_timeout": 5},
        hide_parameters=True,
    )


@contextmanager
def transaction() -> Iterator[Session]:
    """A session that commits at the end and rolls back on an exception."""
    with Session(engine(), expire_on_commit=False) as session, session.begin():
        yield session
