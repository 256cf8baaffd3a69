"""Pieces of several things: placed, drawn into a picture of their own, and put into a job."""

import io
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import lru_cache, partial

import numpy as np
import shapely
from PIL import Image
from sqlalchemy.orm import Session

from perisect import sandbox
from perisect.core.artwork import MendRecipe, decode
from perisect.core.artwork.picture import alpha_of
from perisect.core.artwork.words.draw import TooFine, composition_in, draw, held_lines, motifs, path_of
from perisect.core.artwork.words.place import PictureInk, Placed, PlacedPart, place
from perisect.core.artwork.words.recipe import CompositionRecipe, GroundPart, PicturePart, WordsPart
from perisect.core.fonts import TITLES
from perisect.core.fonts.font import Font, shipped
from perisect.core.job import DesignRecipe, JobRecipe, trace_artwork
from perisect.core.job.new_piece import with_picture
from perisect.services import shop
from perisect.services.pictures import take_in, traced
from perisect.store import artwork as store
from perisect.store import blobs, fonts, jobs
from perisect.store.database import transaction
from perisect.store.fonts import UnknownFont
from perisect.store.models import Job

MOST_NAMES = 60
AT_ONCE = 2
"""Pieces that are made side by side."""
LEAST_CAPS_MM = 1.2
"""Of letters that anybody reads without a glass."""


@dataclass(frozen=True)
class Made:
    """A piece that was made.

    Attributes:
        sha256: its picture.
        name: its name.
        drawn: the composition that it shows.
    """

    sha256: str
    name: str
    drawn: "Drawn"


class CannotCompose(ValueError):
    """A piece that cannot be made so; the text says what to do."""


@dataclass(frozen=True)
class Composed:
    """A composition as it is placed, and what is to be said of it."""

    placed: Placed
    box_mm: tuple[float, float, float, float]
    """Of everything: left, top, right, bottom."""
    loose: int
    """Pieces that its line would make without a border."""
    lacking: str
    small: tuple[str, ...]
    """Texts whose letters are too small to be read."""


def font_of(key: str) -> Font:
    """A font by its key.

    Raises:
        CannotCompose: there is none.
    """
    if key in TITLES:
        return shipped(key)
    try:
        return own_font(key)
    except UnknownFont as error:
        raise CannotCompose("A font of this piece is gone: choose another one.") from error


@lru_cache(maxsize=16)
def own_font(sha256: str) -> Font:
    """A font of the person's own, as it was taken over: its tables were read and written anew.

    Raises:
        UnknownFont.
    """
    return Font(fonts.file_of(sha256))


def picture_ink(part: PicturePart) -> PictureInk:
    """The ink of a picture as mended.

    Raises:
        UnknownArtwork.
    """
    return _inks(part.picture)


