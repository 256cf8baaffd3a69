"""Station 1: pictures in."""

from typing import Annotated

from fastapi import APIRouter, Query, Response, UploadFile
from pydantic import BaseModel

from perisect.api.artwork_views import ArtworkView, PieceView, artwork_view, piece_view
from perisect.core.artwork import SplitRecipe
from perisect.core.artwork.decode import MAX_BYTES
from perisect.core.artwork.recipe import RecolourRecipe, SubjectRecipe, Tolerance
from perisect.core.job.recipe import Sha256
from perisect.services.pictures import take_in
from perisect.services.trials import palette, pieces, recoloured_png, subject_png, tolerance_png
from perisect.store import artwork as store

router = APIRouter(prefix="/api/artwork", tags=["artwork"])


@router.post("")
def post_artwork(file: UploadFile) -> ArtworkView:
    """Take in one picture without a job. The same bytes again give the same answer."""
    # One byte more than allowed is enough to refuse it.
    data = file.file.read(MAX_BYTES + 1)
    sha256, traced = take_in(data)
    return artwork_view(sha256, sha256, traced)


@router.get("/{picture}/preview.png", response_class=Response)
def get_preview(picture: Sha256) -> Response:
    """The picture, as it came or as mended, small enough for the screen."""
    for_ever = {"Cache-Control": "private, max-age=31536000, immutable"}
    return Response(store.preview(picture), media_type="image/png", headers=for_ever)


@router.get("/{sha256}/trial.png", response_class=Response)
def get_trial(sha256: Sha256, tolerance: Tolerance) -> Response:
    """The picture without its background at a tolerance, small, while a slider moves."""
    return Response(
        tolerance_png(sha256, tolerance),
        media_type="image/png",
        headers={"Cache-Control": "private, max-age=600"},
    )


@router.post("/{sha256}/subject.png", response_class=Response)
def post_subject(sha256: Sha256, recipe: SubjectRecipe) -> Response:
    """What would go when a subject is cut out so, as a veil over the picture as it came."""
    return Response(subject_png(sha256, recipe), media_type="image/png")


class SwatchView(BaseModel):
    """A colour of a picture, and its share of what is covered."""

    colour: str
    share: float


@router.get("/{picture}/palette")
def get_palette(picture: Sha256) -> list[SwatchView]:
    """The colours of a picture as mended, the largest first."""
    return [SwatchView(colour=each.colour, share=each.share) for each in palette(picture)]


@router.post("/{picture}/recoloured.png", response_class=Response)
def post_recoloured(picture: Sha256, recipe: RecolourRecipe) -> Response:
    """A picture as mended in other colours, small, while they are chosen."""
    return Response(recoloured_png(picture, recipe), media_type="image/png")


@router.get("/{picture}/pieces")
def get_pieces(picture: Sha256, limits: Annotated[SplitRecipe, Query()]) -> list[PieceView]:
    """The drawings of a page at some limits (px of the page), while a slider moves."""
    return [piece_view(piece) for piece in pieces(picture, limits)]
