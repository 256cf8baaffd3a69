"""Tone and profile of each printer, stock and quality."""

import hashlib
from dataclasses import dataclass

from sqlalchemy.orm import Session

from perisect.core.artwork import ToneRecipe
from perisect.core.sheet.recipe import SheetRecipe
from perisect.store import blobs
from perisect.store.locks import hold
from perisect.store.upkeep_models import Tone


@dataclass(frozen=True)
class ToneKey:
    """What a tone belongs to: ids of the shop's printer and stock, and a quality."""

    printer: str
    stock: str
    quality: str = "standard"

    @staticmethod
    def of(sheet: SheetRecipe) -> "ToneKey":
        """That of a job's sheet."""
        return ToneKey(sheet.printed_by.id, sheet.on.id, sheet.quality)


@dataclass(frozen=True)
class SavedTone:
    """A tone, and the name of its profile when one is loaded."""

    tone: ToneRecipe
    profile_name: str | None = None
    profile_blob: str | None = None

    def profile(self) -> bytes | None:
        """Bytes of the ICC profile."""
        return blobs.get(self.profile_blob) if self.profile_blob else None


def get(session: Session, key: ToneKey) -> SavedTone:
    """What is known; colours as they are when nobody has said anything."""
    row = session.get(Tone, (key.printer, key.stock, key.quality))
    if row is None:
        return SavedTone(ToneRecipe())
    return SavedTone(ToneRecipe.model_validate(row.tone), row.profile_name, row.profile)


def save(session: Session, key: ToneKey, tone: ToneRecipe) -> None:
    """Set a tone."""
    _row(session, key).tone = tone.model_dump(mode="json")


def save_profile(session: Session, key: ToneKey, data: bytes | None, name: str | None) -> None:
    """Set a profile, or take it away."""
    row = _row(session, key)
    row.profile_name = name
    row.profile = blobs.put(f"profiles/{hashlib.sha256(data).hexdigest()}.icc", data) if data else None


def _row(session: Session, key: ToneKey) -> Tone:
    hold(session, "tone")
    row = session.get(Tone, (key.printer, key.stock, key.quality))
    if row is None:
        row = Tone(printer=key.printer, stock=key.stock, quality=key.quality, tone={})
        session.add(row)
    return row
