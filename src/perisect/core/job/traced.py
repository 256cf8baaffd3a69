"""A picture ready to be worked with: judged, mended and traced."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork import (
    ArtworkError,
    Background,
    Decoded,
    Judged,
    MendRecipe,
    PictureFacts,
    describe,
    judge,
    mend,
)
from perisect.core.artwork.picture import alpha_of
from perisect.core.artwork.pieces import Piece, find_pieces
from perisect.core.artwork.remove import Island
from perisect.core.artwork.specks import LoosePart, loose_parts
from perisect.core.lines import Outline, trace

UNMENDED = MendRecipe()


@dataclass(frozen=True)
class TracedArtwork:
    """A picture's facts and its outline: a pure function of its bytes and its mend.

    `judged` is the verdict on the picture as it came; the rest is of the picture as mended.
    """

    facts: PictureFacts
    outline: Outline
    judged: Judged
    islands: tuple[Island, ...] = ()
    loose: tuple[LoosePart, ...] = ()
    pieces: tuple[Piece, ...] = ()
    notes: tuple[str, ...] = ()


def trace_artwork(decoded: Decoded, recipe: MendRecipe = UNMENDED) -> tuple[TracedArtwork, NDArray[np.uint8]]:
    """Judge, mend and trace a picture; returns what was found and the (h, w, 4) picture as mended.

    Raises:
        ArtworkError: nothing is left to cut, or the mend does not apply.
    """
    judged = judge(decoded.rgba)
    mended = mend(decoded.rgba, judged, recipe)
    facts = describe(mended.rgba)
    if facts.background is Background.EMPTY:
        raise ArtworkError(
            "Every pixel of the picture is clear.",
            "There is nothing to cut. Check that its layer was visible.",
        )
    outline = trace(alpha_of(mended.rgba))
    if outline.shape.is_empty:
        raise ArtworkError(
            "What is not clear is smaller than dust.", "There is nothing to cut. Export it larger."
        )
    many = len(outline.shape.geoms) + outline.specks > 1
    loose = loose_parts(mended.rgba) if many else ()
    pieces = find_pieces(mended.rgba) if many and recipe.piece is None else ()
    return TracedArtwork(facts, outline, judged, mended.islands, loose, pieces, decoded.notes), mended.rgba
