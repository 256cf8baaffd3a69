"""The shop's own fonts."""

from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from perisect.core.fonts.own import OwnFont
from perisect.store import blobs
from perisect.store.trade_models import FontRow

MOST = 200


class UnknownFont(KeyError):
    """The shop has none of this hash."""


class TooManyFonts(Exception):
    """The shop has as many as it may."""


@dataclass(frozen=True)
class FontTold:
    """A font by its hash, its name, what its maker lets others do, and how many letters it has."""

    key: str
    name: str
    rights: str
    letters: int


def _name(sha256: str) -> str:
    return f"fonts/{sha256}"


def save(session: Session, sha256: str, font: OwnFont) -> None:
    """Keep a font; the same bytes again change nothing.

    Raises:
        TooManyFonts, DiskFull.
    """
    if (session.scalar(select(func.count()).select_from(FontRow)) or 0) >= MOST:
        raise TooManyFonts
    blobs.put(_name(sha256), font.file)
    row = {"sha256": sha256, "name": font.name, "rights": font.rights, "letters": font.letters}
    session.execute(insert(FontRow).values(row).on_conflict_do_nothing())


def all_of(session: Session) -> list[FontTold]:
    """By name."""
    rows = session.scalars(select(FontRow).order_by(func.lower(FontRow.name), FontRow.sha256))
    return [FontTold(row.sha256, row.name, row.rights, row.letters) for row in rows]


def file_of(sha256: str) -> bytes:
    """The file of a font.

    Raises:
        UnknownFont.
    """
    data = blobs.get(_name(sha256))
    if data is None:
        raise UnknownFont(sha256)
    return data


def remove(session: Session, sha256: str) -> None:
    """Take a font away; pieces keep the letters they were drawn with.

    Raises:
        UnknownFont.
    """
    row = session.get(FontRow, sha256)
    if row is None:
        raise UnknownFont(sha256)
    session.delete(row)
    session.flush()
    blobs.remove(_name(sha256))
