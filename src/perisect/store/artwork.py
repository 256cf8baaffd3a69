"""Artwork by its hash: original bytes, facts, and what was derived from them by this engine."""

import json
from dataclasses import asdict
from functools import lru_cache

import shapely
from sqlalchemy.dialects.postgresql import insert

from perisect.core import ENGINE_VERSION
from perisect.core.artwork import Background, Judged, PictureFacts, Verdict
from perisect.core.artwork.checker import Checker
from perisect.core.artwork.pieces import Piece
from perisect.core.artwork.remove import Island
from perisect.core.artwork.specks import LoosePart
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
    return f"artwork/{sha256[:2]}/{sha256}"


def derived_name(picture: str, what: str) -> str:
    """Blob of something that this version of the engine made of a picture as mended."""
    return f"derived/{ENGINE_VERSION}/{picture[:2]}/{picture}.{what}"


def keep_original(sha256: str, data: bytes, facts: PictureFacts) -> None:
    """Keep the bytes of a picture that was read; keeping them again changes nothing."""
    blobs.put(original_name(sha256), data)
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


def keep_derived(picture: str, traced: TracedArtwork, preview: bytes) -> None:
    """Keep what was found in a picture as mended."""
    blobs.put(derived_name(picture, "preview.png"), preview)
    blobs.put(derived_name(picture, "outline"), _pack(traced))


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
def _sized(picture: str, longest_mm: float) -> SizedArt:
    return SizedArt(traced(picture).outline, longest_mm)


@lru_cache(maxsize=1024)
def _lines(picture: str, longest_mm: float, border_mm: float, peel_mm: float | None) -> CutLines:
    return _sized(picture, longest_mm).lines(border_mm, peel_mm)


def lines(_: TracedArtwork, design: DesignRecipe) -> CutLines:
    """Lines of a design, from this process's memory when they were asked for before."""
    return _lines(design.picture, design.longest_mm, design.border_mm, design.peel_mm)


def keep_encoded(picture_key: str, picture: EncodedPicture) -> None:
    """Keep a picture as the print file takes it."""
    head = json.dumps(
        [picture.left_px, picture.top_px, picture.width_px, picture.height_px, len(picture.colour)]
    )
    data = len(head).to_bytes(4, "big") + head.encode() + picture.colour + picture.coverage
    blobs.put(derived_name(picture_key, "encoded"), data)


def encoded(sha256: str) -> EncodedPicture | None:
    """A picture as the print file takes it, if it was kept."""
    data = blobs.get(derived_name(sha256, "encoded"))
    if data is None:
        return None
    start = 4 + int.from_bytes(data[:4], "big")
    left, top, width, height, colour = json.loads(data[4:start])
    return EncodedPicture(left, top, width, height, data[start : start + colour], data[start + colour :])


def _pack(artwork: TracedArtwork) -> bytes:
    head = json.dumps(
        {
            "facts": asdict(artwork.facts),
            "specks": artwork.outline.specks,
            "judged": asdict(artwork.judged),
            "islands": [asdict(island) for island in artwork.islands],
            "loose": [asdict(part) for part in artwork.loose],
            "pieces": [asdict(piece) for piece in artwork.pieces],
            "notes": artwork.notes,
        }
    )
    return len(head.encode()).to_bytes(4, "big") + head.encode() + shapely.to_wkb(artwork.outline.shape)


def _unpack(data: bytes) -> TracedArtwork:
    start = 4 + int.from_bytes(data[:4], "big")
    head = json.loads(data[4:start])
    facts, judged = head["facts"], head["judged"]
    checker = judged["checker"]
    if checker is not None:
        checker = Checker(**checker | {"light": tuple(checker["light"]), "dark": tuple(checker["dark"])})
    colour = judged["colour"] and tuple(judged["colour"])
    return TracedArtwork(
        PictureFacts(**facts | {"background": Background(facts["background"])}),
        Outline(shapely.from_wkb(data[start:]), head["specks"]),
        Judged(**judged | {"verdict": Verdict(judged["verdict"]), "colour": colour, "checker": checker}),
        tuple(Island(**island) for island in head["islands"]),
        tuple(LoosePart(**part) for part in head["loose"]),
        tuple(Piece(**piece) for piece in head["pieces"]),
        tuple(head["notes"]),
    )
