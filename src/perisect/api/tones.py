"""Tone of a printer, a stock and a quality: what is done to colours on the way to paper."""

from typing import Annotated

from fastapi import APIRouter, Depends, Query, Response, UploadFile
from pydantic import BaseModel, Field, ValidationError

from perisect import sandbox
from perisect.api.problems import Problem
from perisect.core.artwork import ToneRecipe, decode_rgba
from perisect.core.artwork.tone import read_profile
from perisect.core.job.recipe import Sha256
from perisect.core.prepress.cmyk import is_cmyk
from perisect.core.prepress.tone_strip import strip_pdf, strip_tones
from perisect.core.sheet import Stock
from perisect.core.sheet.equipment import EquipmentId
from perisect.core.sheet.recipe import Quality
from perisect.core.sheet.shop_records import StockRecord
from perisect.services.trials import share_beyond, tone_png
from perisect.store import artwork, equipment, tones
from perisect.store.database import transaction
from perisect.store.tones import ToneKey

router = APIRouter(prefix="/api/tones/{printer}/{stock}/{quality}", tags=["tones"])


def _key(printer: EquipmentId, stock: EquipmentId, quality: Quality) -> ToneKey:
    return ToneKey(printer, stock, quality)


Key = Annotated[ToneKey, Depends(_key)]
Points = Annotated[str, Field(max_length=80, pattern=r"^(\d{1,3},\d{1,3}(;\d{1,3},\d{1,3})*)?$")]
MAX_PROFILE = 20_000_000


class ToneView(BaseModel):
    """A tone, the name of its profile, and the variants of its strip."""

    printer: str
    stock: str
    quality: str
    tone: ToneRecipe
    profile_name: str | None
    patches: list[str]


class GamutView(BaseModel):
    """What share of a picture's colours cannot be printed, 0 to 1; whether the profile is one of four inks, so that a
    print shop is given its file in these."""

    share_beyond: float
    is_cmyk: bool


class Patch(BaseModel):
    """The patch of the strip that looks best, from 1."""

    number: Annotated[int, Field(ge=1, le=12)]


@router.get("")
def get_tone(key: Key) -> ToneView:
    """How colours are printed."""
    with transaction() as session:
        kept = tones.get(session, key)
    patches = [tone.describe() for tone in strip_tones(kept.tone)]
    return ToneView(
        printer=key.printer,
        stock=key.stock,
        quality=key.quality,
        tone=kept.tone,
        profile_name=kept.profile_name,
        patches=patches,
    )


@router.put("")
def put_tone(key: Key, tone: ToneRecipe) -> ToneView:
    """Set a tone."""
    with transaction() as session:
        tones.save(session, key, tone)
    return get_tone(key)


@router.post("/patch")
def post_patch(key: Key, best: Patch) -> ToneView:
    """Set a tone to that of the best patch of its printed strip."""
    return put_tone(key, strip_tones(get_tone(key).tone)[best.number - 1])


@router.put("/profile")
def put_profile(key: Key, file: UploadFile) -> ToneView:
    """Load the ICC profile that proofs are made with."""
    data = file.file.read(MAX_PROFILE + 1)
    if len(data) > MAX_PROFILE:
        raise Problem(
            413, "The profile is larger than 20 MB.", "Choose the ICC file that came with the stock."
        )
    # Strangers' bytes, in a process with limits.
    name = sandbox.call(read_profile, data, kind=sandbox.work.PROFILE)[:200]
    with transaction() as session:
        tones.save_profile(session, key, data, name)
    return get_tone(key)


@router.delete("/profile")
def delete_profile(key: Key) -> ToneView:
    """Make no proofs."""
    with transaction() as session:
        tones.save_profile(session, key, None, None)
    return get_tone(key)


@router.get("/proof/{picture}.png", response_class=Response)
def get_proof(
    key: Key,
    picture: Sha256,
    brightness: int = 0,
    contrast: int = 0,
    saturation: int = 0,
    curve: Points = "",
    proof: Annotated[bool, Query(description="As the profile shows it")] = False,
    gamut: Annotated[bool, Query(description="What it cannot print struck through")] = False,
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
            profile = tones.get(session, key).profile()
    return Response(
        tone_png(picture, tone, profile, gamut),
        media_type="image/png",
        headers={"Cache-Control": "private, max-age=60"},
    )


@router.get("/gamut/{picture}")
def get_gamut(key: Key, picture: Sha256) -> GamutView:
    """What share of a picture is beyond what the printer can print, by its profile."""
    with transaction() as session:
        kept = tones.get(session, key)
    profile = kept.profile()
    if profile is None:
        raise Problem(409, "There is no colour profile yet.", "Load the ICC file that came with the stock.")
    return GamutView(share_beyond=share_beyond(picture, kept.tone, profile), is_cmyk=is_cmyk(profile))


@router.get("/strip/{picture}.pdf", response_class=Response)
def get_strip(key: Key, picture: Sha256) -> Response:
    """The tone strip of a stock: a picture in twelve labelled variants, to print and choose from."""
    pdf = strip_pdf(decode_rgba(artwork.preview(picture)), _size(key.stock), get_tone(key).tone)
    name = f'attachment; filename="tone-strip-{key.stock}.pdf"'
    return Response(pdf, media_type="application/pdf", headers={"Content-Disposition": name})


def _size(stock: str) -> Stock:
    with transaction() as session:
        found = equipment.one_of(session, "stock", StockRecord, stock)
    return found.panel(min(found.height_mm, 420.0))
