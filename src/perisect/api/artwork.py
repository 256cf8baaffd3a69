"""Station 1: pictures in."""

from fastapi import APIRouter, Response, UploadFile

from perisect.api.views import ArtworkView
from perisect.core.artwork.decode import MAX_BYTES
from perisect.store import artwork as store
from perisect.tasks.artwork import take_in

router = APIRouter(prefix="/api/artwork", tags=["artwork"])


@router.post("")
def post_artwork(file: UploadFile) -> ArtworkView:
    """Take in one picture. The same bytes again give the same answer."""
    # One byte more than allowed is enough to refuse it.
    data = file.file.read(MAX_BYTES + 1)
    sha256, traced = take_in(data)
    return ArtworkView(
        sha256=sha256,
        width_px=traced.facts.width_px,
        height_px=traced.facts.height_px,
        background=traced.facts.background.value,
        outline_box_px=traced.outline.box_px,
    )


@router.get("/{sha256}/preview.png", response_class=Response)
def get_preview(sha256: str) -> Response:
    """The picture, small enough for the screen."""
    for_ever = {"Cache-Control": "public, max-age=31536000, immutable"}
    return Response(store.preview(sha256), media_type="image/png", headers=for_ever)
