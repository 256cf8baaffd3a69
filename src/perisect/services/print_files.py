"""Print files: pictures as a PDF takes them, each made once, and the files of a plan's sheets."""

import hashlib
import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from contextvars import copy_context
from dataclasses import dataclass
from functools import partial

from perisect import sandbox
from perisect.core import ENGINE_VERSION
from perisect.core.artwork import MendRecipe, ToneRecipe, decode, judge, mend
from perisect.core.artwork.tone import toned
from perisect.core.job import DesignRecipe, JobPlan
from perisect.core.job.files import bleed_px, encode_bleed, note_of, print_pdf
from perisect.core.prepress.margin_note import with_notes
from perisect.core.prepress.print_file import EncodedPicture, encode_curves, encode_picture
from perisect.services.plans import Planned
from perisect.store import artwork as store
from perisect.store import blobs

AS_IT_IS = ToneRecipe()
SIDE_BY_SIDE = max(2, len(os.sched_getaffinity(0)))


def _encode(data: bytes, recipe: MendRecipe, longest_mm: float, tone: ToneRecipe) -> EncodedPicture:
    decoded = decode(data, recipe.page)
    if recipe.leaves_shapes and decoded.shapes is not None and decoded.shapes.paths is not None:
        height, width = decoded.rgba.shape[:2]
        return encode_curves(decoded.shapes.paths, width, height, tone)
    return encode_picture(toned(mend(decoded.rgba, judge(decoded.rgba), recipe, longest_mm).rgba, tone))


def _encode_bleed(
    data: bytes, recipe: MendRecipe, longest_mm: float, tone: ToneRecipe, distance_px: float
) -> EncodedPicture:
    decoded = decode(data, recipe.page)
    return encode_bleed(
        toned(mend(decoded.rgba, judge(decoded.rgba), recipe, longest_mm).rgba, tone), distance_px
    )


def encoded(design: DesignRecipe, tone: ToneRecipe = AS_IT_IS) -> EncodedPicture:
    """A design's picture as the print file takes it, made once for each tone.

    Raises:
        UnknownArtwork: its original is not here.
    """
    key = design.picture
    if not tone.is_nothing:
        key = hashlib.sha256(f"{key} {tone.model_dump_json()}".encode()).hexdigest()
    found = store.encoded(key)
    if found is None:
        work = partial(_encode, recipe=design.mend, longest_mm=design.longest_mm, tone=tone)
        found = sandbox.call(work, store.original(design.artwork), kind=sandbox.work.PRINTING)
        store.save_encoded(key, found)
    return found


def _bleed(plan: JobPlan, design: DesignRecipe, tone: ToneRecipe) -> EncodedPicture | None:
    """A design's bleed as the print file takes it, made once for each distance and tone."""
    distance = bleed_px(plan, design)
    if distance == 0:
        return None
    key = hashlib.sha256(f"{design.picture} {tone.model_dump_json()} bleed {distance}".encode()).hexdigest()
    found = store.encoded(key)
    if found is None:
        work = partial(
            _encode_bleed, recipe=design.mend, longest_mm=design.longest_mm, tone=tone, distance_px=distance
        )
        found = sandbox.call(work, store.original(design.artwork), kind=sandbox.work.PRINTING)
        store.save_encoded(key, found)
    return found


def sheet_pdf(
    planned: Planned,
    number: int,
    tone: ToneRecipe = AS_IT_IS,
    scale: tuple[float, float] = (1.0, 1.0),
) -> bytes:
    """The print file of sheet `number` (from 0), its colours through a tone, made larger across and along by `scale`
    for a printer that prints it smaller; made once."""
    plan = planned.plan
    key = f"{ENGINE_VERSION} {planned.key} {number} {tone.model_dump_json()}"
    if scale != (1.0, 1.0):
        key += f" {scale[0]:.6f} {scale[1]:.6f}"
    name = f"files/{hashlib.sha256(key.encode()).hexdigest()}.pdf"
    made = blobs.get(name)
    if made is not None:
        return made
    used = {placement.key for placement in plan.sheets.sheets[number]}
    shown = [design for design in plan.recipe.designs if design.id in used]
    once = {design.picture: design for design in shown}
    # Readers work side by side, each heard by whoever watches this; what is there already is only fetched.
    with ThreadPoolExecutor(SIDE_BY_SIDE) as some:
        begun = [some.submit(copy_context().run, encoded, design, tone) for design in once.values()]
        bled = [some.submit(copy_context().run, _bleed, plan, design, tone) for design in shown]
        pictures = {picture: each.result() for picture, each in zip(once, begun, strict=True)}
        rims = {design.id: each.result() for design, each in zip(shown, bled, strict=True)}
    under = {design: rim for design, rim in rims.items() if rim is not None}
    pdf = print_pdf(plan, number, pictures, under, tone, scale)
    if not plan.layout.waiting:
        blobs.put(name, pdf)
    return pdf


@dataclass(frozen=True)
class PrintNote:
    """What a copy of a sheet says of itself in its margin, beside its number."""

    title: str = ""
    name: str = ""
    copy: int = 1
    copies: int = 1


def noted_pdf(
    planned: Planned,
    number: int,
    notes: Sequence[PrintNote],
    tone: ToneRecipe = AS_IT_IS,
    scale: tuple[float, float] = (1.0, 1.0),
) -> bytes:
    """The print file of sheet `number` (from 0), a page for each note.

    Raises:
        NoteImpossible: a name cannot be written in the margin.
    """
    plan = planned.plan
    parts = [note_of(plan, number, note.title, note.name, note.copy, note.copies) for note in notes]
    return with_notes(sheet_pdf(planned, number, tone, scale), plan.area, parts)
