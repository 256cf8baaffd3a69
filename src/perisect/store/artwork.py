"""Artwork by its hash: original bytes, facts, and what was derived from them by this engine."""

import json
from dataclasses import fields
from functools import lru_cache
from typing import Any, get_type_hints

import shapely
from pydantic import TypeAdapter
from sqlalchemy.dialects.postgresql import insert

from perisect.core import ENGINE_VERSION
from perisect.core.job import DesignRecipe, TracedArtwork
from perisect.core.lines import CutLines, LineRecipe, Outline, SizedArt
from perisect.core.lines.material import Tooling
from perisect.core.prepress.print_file import EncodedPicture
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


def save_original(sha256: str, data: bytes) -> None:
    """Save the bytes of a picture; saving them again changes nothing."""
    if not is_known(sha256):
        blobs.put(original_name(sha256), data)
    with transaction() as session:
        row = {"sha256": sha256, "byte_count": len(data)}
        session.execute(insert(Artwork).values(row).on_conflict_do_nothing())


def save_derived(picture: str, traced: TracedArtwork, preview: bytes) -> None:
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


def is_known(sha256: str) -> bool:
    """Whether the original bytes are kept."""
    return blobs.exists(original_name(sha256))


def is_shown(picture: str) -> bool:
    """Whether a preview of it is kept."""
    return blobs.exists(derived_name(picture, "preview.png"))


def is_traced(picture: str) -> bool:
    """Whether what is found in a picture as mended is kept; what was once kept is not asked for again."""
    name = derived_name(picture, "outline")
    if name not in _kept and blobs.exists(name):
        _kept.add(name)
    return name in _kept


_kept: set[str] = set()


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
def _lines(
    picture: str,
    longest_mm: float,
    border_mm: float,
    peel_mm: float | None,
    recipe: LineRecipe,
    tooling: Tooling,
    moving: bool = False,
) -> CutLines:
    art = _sized(picture, longest_mm)
    return (art.moving if moving else art).lines(border_mm, peel_mm, recipe, tooling)


def lines(_: TracedArtwork, design: DesignRecipe, tooling: Tooling) -> CutLines:
    """Lines of a design, from this process's memory when they were asked for before.

    Raises:
        LineError: nothing is left to cut.
    """
    return _lines(design.picture, design.longest_mm, design.border_mm, design.peel_mm, design.lines, tooling)


def moving_lines(design: DesignRecipe, tooling: Tooling) -> CutLines:
    """The same, no closer than a screen shows them.

    Raises:
        LineError: nothing is left to cut.
    """
    how = (design.border_mm, design.peel_mm, design.lines, tooling)
    return _lines(design.picture, design.longest_mm, *how, moving=True)


def save_encoded(picture_key: str, picture: EncodedPicture) -> None:
    """Keep a picture as the print file takes it."""
    streams = (picture.colour, picture.coverage, picture.curves)
    place = [picture.left_px, picture.top_px, picture.width_px, picture.height_px]
    head = json.dumps([*place, *(len(stream) for stream in streams)]).encode()
    blobs.put(derived_name(picture_key, "encoded"), len(head).to_bytes(4, "big") + head + b"".join(streams))


def encoded(picture_key: str) -> EncodedPicture | None:
    """A picture as the print file takes it, if it was kept."""
    data = blobs.get(derived_name(picture_key, "encoded"))
    if data is None:
        return None
    at = 4 + int.from_bytes(data[:4], "big")
    left, top, width, height, *lengths = json.loads(data[4:at])
    streams = []
    for length in lengths:
        streams.append(data[at : at + length])
        at += length
    return EncodedPicture(left, top, width, height, *streams)


def _head() -> dict[str, TypeAdapter[Any]]:
    """How each fact of a traced picture is written; its outline is kept beside them as WKB."""
    hints = get_type_hints(TracedArtwork)
    return {
        each.name: TypeAdapter(hints[each.name]) for each in fields(TracedArtwork) if each.name != "outline"
    }


_HEAD = _head()


def _pack(artwork: TracedArtwork) -> bytes:
    facts = {
        name: adapter.dump_python(getattr(artwork, name), mode="json") for name, adapter in _HEAD.items()
    }
    outline = artwork.outline
    beside = [process for process, _ in outline.beside]
    every = shapely.geometrycollections([outline.shape, outline.held, *(line for _, line in outline.beside)])
    head = json.dumps({"specks": outline.specks, "beside": beside, "facts": facts}).encode()
    return len(head).to_bytes(4, "big") + head + shapely.to_wkb(every)


def _unpack(data: bytes) -> TracedArtwork:
    start = 4 + int.from_bytes(data[:4], "big")
    head = json.loads(data[4:start])
    facts = {name: _HEAD[name].validate_python(value) for name, value in head["facts"].items()}
    shape, held, *lines = shapely.from_wkb(data[start:]).geoms
    beside = tuple(zip(head["beside"], lines, strict=True))
    return TracedArtwork(outline=Outline(shape, head["specks"], held, beside), **facts)
