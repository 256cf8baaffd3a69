"""Apply a mend to a picture."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.background import Judged
from perisect.core.artwork.errors import ArtworkError
from perisect.core.artwork.frame import framed
from perisect.core.artwork.pieces import only_piece
from perisect.core.artwork.recipe import MendRecipe
from perisect.core.artwork.remove import Island, Removed, remove_checker, remove_plain
from perisect.core.artwork.specks import without_specks

THIN_SLIVER_PX = 6.0
"""An island narrower than this is a sliver the knife would have to cut: it is better kept."""


@dataclass(frozen=True)
class Mended:
    """The picture as mended, and the enclosed patches of background colour in it."""

    rgba: NDArray[np.uint8]
    islands: tuple[Island, ...]


def mend(rgba: NDArray[np.uint8], judged: Judged, recipe: MendRecipe) -> Mended:
    """Background away, then all but one piece of a page, then specks, then the frame.

    Args:
        rgba: (h, w, 4) as decoded.
        judged: the verdict on it, which knows the colour or the pattern to remove.

    Raises:
        ArtworkError: the recipe removes what the picture does not have.
    """
    islands: tuple[Island, ...] = ()
    if recipe.background != "as_is":
        removed = _removed(rgba, judged, recipe)
        rgba, islands = removed.rgba, removed.islands
    if recipe.piece is not None:
        rgba = only_piece(rgba, *recipe.piece)
    if recipe.specks_px2 > 0:
        rgba = without_specks(rgba, recipe.specks_px2)
    if recipe.frame is not None:
        rgba = framed(rgba, recipe.frame)
    return Mended(rgba, islands)


def _removed(rgba: NDArray[np.uint8], judged: Judged, recipe: MendRecipe) -> Removed:
    if recipe.background == "plain" and judged.colour is not None:
        return remove_plain(rgba, judged.colour, recipe.tolerance, recipe.knock_out)
    if recipe.background == "checkerboard" and judged.checker is not None:
        return remove_checker(rgba, judged.checker, recipe.tolerance + 2, recipe.knock_out, recipe.keep)
    raise ArtworkError(
        f"This picture has no {recipe.background} background.", "Leave its background as it is, or frame it."
    )
