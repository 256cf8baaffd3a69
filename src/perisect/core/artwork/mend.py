"""Apply a mend to a picture."""

from dataclasses import dataclass, replace
from typing import TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core import stage
from perisect.core.artwork.background import Judged
from perisect.core.artwork.brush import brushed
from perisect.core.artwork.decode import check_size
from perisect.core.artwork.doubts import Doubt
from perisect.core.artwork.enlarge import enlarged_flat
from perisect.core.artwork.errors import ArtworkError
from perisect.core.artwork.flood import Island
from perisect.core.artwork.frame import Framed, backed, framed
from perisect.core.artwork.palette import recoloured
from perisect.core.artwork.picture import alpha_of
from perisect.core.artwork.pieces import only_drawings
from perisect.core.artwork.recipe import CropRecipe, MendRecipe, Place
from perisect.core.artwork.remove import Removed, remove_checker, remove_picked, remove_plain
from perisect.core.artwork.specks import without_specks
from perisect.core.artwork.subject import cut_out
from perisect.core.stage import Report

THIN_SLIVER_PX = 6.0
"""An island narrower than this is a sliver the knife would have to cut: it is better kept."""


@dataclass(frozen=True)
class Mended:
    """The picture as mended, and what was found on the way.

    `art` is the picture before specks were taken from it and before it was cropped, framed and sized; its
    first pixel is `art_at` of the picture as it came, whose px islands are in. A pixel (x, y) of `rgba`
    shows what is at (x, y) / `scale` + `origin_px` of the picture as it came.
    """

    rgba: NDArray[np.uint8]
    art: NDArray[np.uint8]
    islands: tuple[Island, ...] = ()
    doubts: tuple[Doubt, ...] = ()
    origin_px: tuple[float, float] = (0.0, 0.0)
    scale: tuple[float, float] = (1.0, 1.0)
    art_at: tuple[int, int] = (0, 0)


@dataclass(frozen=True)
class PageArt:
    """A picture after all that is done before its drawings are told apart, and what its removal found.

    `tolerance` is what was measured on the picture, `shadow` whether a soft shadow lay on its background.
    """

    rgba: NDArray[np.uint8]
    islands: tuple[Island, ...] = ()
    doubts: tuple[Doubt, ...] = ()
    tolerance: float | None = None
    shadow: bool = False


def page_art(
    rgba: NDArray[np.uint8], judged: Judged, recipe: MendRecipe, report: Report = lambda _: None
) -> PageArt:
    """Background and picked colours away, then the brush: the same for every drawing of a page.

    Raises:
        ArtworkError: the recipe removes what the picture does not have.
    """
    original = rgba
    page = PageArt(rgba)
    if recipe.subject is not None:
        report(stage.SUBJECT)
        page = PageArt(cut_out(rgba, recipe.subject))
        rgba = page.rgba
    if recipe.background != "as_is":
        report(stage.REMOVING)
        removed = _removed(rgba, judged, recipe)
        page = PageArt(removed.rgba, removed.islands, removed.doubts, removed.tolerance, removed.shadow)
        rgba = page.rgba
    if recipe.picked:
        report(stage.COLOUR)
        rgba = remove_picked(rgba, recipe.picked, recipe.tolerance)
    return replace(page, rgba=brushed(rgba, original, recipe.strokes))


def mend(
    rgba: NDArray[np.uint8],
    judged: Judged,
    recipe: MendRecipe,
    longest_mm: float = 60.0,
    report: Report = lambda _: None,
    page: PageArt | None = None,
) -> Mended:
    """Background away, brush, the drawings of a page that are meant, specks; then crop, frame and size.

    Args:
        rgba: (h, w, 4) as decoded.
        judged: the verdict on it, which knows the colour or the pattern to remove.
        longest_mm: the size it is made at; only frames and backings, which are in mm, depend on it.
        report: hears what is being done.
        page: its `page_art`, where that was made for another drawing of the same page.

    Raises:
        ArtworkError: the recipe removes what the picture does not have, or leaves nothing of it.
    """
    page = page or page_art(rgba, judged, recipe, report)
    art, at = page.rgba, (0, 0)
    if recipe.drawings:
        art = only_drawings(art, recipe.drawings, recipe.split)
        if recipe.crop is None:
            art, at = _trimmed(art)
    rgba = art
    if recipe.specks_px2 > 0 or recipe.specks_gone:
        report(stage.SPECKS)
        kept, gone = (_moved_by(places, at) for places in (recipe.specks_kept, recipe.specks_gone))
        rgba = without_specks(rgba, recipe.specks_px2, kept, gone)
    islands, doubts = _within(page.islands, art, at), _within(page.doubts, art, at)
    mended = Mended(rgba, art, islands, doubts, (float(at[0]), float(at[1])), art_at=at)
    if recipe.crop is not None:
        mended = _cropped(mended, recipe.crop)
    if recipe.recolour is not None:
        report(stage.EXCHANGING)
        mended = replace(mended, rgba=recoloured(mended.rgba, recipe.recolour))
    if recipe.frame is not None or recipe.backing is not None:
        report(stage.FRAME)
        mended = _surrounded(mended, recipe, longest_mm)
    if recipe.enlarge > 1:
        report(stage.ENLARGING)
        mended = _enlarged(mended, recipe.enlarge, recipe.edges == "sharp")
    return mended


