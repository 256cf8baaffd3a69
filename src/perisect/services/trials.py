"""What a picture would look like, small and quick, while a slider moves. Nothing is kept."""

from functools import lru_cache, partial

import numpy as np
from numpy.typing import NDArray

from perisect import sandbox
from perisect.core.artwork import (
    ArtworkError,
    MendRecipe,
    SplitRecipe,
    ToneRecipe,
    Verdict,
    decode_rgba,
    mend,
)
from perisect.core.artwork.palette import Swatch, palette_of, recoloured
from perisect.core.artwork.pieces import Piece, find_pieces
from perisect.core.artwork.preview import as_png, shrunk
from perisect.core.artwork.recipe import RecolourRecipe, SubjectRecipe
from perisect.core.artwork.subject import TRIAL_PX as SUBJECT_PX
from perisect.core.artwork.subject import subject_trial
from perisect.core.artwork.tone import beyond, hatched, proofed, toned
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
    return sandbox.call(decode_rgba, store.original(sha256))


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
        raise ArtworkError(
            "This picture is too large to try a tolerance on.", "Release the slider to see it."
        )
    recipe = MendRecipe(background="checkerboard", tolerance=tolerance)
    return as_png(shrunk(mend(_whole(sha256), judged, recipe).rgba, TRIAL_PX))


def subject_png(sha256: str, recipe: SubjectRecipe) -> bytes:
    """PNG of what would go when a subject is cut out: a veil over all but the subject, at once while it is marked.

    Raises:
        UnknownArtwork: none under this hash.
    """
    small, shrink = _smaller(sha256)
    alpha = subject_trial(small, recipe, shrink)
    veil = np.zeros((*alpha.shape, 4), np.uint8)
    veil[..., :3], veil[..., 3] = VEIL, np.where(alpha > 127, 0, 190)
    return as_png(veil)


VEIL = (22, 33, 31)


@lru_cache(maxsize=8)
def _smaller(sha256: str) -> tuple[NDArray[np.uint8], float]:
    """A picture as it came, so small that a graph in it is cut at once, and by how much it was reduced."""
    small = shrunk(decode_rgba(store.preview(sha256)), SUBJECT_PX)
    came = store.traced(sha256).came_px
    return np.ascontiguousarray(small[..., :3]), small.shape[1] / came[0]


def palette(picture: str) -> list[Swatch]:
    """The colours of a picture as mended, by area.

    Raises:
        UnknownArtwork: none under this name.
    """
    return palette_of(_small(picture))


def recoloured_png(picture: str, recipe: RecolourRecipe) -> bytes:
    """PNG of a picture as mended in other colours, small.

    Raises:
        UnknownArtwork: none under this name.
    """
    return as_png(recoloured(_small(picture), recipe))


def tone_png(picture: str, tone: ToneRecipe, profile: bytes | None, gamut: bool = False) -> bytes:
    """PNG of a picture as mended through a tone and, with a profile, as that printer would show it; with `gamut` what
    it cannot print is struck through.

    Raises:
        UnknownArtwork: none under this name.
    """
    rgba = toned(_small(picture), tone)
    if profile is None:
        return as_png(rgba)
    return sandbox.call(partial(_proof_png, rgba=rgba, gamut=gamut), profile, kind=sandbox.work.COLOURS)


def _proof_png(profile: bytes, rgba: NDArray[np.uint8], gamut: bool) -> bytes:
    """Return a PNG of (rows, columns, 4) `rgba` as a profile shows it. Runs in the sandbox."""
    shown = proofed(rgba, profile)
    return as_png(hatched(shown, beyond(rgba, profile)) if gamut else shown)


def share_beyond(picture: str, tone: ToneRecipe, profile: bytes) -> float:
    """What share of a picture as mended, through a tone, a printer cannot print, 0 to 1.

    Raises:
        UnknownArtwork: none under this name.
    """
    rgba = toned(_small(picture), tone)
    drawn = int((rgba[..., 3] > 0).sum())
    return (
        sandbox.call(partial(_pixels_beyond, rgba=rgba), profile, kind=sandbox.work.COLOURS) / drawn
        if drawn
        else 0.0
    )


def _pixels_beyond(profile: bytes, rgba: NDArray[np.uint8]) -> int:
    """Return how many pixels of (rows, columns, 4) `rgba` a profile's printer cannot print. Runs in the sandbox."""
    return int(beyond(rgba, profile).sum())


def pieces(picture: str, split: SplitRecipe) -> tuple[Piece, ...]:
    """The drawings of a page at some limits, just as splitting would find them.

    Raises:
        UnknownArtwork: none under this name.
    """
    facts = store.traced(picture).facts
    return find_pieces(_shown(picture), split, max(facts.width_px, facts.height_px))
