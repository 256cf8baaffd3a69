"""Tone per stock: what is done to colours on the way to the printer."""

from typing import Annotated

from fastapi import APIRouter, Query, Response, UploadFile
from pydantic import BaseModel, Field, ValidationError

from perisect.api.problems import Problem
from perisect.core.artwork import ToneRecipe, decode_rgba
from perisect.core.artwork.tone import read_profile
from perisect.core.prepress.strip import strip_pdf, strip_tones
from perisect.core.sheet import Stock
from perisect.core.sheet.shop import ThingId
from perisect.store import artwork, stock_tone, things
from perisect.store.database import transaction
from perisect.tasks.trial import tone_png

router = APIRouter(prefix="/api/stocks", tags=["stocks"])

StockName = ThingId
Points = Annotated[str, Field(max_length=80, pattern=r"^(\d{1,3},\d{1,3}(;\d{1,3},\d{1,3})*)?$")]
MAX_PROFILE = 20_000_000


class ToneView(BaseModel):
    """A stock's tone, the name of its profile, and the variants of its strip."""

    stock: StockName
    tone: ToneRecipe
    profile_name: str | None
    patches: list[str]


class Patch(BaseModel):
    """The patch of the strip that looks best, from 1."""

    number: Annotated[int, Field(ge=1, le=12)]


@router.get("/{stock}/tone")
def get_tone(stock: StockName) -> ToneView:
    """How colours are printed on a stock."""
    with transaction() as session:
        kept = stock_tone.of_stock(session, stock)
    patches = [tone.describe() for tone in strip_tones(kept.tone)]
    return ToneView(stock=stock, tone=kept.tone, profile_name=kept.profile_name, patches=patches)


@router.put("/{stock}/tone")
def put_tone(stock: StockName, tone: ToneRecipe) -> ToneView:
    """Set a stock's tone."""
    with transaction() as session:
        stock_tone.keep(session, stock, tone)
    return get_tone(stock)


@router.post("/{stock}/patch")
def post_patch(stock: StockName, best: Patch) -> ToneView:
    """Set a stock's tone to that of the best patch of its printed strip."""
    return put_tone(stock, strip_tones(get_tone(stock).tone)[best.number - 1])


@router.put("/{stock}/profile")
def put_profile(stock: StockName, file: UploadFile) -> ToneView:
    """Load the ICC profile that proofs are made with."""
    data = file.file.read(MAX_PROFILE + 1)
    if len(data) > MAX_PROFILE:
        raise Problem(
            413, "The profile is larger than 20 MB.", "Choose the ICC file that came with the stock."
        )
    name = read_profile(data)[:200]
    with transaction() as session:
        stock_tone.keep_profile(session, stock, data, name)
    return get_tone(stock)


@router.delete("/{stock}/profile")
def delete_profile(stock: StockName) -> ToneView:
    """Make no proofs for a stock."""
    with transaction() as session:
        stock_tone.keep_profile(session, stock, None, None)
    return get_tone(stock)


@router.get("/{stock}/proof/{picture}.png", response_class=Response)
def get_proof(
    stock: StockName,
    picture: str,
    brightness: int = 0,
    contrast: int = 0,
    saturation: int = 0,
    curve: Points = "",
    proof: Annotated[bool, Query(description="As the stock's profile shows it")] = False,
) -> Response:
    """A picture through a tone, small, while a slider moves; nothing is kept."""
    points = [tuple(map(int, point.split(","))) for point in curve.split(";") if point]
    try:
        tone = ToneRecipe.model_validate(
            {"brightness": brightness, "contrast": contrast, "saturation": saturation, "curve": points}
        )
    except ValidationError as error:
        raise Problem(422, "A value cannot be used.", error.errors()[0]["msg"]) from error
    profile = None
    if proof:
        with transaction() as session:
            profile = stock_tone.of_stock(session, stock).profile()
    return Response(
        tone_png(picture, tone, profile),
        media_type="image/png",
        headers={"Cache-Control": "private, max-age=60"},
    )


@router.get("/{stock}/strip/{picture}.pdf", response_class=Response)
def get_strip(stock: StockName, picture: str) -> Response:
    """The tone strip of a stock: a picture in twelve labelled variants, to print and choose from."""
    pdf = strip_pdf(decode_rgba(artwork.preview(picture)), _size(stock), get_tone(stock).tone)
    name = f'attachment; filename="tone-strip-{stock}.pdf"'
    return Response(pdf, media_type="application/pdf", headers={"Content-Disposition": name})


def _size(stock: str) -> Stock:
    with transaction() as session:
        found = things.stock(session, stock)
    if found is None:
        raise Problem(404, "The shop has no such stock.", "Choose one of its stocks.")
    return found.panel(min(found.height_mm, 420.0))
