"""Read pictures, keep them, and make what the print file needs of them."""

import hashlib
from functools import lru_cache, partial

import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork import MendRecipe, decode, decode_rgba, judge, mend, read_header
from perisect.core.artwork.preview import as_png, preview_png, shrunk
from perisect.core.job import (
    DesignRecipe,
    JobPlan,
    JobRecipe,
    RemedyError,
    TracedArtwork,
    plan_job,
    split_design,
    trace_artwork,
)
from perisect.core.job.files import print_pdf
from perisect.core.prepress import EncodedPicture, encode_picture
from perisect.store import artwork as store
from perisect.tasks import isolated


def read(data: bytes, recipe: MendRecipe) -> tuple[TracedArtwork, bytes]:
    """What is found in a picture as mended, and its preview. Runs in a reader process.

    Raises:
        ArtworkError: unreadable, or nothing in it to cut.
    """
    traced, rgba = trace_artwork(decode(data), recipe)
    return traced, preview_png(rgba)


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
        traced, preview = isolated.call(partial(read, recipe=MendRecipe()), data)
        store.keep_original(sha256, data, traced.facts)
        store.keep_derived(sha256, traced, preview)
        return sha256, traced


def traced(design: DesignRecipe) -> TracedArtwork:
    """A design's picture as mended, worked out the first time.

    Raises:
        UnknownArtwork: its original is not kept.
        ArtworkError: mended like this nothing is left to cut.
    """
    try:
        return store.traced(design.picture)
    except store.UnknownArtwork:
        found, preview = isolated.call(partial(read, recipe=design.mend), store.original(design.artwork))
        store.keep_derived(design.picture, found, preview)
        return found


TRIAL_PX = 520


@lru_cache(maxsize=16)
def _small(sha256: str) -> NDArray[np.uint8]:
    """A picture as it came, reduced so far that a trial answers while a slider moves."""
    return shrunk(decode_rgba(store.preview(sha256)), TRIAL_PX)


def trial(sha256: str, tolerance: float) -> bytes:
    """PNG of a picture without its plain background at a tolerance, for the screen alone; nothing is kept.

    Raises:
        UnknownArtwork: none under this hash.
        ArtworkError: it has no plain background.
    """
    recipe = MendRecipe(background="plain", tolerance=tolerance)
    return as_png(mend(_small(sha256), store.traced(sha256).judged, recipe).rgba)


def split(recipe: JobRecipe, design_id: str) -> JobRecipe:
    """The recipe with a page taken apart into its drawings.

    Raises:
        RemedyError: there is nothing to split, or too much.
    """
    page = next((design for design in recipe.designs if design.id == design_id), None)
    if page is None:
        raise RemedyError("there is no such piece")
    return split_design(recipe, design_id, traced(page))


def _encode(data: bytes, recipe: MendRecipe) -> EncodedPicture:
    decoded = decode(data)
    return encode_picture(mend(decoded.rgba, judge(decoded.rgba), recipe).rgba)


def encoded(design: DesignRecipe) -> EncodedPicture:
    """A design's picture as the print file takes it, made once.

    Raises:
        UnknownArtwork: its original is not kept.
    """
    kept = store.encoded(design.picture)
    if kept is None:
        kept = isolated.call(partial(_encode, recipe=design.mend), store.original(design.artwork))
        store.keep_encoded(design.picture, kept)
    return kept


def plan(recipe: JobRecipe) -> JobPlan:
    """A recipe worked out with the artwork that is kept.

    Raises:
        UnknownArtwork: a design's picture is not kept.
        ArtworkError: a mend leaves nothing to cut.
    """
    return plan_job(recipe, {design.picture: traced(design) for design in recipe.designs}, store.lines)


def sheet_pdf(plan: JobPlan, number: int) -> bytes:
    """The print file of sheet `number` (from 0)."""
    used = {placement.key for placement in plan.sheets.sheets[number]}
    pictures = {design.picture: encoded(design) for design in plan.recipe.designs if design.id in used}
    return print_pdf(plan, number, pictures)