@lru_cache(maxsize=64)
def _inks(picture: str) -> PictureInk:
    known = store.traced(picture)
    shape = known.outline.shape
    left, top, right, bottom = (float(side) for side in shapely.bounds(shape))
    longest = max(right - left, bottom - top)

    def shares(box: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
        x, y, far, low = box
        return (x - left) / longest, (y - top) / longest, (far - x) / longest, (low - y) / longest

    def in_shares(of: shapely.Geometry) -> shapely.Geometry:
        return shapely.transform(of, lambda xy: (xy - (left, top)) / longest)

    whole = (0.0, 0.0, float(known.facts.width_px), float(known.facts.height_px))
    return PictureInk(
        in_shares(shape),
        (right - left) / longest,
        (bottom - top) / longest,
        shares(_crop(shape)),
        shares(whole),
        in_shares(known.outline.held),
        tuple((process, in_shares(line)) for process, line in known.outline.beside),
    )


def _crop(shape: shapely.Geometry) -> tuple[int, int, int, int]:
    """The px that hold an outline: left, top, right, bottom."""
    left, top, right, bottom = shapely.bounds(shape)
    return int(np.floor(left)), int(np.floor(top)), int(np.ceil(right)), int(np.ceil(bottom))


def compose(recipe: CompositionRecipe) -> Composed:
    """Place a composition.

    Raises:
        CannotCompose, UnknownArtwork.
    """
    pictures = {part.picture: picture_ink(part) for part in recipe.parts if isinstance(part, PicturePart)}
    placed = place(recipe, font_of, pictures)
    everything = placed.ink(recipe, ("both", "print", "cut"))
    if everything.is_empty:
        raise CannotCompose("Nothing of this is printed: type a text, or put a picture in.")
    cut = placed.ink(recipe, ("both", "cut"))
    if cut.is_empty:
        raise CannotCompose("All of it is printed only: let one part of it be cut round.")
    left, top, right, bottom = (float(side) for side in shapely.bounds(everything))
    if max(right - left, bottom - top) > 400:
        raise CannotCompose(
            "The piece would be more than 400 mm long: make its parts smaller, or bring them together."
        )
    small = tuple(
        part.text
        for part in recipe.parts
        if isinstance(part, WordsPart) and part.role != "cut" and part.size_mm < LEAST_CAPS_MM
    )
    lacking = "".join(sorted({letter for each in placed.parts for letter in each.lacking}))
    return Composed(placed, (left, top, right, bottom), len(shapely.get_parts(cut)), lacking, small)


def longest_mm(recipe: CompositionRecipe, composed: Composed) -> float:
    """The size it is made at: the longest side of what is cut round."""
    left, top, right, bottom = shapely.bounds(composed.placed.ink(recipe, ("both", "cut")))
    return float(np.clip(max(right - left, bottom - top), 5, 400))


@dataclass(frozen=True)
class Drawn:
    """A composition as a drawing.

    Attributes:
        svg: the drawing.
        longest_mm: its longest side.
        holds_line: whether it holds a cut line, as a die does.
    """

    svg: bytes
    longest_mm: float
    holds_line: bool


def drawing(recipe: CompositionRecipe, known: Sequence[DesignRecipe]) -> Drawn:
    """Draw a composition.

    Args:
        recipe: the composition.
        known: designs whose pictures it may hold, as they are mended.

    Raises:
        CannotCompose, UnknownArtwork, ArtworkError.
    """
    composed = compose(recipe)
    mends = {design.picture: design for design in known}
    pngs = {}
    for part in recipe.parts:
        if isinstance(part, PicturePart) and part.picture not in pngs:
            pngs[part.picture] = _png(part, mends.get(part.picture))
    try:
        svg = draw(recipe, composed.placed, pngs).encode()
    except TooFine as error:
        raise CannotCompose(str(error)) from error
    return Drawn(svg, longest_mm(recipe, composed), bool(held_lines(recipe, composed.placed)))


def _png(part: PicturePart, design: DesignRecipe | None) -> bytes:
    """A picture as mended, cropped to its ink; made once."""
    name = store.derived_name(part.picture, "composed")
    made = blobs.get(name)
    if made is not None:
        return made
    if design is None and part.picture != part.artwork:
        raise CannotCompose("A picture of this piece was edited since: add it again.")
    mend = MendRecipe() if design is None else design.mend
    size = 60.0 if design is None else design.longest_mm
    made = sandbox.call(partial(_cropped_png, mend=mend, longest_mm=size), store.original(part.artwork))
    blobs.put(name, made)
    return made


def _cropped_png(data: bytes, mend: MendRecipe, longest_mm: float) -> bytes:
    """Runs in the sandbox."""
    found, rgba = trace_artwork(decode(data, mend.page), mend, longest_mm)
    left, top, right, bottom = _crop(found.outline.shape)
    part = Image.fromarray(np.asarray(rgba, np.uint8)).crop((left, top, right, bottom))
    assert alpha_of(np.asarray(part)).any()
    file = io.BytesIO()
    part.save(file, "PNG", compress_level=6)
    return file.getvalue()


def composition_of(sha256: str) -> CompositionRecipe | None:
    """What a picture of ours was made from; None for any other.

    Raises:
        UnknownArtwork.
    """
    return composition_in(store.original(sha256))


def put_into_job(
    job_id: int, design_id: str | None, recipe: CompositionRecipe, names: Sequence[str]
) -> tuple[Job, list[str]]:
    """Make a piece, or with names one for each, and put it into a job in one step.

    It takes the place of a piece that is there, or is a new one; the job, and the ids of its pieces.

    Raises:
        UnknownJob, CannotCompose, UnknownArtwork, ArtworkError.
    """
    with transaction() as session:
        now = jobs.recipe(session, jobs.get(session, job_id))

    def make(name: str) -> Made:
        filled = recipe.filled(name) if name else recipe
        drawn = drawing(filled, now.designs)
        sha256, _ = take_in(drawn.svg)
        return Made(sha256, name or _title(filled), drawn)

    # The first makes what all of them share.
    first, *others = names or ("",)
    made = [make(first)]
    with ThreadPoolExecutor(AT_ONCE) as pool:
        made += pool.map(make, others)
    with transaction() as session:
        return _saved(session, job_id, design_id, made)


def _title(recipe: CompositionRecipe) -> str:
    words = next((part.text for part in recipe.parts if isinstance(part, WordsPart)), "Piece")
    return words.replace("\n", " ")[:60]


def _saved(
    session: Session, job_id: int, design_id: str | None, made: Sequence[Made]
) -> tuple[Job, list[str]]:
    ids: list[str] = []
    habit = shop.get_habit(session) or "sheet"

    def with_them(recipe: JobRecipe) -> JobRecipe:
        first, *others = made
        there = next((design for design in recipe.designs if design.id == design_id), None)
        if there is None:
            others = list(made)
        else:
            ids.append(there.id)
            changed = _sized(there, first.drawn).model_copy(
                update={"artwork": first.sha256, "mend": MendRecipe()}
            )
            designs = tuple(changed if design.id == design_id else design for design in recipe.designs)
            recipe = recipe.model_copy(update={"designs": designs})
        for each in others:
            die_mm = each.drawn.longest_mm if each.drawn.holds_line else None
            recipe, new = with_picture(recipe, each.sha256, each.name, None, habit, die_mm)
            ids.append(new)
            sized = tuple(
                _sized(design, each.drawn).model_copy(update={"name": each.name})
                if design.id == new
                else design
                for design in recipe.designs
            )
            recipe = recipe.model_copy(update={"designs": sized})
        return recipe

    label = f"Compose {made[0].name}" if len(made) == 1 else f"Compose {len(made)} pieces"
    return jobs.append(session, job_id, with_them, label[:160]), ids


def _sized(design: DesignRecipe, drawn: Drawn) -> DesignRecipe:
    """Give a piece the size of its drawing; one that has lost its own cut line follows the contour."""
    lines = design.lines
    if lines.shape == "held" and not drawn.holds_line:
        lines = lines.model_copy(update={"shape": "contour"})
    return design.model_copy(update={"longest_mm": drawn.longest_mm, "lines": lines})


def part_of(design: DesignRecipe) -> PicturePart:
    """A piece's picture as a part, at its size."""
    traced(design)
    return PicturePart(artwork=design.artwork, picture=design.picture, longest_mm=design.longest_mm)


def pattern_data(recipe: CompositionRecipe, part: PlacedPart) -> str:
    """The motifs of a ground's pattern as path data in mm; empty where it has none, or none that could be seen."""
    ground = recipe.parts[part.number]
    if not isinstance(ground, GroundPart) or ground.pattern in ("none", "fade"):
        return ""
    try:
        return path_of(motifs(ground, part.ink))
    except TooFine:
        return ""


def path_data(part: PlacedPart) -> str:
    """A text's outlines, or a ground's shape, as path data in mm; empty for a picture."""
    if part.path is not None:
        return part.path.svg()
    return "" if part.picture is not None else path_of(part.ink)
