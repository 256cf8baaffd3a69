"""Station 1: pictures, their pixels and their background."""

from perisect.core.artwork.background import Judged, Verdict, judge
from perisect.core.artwork.decode import Decoded, decode, decode_rgba, read_header
from perisect.core.artwork.errors import ArtworkError
from perisect.core.artwork.mend import Mended, mend
from perisect.core.artwork.picture import Background, PictureFacts, describe
from perisect.core.artwork.recipe import FrameRecipe, MendRecipe

__all__ = [
    "ArtworkError",
    "Background",
    "Decoded",
    "FrameRecipe",
    "Judged",
    "MendRecipe",
    "Mended",
    "PictureFacts",
    "Verdict",
    "decode",
    "decode_rgba",
    "describe",
    "judge",
    "mend",
    "read_header",
]
