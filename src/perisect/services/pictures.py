"""Take pictures in, read them as mended, and make pieces of them."""

import hashlib
from collections import defaultdict
from collections.abc import Sequence
from functools import partial

from perisect import sandbox
from perisect.core import stage
from perisect.core.artwork import MendRecipe, decode, read_header
from perisect.core.artwork.preview import preview_png
from perisect.core.job import (
    DesignRecipe,
    JobRecipe,
    RemedyError,
    TracedArtwork,
    merge_designs,
    see,
    split_design,
    trace_artwork,
)
from perisect.store import artwork as store
from perisect.store import blobs


def read_page(data: bytes, wanted: list[tuple[MendRecipe, float]]) -> list[tuple[TracedArtwork, bytes]]:
    """As `read` for several drawings of one page, which is opened, judged and cleared once.

    Args:
        wanted: the mend of each and its longest side in mm; they agree in what is done to the page.
    """
    sandbox.report(stage.OPENING)
    recipe = wanted[0][0]
    decoded = decode(data, recipe.page)
    seen = see(decoded, recipe, sandbox.report)
    found = []
    for number, (own, longest_mm) in enumerate(wanted, start=1):
        sandbox.report(stage.drawing(number, len(wanted)))
        traced, rgba = trace_artwork(decoded, own, longest_mm, seen=seen)
        found.append((traced, preview_png(rgba)))
    return found


def read(data: bytes, recipe: MendRecipe, longest_mm: float = 60.0) -> tuple[TracedArtwork, bytes]:
    """What is found in a picture as mended, and its preview. Runs in the sandbox.

    Raises:
        ArtworkError: unreadable, or nothing in it to cut.
    """
    sandbox.report(stage.OPENING)
    decoded = decode(data, recipe.page)
    traced, rgba = trace_artwork(decoded, recipe, longest_mm, sandbox.report)
    sandbox.report(stage.PREVIEW)
    return traced, preview_png(rgba)


def store_original(data: bytes) -> str:
    """Save a picture's bytes before it is read; returns its hash.

    Raises:
        ArtworkError: by its header alone it is no picture.
        DiskFull: there is no room.
    """
    blobs.need_room()
    read_header(data)
    sha256 = hashlib.sha256(data).hexdigest()
    store.save_original(sha256, data)
    return sha256


def take_in(data: bytes) -> tuple[str, TracedArtwork]:
    """Save a dropped picture and read it; returns its hash and what was read. The same bytes are read once.

    Raises:
        ArtworkError: unreadable, or nothing in it to cut.
        DiskFull: there is no room.
    """
    blobs.need_room()
    read_header(data)
    sha256 = hashlib.sha256(data).hexdigest()
    # What this process remembers of it may have been tidied away meanwhile.
    if store.is_known(sha256) and store.is_shown(sha256):
        return sha256, traced(DesignRecipe(id="d1", name="Piece", artwork=sha256))
    found, preview = sandbox.call(partial(read, recipe=MendRecipe()), data)
    store.save_original(sha256, data)
    store.save_derived(sha256, found, preview)
    return sha256, found


def traced(design: DesignRecipe) -> TracedArtwork:
    """A design's picture as mended, worked out the first time.

    Raises:
        UnknownArtwork: its original is not here.
        ArtworkError: mended like this nothing is left to cut.
    """
    try:
        return store.traced(design.picture)
    except store.UnknownArtwork:
        reading = partial(read, recipe=design.mend, longest_mm=design.longest_mm)
        found, preview = sandbox.call(reading, store.original(design.artwork))
        store.save_derived(design.picture, found, preview)
        return found


def read_in(sha256: str) -> TracedArtwork:
    """Have a picture read as it came, whose bytes are here; what was tidied away of it is made anew.

    Raises:
        UnknownArtwork, ArtworkError.
    """
    if not store.is_shown(sha256):
        found, preview = sandbox.call(partial(read, recipe=MendRecipe()), store.original(sha256))
        store.save_derived(sha256, found, preview)
    return traced(DesignRecipe(id="d1", name="Piece", artwork=sha256))


def all_traced(designs: Sequence[DesignRecipe]) -> bool:
    """Whether every design's picture as mended is there already."""
    return all(store.is_traced(design.picture) for design in designs)


def trace_all(designs: Sequence[DesignRecipe]) -> None:
    """Work out every design's picture that is not there yet, the drawings of one page together.

    Raises:
        UnknownArtwork: an original is not here.
        ArtworkError: mended like this nothing is left to cut.
    """
    pages: dict[tuple[str, MendRecipe], list[DesignRecipe]] = defaultdict(list)
    for design in designs:
        pages[design.artwork, design.mend.of_page].append(design)
    for (artwork, _), drawings in pages.items():
        missing = list({d.picture: d for d in drawings if not store.is_traced(d.picture)}.values())
        if len(missing) < 2:
            continue
        reading = partial(read_page, wanted=[(design.mend, design.longest_mm) for design in missing])
        found = sandbox.call(reading, store.original(artwork))
        for design, (traced_one, preview) in zip(missing, found, strict=True):
            store.save_derived(design.picture, traced_one, preview)
    for design in designs:
        traced(design)


def split(recipe: JobRecipe, design_id: str) -> JobRecipe:
    """The recipe with a page taken apart into its drawings.

    Raises:
        RemedyError: there is nothing to split, or too much.
    """
    page = next((design for design in recipe.designs if design.id == design_id), None)
    if page is None:
        raise RemedyError("there is no such piece")
    return split_design(recipe, design_id, traced(page))


def merge(recipe: JobRecipe, ids: list[str]) -> JobRecipe:
    """The recipe with some drawings of one page put together.

    Raises:
        RemedyError: they do not go together.
    """
    artworks = {design.id: traced(design) for design in recipe.designs if design.id in ids}
    return merge_designs(recipe, ids, artworks)
