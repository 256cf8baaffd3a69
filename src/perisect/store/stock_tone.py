"""Tone and profile of each stock."""

import hashlib
from dataclasses import dataclass

from sqlalchemy.orm import Session

from perisect.core.artwork import ToneRecipe
from perisect.store import blobs
from perisect.store.models import StockTone


@dataclass(frozen=True)
class KeptTone:
    """A stock's tone, and the name of its profile when one is loaded."""

    tone: ToneRecipe
    profile_name: str | None = None
    profile_blob: str | None = None

    def profile(self) -> bytes | None:
        """Bytes of the ICC profile."""
        return blobs.get(self.profile_blob) if self.profile_blob else None


def of_stock(session: Session, stock: str) -> KeptTone:
    """What is kept of a stock; colours as they are when nobody has said anything."""
    row = session.get(StockTone, stock)
    if row is None:
        return KeptTone(ToneRecipe())
    return KeptTone(ToneRecipe.model_validate(row.tone), row.profile_name, row.profile)


def keep(session: Session, stock: str, tone: ToneRecipe) -> None:
    """Set a stock's tone."""
    _row(session, stock).tone = tone.model_dump(mode="json")


def keep_profile(session: Session, stock: str, data: bytes | None, name: str | None) -> None:
    """Set a stock's profile, or take it away."""
    row = _row(session, stock)
    row.profile_name = name
    row.profile = blobs.put(f"profiles/{hashlib.sha256(data).hexdigest()}.icc", data) if data else None


def _row(session: Session, stock: str) -> StockTone:
    row = session.get(StockTone, stock)
    if row is None:
        row = StockTone(stock=stock, tone={})
        session.add(row)
    return row