TRIM_PX = 3
"""Left round a drawing that is cut from its page: the trace and a printer's blending need a little room."""


def _trimmed(rgba: NDArray[np.uint8]) -> tuple[NDArray[np.uint8], tuple[int, int]]:
    """The part of a page that a drawing covers, and its place: the rest would be read and kept for nothing."""
    x, y, width, height = cv2.boundingRect(alpha_of(rgba))
    if width == 0:
        return rgba, (0, 0)
    left, top = max(0, x - TRIM_PX), max(0, y - TRIM_PX)
    part = rgba[top : y + height + TRIM_PX, left : x + width + TRIM_PX]
    return np.ascontiguousarray(part), (left, top)


def _moved_by(places: tuple[Place, ...], at: tuple[int, int]) -> tuple[Place, ...]:
    """Places of the picture as it came in px of a part of it; those beside the part are left out."""
    return tuple((x - at[0], y - at[1]) for x, y in places if x >= at[0] and y >= at[1])


_Placed = TypeVar("_Placed", Island, Doubt)


def _within(found: tuple[_Placed, ...], art: NDArray[np.uint8], at: tuple[int, int]) -> tuple[_Placed, ...]:
    """What lies in a part of the picture."""
    height, width = art.shape[:2]
    return tuple(i for i in found if 0 <= i.x_px - at[0] < width and 0 <= i.y_px - at[1] < height)


def _surrounded(mended: Mended, recipe: MendRecipe, longest_mm: float) -> Mended:
    if recipe.frame is not None:
        mended = _moved(mended, framed(mended.rgba, recipe.frame, longest_mm))
    if recipe.backing is not None:
        mended = _moved(mended, backed(mended.rgba, recipe.backing, longest_mm))
    return mended


def _moved(mended: Mended, done: Framed) -> Mended:
    x, y = mended.origin_px
    place = (x + done.left_px / mended.scale[0], y + done.top_px / mended.scale[1])
    return replace(mended, rgba=done.rgba, origin_px=place)


def _cropped(mended: Mended, crop: CropRecipe) -> Mended:
    height, width = mended.rgba.shape[:2]
    left, top = min(crop.left_px, width - 1), min(crop.top_px, height - 1)
    part = mended.rgba[top : min(top + crop.height_px, height), left : min(left + crop.width_px, width)]
    scale = (1.0, 1.0)
    if crop.stretch != 1:
        # Stretched by enlarging one side, so that no pixel is lost.
        scale = (1.0, crop.stretch) if crop.stretch > 1 else (1 / crop.stretch, 1.0)
        part = _resized(part, *scale)
    return replace(mended, rgba=np.ascontiguousarray(part), origin_px=(float(left), float(top)), scale=scale)


def _enlarged(mended: Mended, times: int, sharp: bool) -> Mended:
    x, y = mended.scale
    check_size(mended.rgba.shape[1] * times, mended.rgba.shape[0] * times)
    large = enlarged_flat(mended.rgba, times) if sharp else _resized(mended.rgba, times, times)
    return replace(mended, rgba=large, scale=(x * times, y * times))


def _resized(rgba: NDArray[np.uint8], across: float, along: float) -> NDArray[np.uint8]:
    """Enlarged by Lanczos (Duchon 1979), colours weighed by coverage so that no dark rim comes of it."""
    height, width = rgba.shape[:2]
    size = (max(1, round(width * across)), max(1, round(height * along)))
    check_size(*size)
    alpha = rgba[..., 3:].astype(np.float32) / 255
    weighed = np.concatenate([rgba[..., :3] * alpha, alpha * 255], axis=2, dtype=np.float32)
    large = np.asarray(cv2.resize(weighed, size, interpolation=cv2.INTER_LANCZOS4), np.float32)
    large[..., :3] /= np.maximum(large[..., 3:] / 255, 1 / 255)
    return np.clip(np.round(large), 0, 255).astype(np.uint8)


def _removed(rgba: NDArray[np.uint8], judged: Judged, recipe: MendRecipe) -> Removed:
    if recipe.background == "plain" and judged.ground is not None:
        return remove_plain(rgba, judged.ground, recipe.tolerance, recipe.knock_out, recipe.shadow)
    if recipe.background == "checkerboard" and judged.checker is not None:
        return remove_checker(rgba, judged.checker, recipe.tolerance, recipe.knock_out, recipe.keep)
    raise ArtworkError(
        f"This picture has no {recipe.background} background.", "Leave its background as it is, or frame it."
    )
