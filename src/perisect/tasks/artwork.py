"""Read pictures, keep them, and make what the print file needs of them."""

import hashlib

from perisect.core.artwork import ArtworkError, Background, decode_rgba, describe, read_header
from perisect.core.artwork.picture import alpha_of
from perisect.core.artwork.preview import preview_png
from perisect.core.job import JobPlan, JobRecipe, TracedArtwork, plan_job
from perisect.core.job.files import print_pdf
from perisect.core.lines import trace
from perisect.core.prepress import EncodedPicture, encode_picture
from perisect.store import artwork as store
from perisect.tasks import isolated


def read(data: bytes) -> tuple[TracedArtwork, bytes]:
    """Facts, outline and preview of a picture. Runs in a reader process.

    Raises:
        ArtworkError: unreadable, or nothing in it to cut.
    """
    rgba = decode_rgba(data)
    facts = describe(rgba)
    if facts.background is Background.EMPTY:
        raise ArtworkError(
            "Every pixel of the picture is clear.",
            "There is nothing to cut. Check that its layer was visible.",
        )
    outline = trace(alpha_of(rgba))
    if outline.shape.is_empty:
        raise ArtworkError(
            "What is not clear is smaller than dust.", "There is nothing to cut. Export it larger."
        )
    return TracedArtwork(facts, outline), preview_png(rgba)


def take_in(data: bytes) -> tuple[str, TracedArtwork]:
    """Keep a dropped picture; returns its hash and what was read. The same bytes are read once.

    Raises:
        ArtworkError: unreadable, or nothing in it to cut.
    """
    read_header(data)
    sha256 = hashlib.sha256(data).hexdigest()
    try:
        return sha256, store.traced(sha256)
    except store.UnknownArtwork:
        traced, preview = isolated.call(read, data)
        store.keep(sha256, data, traced, preview)
        return sha256, traced


def _encode(data: bytes) -> EncodedPicture:
    return encode_picture(decode_rgba(data))


def encoded(sha256: str) -> EncodedPicture:
    """A picture as the print file takes it, made once.

    Raises:
        UnknownArtwork: none under this hash.
    """
    kept = store.encoded(sha256)
    if kept is None:
        kept = isolated.call(_encode, store.original(sha256))
        store.keep_encoded(sha256, kept)
    return kept


def plan(recipe: JobRecipe) -> JobPlan:
    """A recipe worked out with the artwork that is kept.

    Raises:
        UnknownArtwork: a design's picture is not kept.
    """
    artworks = {design.artwork: store.traced(design.artwork) for design in recipe.designs}
    return plan_job(recipe, artworks, store.lines)


def sheet_pdf(plan: JobPlan, number: int) -> bytes:
    """The print file of sheet `number` (from 0)."""
    used = {placement.key for placement in plan.sheets.sheets[number]}
    hashes = {design.artwork for design in plan.recipe.designs if design.id in used}
    pictures = {sha256: encoded(sha256) for sha256 in hashes}
    return print_pdf(plan, number, pictures)
