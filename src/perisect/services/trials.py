"""What a picture would look like, small and quick, while a slider moves. Nothing is kept."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork import (
    ArtworkError,
    MendRecipe,
    SplitRecipe,
    ToneRecipe,
    Verdict,
    decode_rgba,
    mend,
)
from perisect.core.artwork.pieces import Piece, find_pieces
from perisect.core.artwork.preview import as_png, shrunk
from perisect.core.artwork.tone import proofed, toned
from perisect.store import artwork as store

TRIAL_PX = 520
"""A picture reduced so far answers while a slider moves."""

MOST_SQUARES_PX = 4_000_000


@lru_cache(maxsize=16)
def _small(picture: str) -> NDArray[np.uint8]:
    return shrunk(decode_rgba(store.preview(picture)), TRIAL_PX)


@lru_cache(maxsize=4)
def _shown(picture: str) -> NDArray[np.uint8]:
    return decode_rgba(store.preview(picture))


@lru_cache(maxsize=2)
def _whole(sha256: str) -> NDArray[np.uint8]:
    return decode_rgba(store.original(sha256))


def tolerance_png(sha256: str, tolerance: float) -> bytes:
    """PNG of a picture without its background at a tolerance.

    Raises:
        UnknownArtwork: none under this hash.
        ArtworkError: its background cannot be removed, or it is a checkerboard in a picture too large to be quick.
    """
    traced = store.traced(sha256)
    judged = traced.judged
    if judged.verdict is not Verdict.CHECKERBOARD:
        recipe = MendRecipe(background="plain", tolerance=tolerance)
        return as_png(mend(_small(sha256), judged, recipe).rgba)
    # Squares are found again only where they lie to the pixel.
    if traced.came_px[0] * traced.came_px[1] > MOST_SQUARES_PX:
        raise ArtworkError("This picture is too large to try a tolerance on.", "Let the slider go to see it.")
    recipe = MendRecipe(background="checkerboard", tolerance=tolerance)
    return as_png(shrunk(mend(_whole(sha256), judged, recipe).rgba, TRIAL_PX))


def tone_png(picture: str, tone: ToneRecipe, profile: bytes | None) -> bytes:
    """PNG of a picture as mended through a tone and, with a profile, as that printer would show it.

    Raises:
        UnknownArtwork: none under this name.
    """
    rgba = toned(_small(picture), tone)
    return as_png(rgba if profile is None else proofed(rgba, profile))


def pieces(picture: str, split: SplitRecipe) -> tuple[Piece, ...]:
    """The drawings of a page at some limits, just as splitting would find them.

    Raises:
        UnknownArtwork: none under this name.
    """
    facts = store.traced(picture).facts
    return find_pieces(_shown(picture), split, max(facts.width_px, facts.height_px))
