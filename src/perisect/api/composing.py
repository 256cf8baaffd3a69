"""Pieces of several things: fonts, a composition as it would be placed, and putting it into a job."""

from typing import Annotated

from fastapi import APIRouter, Path, UploadFile
from pydantic import BaseModel, Field

from perisect.api.problems import Problem
from perisect.core.artwork.words.recipe import CompositionRecipe, PicturePart
from perisect.core.fonts import TITLES
from perisect.core.fonts.own import MOST_BYTES, FontRefused
from perisect.core.job.recipe import Sha256
from perisect.services import composing, own_fonts
from perisect.services.composing import MOST_NAMES, CannotCompose
from perisect.store import fonts, jobs
from perisect.store.database import transaction
from perisect.store.fonts import TooManyFonts, UnknownFont

router = APIRouter(prefix="/api", tags=["composing"])

Name = Annotated[str, Field(min_length=1, max_length=60, pattern=r"^[^\x00-\x1f\x7f]*\S[^\x00-\x1f\x7f]*$")]


class FontView(BaseModel):
    """A font that words are set in; `rights` is what its maker lets others do, as its file says."""

    key: str
    name: str
    own: bool
    rights: str
    letters: int


class PlacedView(BaseModel):
    """A part as it is placed, mm: its number, the box of its ink, and a text's outlines as path data; a picture's
    matrix, in which it is as long as 1; by how much a text's letters were closed, in heights of its capitals."""

    number: int
    box: tuple[float, float, float, float]
    path: str
    pattern: str
    """The motifs of a ground, as path data."""
    matrix: tuple[float, float, float, float, float, float] | None
    whole: tuple[float, float, float, float] | None
    """Where all of a picture lies before its matrix: x, y, width, height."""
    closed: float


class ComposedView(BaseModel):
    """A composition as it would be: everything's box, its longest side where it is cut round, how many pieces a line
    without a border makes, letters that no font has, and texts too small to read."""

    parts: list[PlacedView]
    box: tuple[float, float, float, float]
    longest_mm: float
    pieces: int
    lacking: str
    small: list[str]


class IntoJob(BaseModel):
    """What becomes of it: the place of a piece, or a new one; with names a piece for each."""

    composition: CompositionRecipe
    design: Annotated[str, Field(max_length=40)] | None = None
    names: Annotated[list[Name], Field(max_length=MOST_NAMES)] = []


class ComposedJob(BaseModel):
    """The job, the revision that it has now, and the pieces that were made."""

    job: int
    revision: int
    designs: list[str]


@router.get("/fonts")
def get_fonts() -> list[FontView]:
    """The fonts that ship, and the shop's own."""
    with transaction() as session:
        own = fonts.all_of(session)
    ship = [
        FontView(key=key, name=name, own=False, rights="free (OFL)", letters=0)
        for key, name in TITLES.items()
    ]
    return ship + [
        FontView(key=f.key, name=f.name, own=True, rights=f.rights, letters=f.letters) for f in own
    ]


@router.post("/fonts", status_code=201)
def post_font(file: UploadFile) -> list[FontView]:
    """Take in a font: TTF, OTF or WOFF2."""
    try:
        own_fonts.take_in(file.file.read(MOST_BYTES + 1))
    except FontRefused as error:
        raise Problem(422, "The font was not added.", str(error)) from error
    except TooManyFonts as error:
        raise Problem(409, "The shop has 200 fonts already.", "Remove one that is not used.") from error
    return get_fonts()


@router.delete("/fonts/{key}")
def delete_font(key: Annotated[str, Path(pattern=r"^[0-9a-f]{64}$")]) -> list[FontView]:
    """Take a font of the shop's own away. Pieces keep the letters they were drawn with."""
    try:
        with transaction() as session:
            fonts.remove(session, key)
    except UnknownFont as error:
        raise Problem(404, "The shop has no such font.", "Somebody has removed it already.") from error
    return get_fonts()


@router.post("/compose")
def post_compose(recipe: CompositionRecipe) -> ComposedView:
    """Where the parts of a composition go. Nothing is kept."""
    try:
        composed = composing.compose(recipe)
    except CannotCompose as error:
        raise _cannot(error) from error
    views = []
    for part in (*composed.placed.grounds, *composed.placed.parts):
        matrix = part.picture
        views.append(
            PlacedView(
                number=part.number,
                box=_box(part.ink.bounds),
                path=composing.path_data(part),
                pattern=composing.pattern_data(recipe, part),
                matrix=None
                if matrix is None
                else (matrix[0, 0], matrix[1, 0], matrix[0, 1], matrix[1, 1], matrix[0, 2], matrix[1, 2]),
                whole=None if part.source is None else part.source.whole,
                closed=part.closed,
            )
        )
    return ComposedView(
        parts=views,
        box=composed.box_mm,
        longest_mm=composing.longest_mm(recipe, composed),
        pieces=composed.loose,
        lacking=composed.lacking,
        small=list(composed.small),
    )


def _box(bounds: tuple[float, ...]) -> tuple[float, float, float, float]:
    left, top, right, bottom = (0.0 if side != side else float(side) for side in bounds)
    return left, top, right, bottom


@router.get("/artwork/{sha256}/composition")
def get_composition(sha256: Sha256) -> CompositionRecipe | None:
    """What a picture was composed of; null for one that came otherwise."""
    return composing.composition_of(sha256)


@router.get("/jobs/{job_id}/designs/{design}/part")
def get_part(job_id: int, design: str) -> PicturePart:
    """A piece's picture as a part of a composition."""
    with transaction() as session:
        recipe = jobs.recipe(session, jobs.get(session, job_id))
    found = next((each for each in recipe.designs if each.id == design), None)
    if found is None:
        raise Problem(404, "This job has no such piece.", "Choose one of its pieces.")
    return composing.part_of(found)


@router.post("/jobs/{job_id}/compose", status_code=201)
def post_job_compose(job_id: int, wanted: IntoJob) -> ComposedJob:
    """Make a piece of several things and put it into a job; with names a piece for each of them."""
    try:
        job, designs = composing.put_into_job(job_id, wanted.design, wanted.composition, wanted.names)
    except CannotCompose as error:
        raise _cannot(error) from error
    return ComposedJob(job=job.id, revision=job.revision, designs=designs)


def _cannot(error: CannotCompose) -> Problem:
    return Problem(422, "This piece cannot be made.", str(error))
