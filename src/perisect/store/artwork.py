"""Artwork by its hash: original bytes, facts, and what was derived from them by this engine."""

import json
from functools import lru_cache

import shapely
from sqlalchemy.dialects.postgresql import insert

from perisect.core import ENGINE_VERSION
from perisect.core.artwork import Background, PictureFacts
from perisect.core.job import DesignRecipe, TracedArtwork
from perisect.core.lines import CutLines, Outline, SizedArt
from perisect.core.prepress import EncodedPicture
from perisect.store import blobs
from perisect.store.database import transaction
from perisect.store.models import Artwork


class UnknownArtwork(KeyError):
    """No artwork has this hash."""


def original_name(sha256: str) -> str:
    """Blob of the bytes as they were dropped."""
    return f"artwork/{sha256[:2]}/{sha256}.png"


def derived_name(sha256: str, what: str) -> str:
    """Blob of something derived by this version of the engine."""
    return f"derived/{ENGINE_VERSION}/{sha256[:2]}/{sha256}.{what}"


def keep(sha256: str, data: bytes, traced: TracedArtwork, preview: bytes) -> None:
    """Keep a picture that was read; keeping it again changes nothing."""
    blobs.put(original_name(sha256), data)
    blobs.put(derived_name(sha256, "preview.png"), preview)
    blobs.put(derived_name(sha256, "outline"), _pack(traced))
    facts = traced.facts
    row = {
        "sha256": sha256,
        "width_px": facts.width_px,
        "height_px": facts.height_px,
        "background": facts.background.value,
        "clear_share": facts.clear_share,
        "byte_count": len(data),
    }
    with transaction() as session:
        session.execute(insert(Artwork).values(row).on_conflict_do_nothing())


def original(sha256: str) -> bytes:
    """The bytes as they were dropped.

    Raises:
        UnknownArtwork: none under this hash.
    """
    data = blobs.get(original_name(sha256))
    if data is None:
        raise UnknownArtwork(sha256)
    return data


def preview(sha256: str) -> bytes:
    """A PNG for the screen.

    Raises:
        UnknownArtwork: none under this hash.
    """
    data = blobs.get(derived_name(sha256, "preview.png"))
    if data is None:
        raise UnknownArtwork(sha256)
    return data


@lru_cache(maxsize=256)
def traced(sha256: str) -> TracedArtwork:
    """Facts and outline of a picture.

    Raises:
        UnknownArtwork: none under this hash.
    """
    data = blobs.get(derived_name(sha256, "outline"))
    if data is None:
        raise UnknownArtwork(sha256)
    return _unpack(data)


@lru_cache(maxsize=256)
def _sized(sha256: str, longest_mm: float) -> SizedArt:
    return SizedArt(traced(sha256).outline, longest_mm)


@lru_cache(maxsize=1024)
def _lines(sha256: str, longest_mm: float, border_mm: float, peel_mm: float | None) -> CutLines:
    return _sized(sha256, longest_mm).lines(border_mm, peel_mm)


def lines(_: TracedArtwork, design: DesignRecipe) -> CutLines:
    """Lines of a design, from this process's memory when they were asked for before."""
    return _lines(design.artwork, design.longest_mm, design.border_mm, design.peel_mm)


def keep_encoded(sha256: str, picture: EncodedPicture) -> None:
    """Keep a picture as the print file takes it."""
    head = json.dumps(
        [picture.left_px, picture.top_px, picture.width_px, picture.height_px, len(picture.colour)]
    )
    data = len(head).to_bytes(4, "big") + head.encode() + picture.colour + picture.coverage
    blobs.put(derived_name(sha256, "encoded"), data)


def encoded(sha256: str) -> EncodedPicture | None:
    """A picture as the print file takes it, if it was kept."""
    data = blobs.get(derived_name(sha256, "encoded"))
    if data is None:
        return None
    start = 4 + int.from_bytes(data[:4], "big")
    left, top, width, height, colour = json.loads(data[4:start])
    return EncodedPicture(left, top, width, height, data[start : start + colour], data[start + colour :])


def _pack(artwork: TracedArtwork) -> bytes:
    facts = artwork.facts
    head = json.dumps(
        [facts.width_px, facts.height_px, facts.background, facts.clear_share, artwork.outline.specks]
    )
    return len(head).to_bytes(4, "big") + head.encode() + shapely.to_wkb(artwork.outline.shape)


def _unpack(data: bytes) -> TracedArtwork:
    start = 4 + int.from_bytes(data[:4], "big")
    width, height, background, share, specks = json.loads(data[4:start])
    facts = PictureFacts(width, height, Background(background), share)
    return TracedArtwork(facts, Outline(shapely.from_wkb(data[start:]), specks))
