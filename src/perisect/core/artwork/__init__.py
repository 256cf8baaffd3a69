"""Station 1: pictures, their pixels and their background."""

from perisect.core.artwork.background import Judged, Verdict, judge
from perisect.core.artwork.decode import Decoded, decode, decode_rgba, read_header
from perisect.core.artwork.errors import ArtworkError
from perisect.core.artwork.mend import Mended, mend
from perisect.core.artwork.picture import Background, PictureFacts, describe
from perisect.core.artwork.recipe import (
    BackingRecipe,
    CropRecipe,
    FrameRecipe,
    MendRecipe,
    SplitRecipe,
    Stroke,
)
from perisect.core.artwork.tone import ToneRecipe

__all__ = [
    "ArtworkError",
    "Background",
    "BackingRecipe",
    "CropRecipe",
    "Decoded",
    "FrameRecipe",
    "Judged",
    "MendRecipe",
    "Mended",
    "PictureFacts",
    "SplitRecipe",
    "Stroke",
    "ToneRecipe",
    "Verdict",
    "decode",
    "decode_rgba",
    "describe",
    "judge",
    "mend",
    "read_header",
]
