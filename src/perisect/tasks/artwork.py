"""Read pictures, keep them, and make what the print file needs of them."""

import hashlib
from collections import defaultdict
from collections.abc import Sequence
from functools import partial

from perisect.core.artwork import MendRecipe, ToneRecipe, decode, judge, mend, read_header
from perisect.core.artwork.preview import preview_png
from perisect.core.artwork.tone import toned
from perisect.core.job import (
    DesignRecipe,
    JobPlan,
    JobRecipe,
    RemedyError,
    TracedArtwork,
    merge_designs,
    plan_job,
    see,
    split_design,
    trace_artwork,
)
from perisect.core.job.files import bleed_px, encode_bleed, print_pdf
from perisect.core.prepress import EncodedPicture, encode_curves, encode_picture
from perisect.store import artwork as store
from perisect.store import nests, tables
from perisect.tasks import isolated

AS_IT_IS = ToneRecipe()


def read_page(data: bytes, wanted: list[tuple[MendRecipe, float]]) -> list[tuple[TracedArtwork, bytes]]:
    """As `read` for several drawings of one page, which is opened, judged and cleared once.

    Args:
        wanted: the mend of each and its longest side in mm; they agree in what is done to the page.
    """
    isolated.report("Opening the picture")
    recipe = wanted[0][0]
    decoded = decode(data, recipe.page)
    seen = see(decoded, recipe, isolated.report)
    found = []
    for number, (own, longest_mm) in enumerate(wanted, start=1):
        isolated.report(f"Reading drawing {number} of {len(wanted)}")
        traced, rgba = trace_artwork(decoded, own, longest_mm, seen=seen)
        found.append((traced, preview_png(rgba)))
    return found


def read(data: bytes, recipe: MendRecipe, longest_mm: float = 60.0) -> tuple[TracedArtwork, bytes]:
    """What is found in a picture as mended, and its preview. Runs in a reader process.

    Raises:
        ArtworkError: unreadable, or nothing in it to cut.
    """
    isolated.report("Opening the picture")
    decoded = decode(data, recipe.page)
    traced, rgba = trace_artwork(decoded, recipe, longest_mm, isolated.report)
    isolated.report("Making a preview")
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
        reading = partial(read, recipe=design.mend, longest_mm=design.longest_mm)
        found, preview = isolated.call(reading, store.original(design.artwork))
        store.keep_derived(design.picture, found, preview)
        return found


def trace_all(designs: Sequence[DesignRecipe]) -> None:
    """Work out every design's picture that is not kept yet, the drawings of one page together.

    Raises:
        UnknownArtwork: an original is not kept.
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
        found = isolated.call(reading, store.original(artwork))
        for design, (traced_one, preview) in zip(missing, found, strict=True):
            store.keep_derived(design.picture, traced_one, preview)
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


def _encode(data: bytes, recipe: MendRecipe, longest_mm: float, tone: ToneRecipe) -> EncodedPicture:
    decoded = decode(data, recipe.page)
    if recipe.leaves_shapes and decoded.shapes is not None and decoded.shapes.paths is not None:
        height, width = decoded.rgba.shape[:2]
        return encode_curves(decoded.shapes.paths, width, height, tone)
    return encode_picture(toned(mend(decoded.rgba, judge(decoded.rgba), recipe, longest_mm).rgba, tone))


def encoded(design: DesignRecipe, tone: ToneRecipe = AS_IT_IS) -> EncodedPicture:
    """A design's picture as the print file takes it, made once for each tone.

    Raises:
        UnknownArtwork: its original is not kept.
    """
    key = design.picture
    if not tone.is_nothing:
        key = hashlib.sha256(f"{key} {tone.model_dump_json()}".encode()).hexdigest()
    kept = store.encoded(key)
    if kept is None:
        work = partial(_encode, recipe=design.mend, longest_mm=design.longest_mm, tone=tone)
        kept = isolated.call(work, store.original(design.artwork))
        store.keep_encoded(key, kept)
    return kept


def plan(recipe: JobRecipe) -> JobPlan:
    """A recipe worked out with the artwork and the nests that are kept.

    Raises:
        UnknownArtwork: a design's picture is not kept.
        UnknownTable: nor is a list.
        ArtworkError: a mend leaves nothing to cut.
    """
    trace_all(recipe.designs)
    artworks = {design.picture: traced(design) for design in recipe.designs}
    lists = {design.labels.table for design in recipe.designs if design.labels is not None}
    return plan_job(recipe, artworks, store.lines, nests.find, {key: tables.get(key) for key in lists})


def _encode_bleed(
    data: bytes, recipe: MendRecipe, longest_mm: float, tone: ToneRecipe, distance_px: float
) -> EncodedPicture:
    decoded = decode(data, recipe.page)
    return encode_bleed(
        toned(mend(decoded.rgba, judge(decoded.rgba), recipe, longest_mm).rgba, tone), distance_px
    )


def _bleed(plan: JobPlan, design: DesignRecipe, tone: ToneRecipe) -> EncodedPicture | None:
    """A design's bleed as the print file takes it, made once for each distance and tone."""
    distance = bleed_px(plan, design)
    if distance == 0:
        return None
    key = hashlib.sha256(f"{design.picture} {tone.model_dump_json()} bleed {distance}".encode()).hexdigest()
    kept = store.encoded(key)
    if kept is None:
        work = partial(
            _encode_bleed, recipe=design.mend, longest_mm=design.longest_mm, tone=tone, distance_px=distance
        )
        kept = isolated.call(work, store.original(design.artwork))
        store.keep_encoded(key, kept)
    return kept


def sheet_pdf(plan: JobPlan, number: int, tone: ToneRecipe = AS_IT_IS) -> bytes:
    """The print file of sheet `number` (from 0), its colours through a tone."""
    used = {placement.key for placement in plan.sheets.sheets[number]}
    shown = [design for design in plan.recipe.designs if design.id in used]
    pictures = {design.picture: encoded(design, tone) for design in shown}
    under = {design.id: bleed for design in shown if (bleed := _bleed(plan, design, tone)) is not None}
    return print_pdf(plan, number, pictures, under, tone)
