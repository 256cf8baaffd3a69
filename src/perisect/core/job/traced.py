"""A picture ready to be worked with: judged, mended and traced."""

from dataclasses import dataclass, replace

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core import stage
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
from perisect.core.artwork.advice import Edge, edge_of
from perisect.core.artwork.doubts import Doubt
from perisect.core.artwork.flood import Island
from perisect.core.artwork.held_line import HeldLine
from perisect.core.artwork.kind import ArtKind, kind_of_art
from perisect.core.artwork.mend import Mended, PageArt, page_art
from perisect.core.artwork.picture import alpha_of
from perisect.core.artwork.pieces import Piece, find_pieces
from perisect.core.artwork.recipe import SplitRecipe
from perisect.core.artwork.roles import cut_cover
from perisect.core.artwork.specks import LoosePart, loose_parts
from perisect.core.lines import Outline, trace
from perisect.core.stage import Report

UNMENDED = MendRecipe()


@dataclass(frozen=True)
class TracedArtwork:
    """A picture's facts and its outline: a pure function of its bytes, its mend and, with a frame, its size.

    `judged` is the verdict on the picture as it came; facts, outline, edge and kind are of the picture as
    mended. Islands, doubts, loose parts (before specks are removed) and pieces are in px of the picture as it
    came; its place (x, y) is shown at ((x, y) - `origin_px`) * `scale` of the picture as mended.
    """

    facts: PictureFacts
    outline: Outline
    judged: Judged
    islands: tuple[Island, ...] = ()
    doubts: tuple[Doubt, ...] = ()
    tolerance: float | None = None
    """What was measured for the removal of its background, where it was removed."""
    shadow: bool = False
    """Whether a soft shadow lay on the background that was removed."""
    loose: tuple[LoosePart, ...] = ()
    pieces: tuple[Piece, ...] = ()
    notes: tuple[str, ...] = ()
    pages: int = 1
    kind: ArtKind = ArtKind.DRAWING
    edge: Edge = Edge()
    origin_px: tuple[float, float] = (0.0, 0.0)
    scale: tuple[float, float] = (1.0, 1.0)
    came_px: tuple[int, int] = (0, 0)
    """Width and height of the picture as it came."""
    in_curves: bool = False
    """Whether it prints from a drawing's own curves, sharp at any size."""
    held_line: str = ""
    """Name of the cut line that a drawing held already; what it goes round is with the outline."""
    is_die: bool = False
    """Whether a drawing is lines for a plotter alone, so that nothing of it is printed."""
    undrawn: str = ""
    """What of a drawing may be meant otherwise than it was drawn."""
    mm_per_px: float | None = None
    """What a px of the picture as it came measures by its file, mm; none where it says none that can be believed."""

    def shown_at(self, x_px: float, y_px: float) -> tuple[float, float]:
        """A place of the picture as it came, in px of the picture as mended."""
        return (x_px - self.origin_px[0]) * self.scale[0], (y_px - self.origin_px[1]) * self.scale[1]

    @property
    def box_came_px(self) -> tuple[float, float, float, float]:
        """Left, top, right, bottom of the outline, px of the picture as it came."""
        left, top, right, bottom = self.outline.box_px
        (x, y), (across, along) = self.origin_px, self.scale
        return left / across + x, top / along + y, right / across + x, bottom / along + y

    @property
    def own_mm(self) -> tuple[float, float] | None:
        """Width and height of the outline at the size that the file says; a stretch makes it taller."""
        if self.mm_per_px is None:
            return None
        left, top, right, bottom = self.outline.box_px
        mm = self.mm_per_px / self.scale[0]
        return (right - left) * mm, (bottom - top) * mm

    def loose_left(self, recipe: MendRecipe) -> tuple[LoosePart, ...]:
        """The loose parts that a mend leaves."""
        return tuple(
            part
            for part in self.loose
            if part.place not in recipe.specks_gone
            and (part.area_px >= recipe.specks_px2 or part.place in recipe.specks_kept)
        )


@dataclass(frozen=True)
class Seen:
    """What is the same for every drawing of a page: the verdict on it, and the page without its background."""

    judged: Judged
    page: PageArt


def see(decoded: Decoded, recipe: MendRecipe, report: Report = lambda _: None) -> Seen:
    """Judge a picture and take its background away.

    Raises:
        ArtworkError: the mend does not apply.
    """
    report(stage.BACKGROUND)
    judged = judge(decoded.rgba)
    return Seen(judged, page_art(decoded.rgba, judged, recipe, report))


def trace_artwork(
    decoded: Decoded,
    recipe: MendRecipe = UNMENDED,
    longest_mm: float = 60.0,
    report: Report = lambda _: None,
    seen: Seen | None = None,
) -> tuple[TracedArtwork, NDArray[np.uint8]]:
    """Judge, mend and trace a picture; returns what was found and the (h, w, 4) picture as mended.

    Args:
        longest_mm: the size it is made at, which frames and backings need.
        report: hears what is being done.
        seen: what was found for another drawing of the same page.

    Raises:
        ArtworkError: nothing is left to cut, or the mend does not apply.
    """
    seen = seen or see(decoded, recipe, report)
    judged = seen.judged
    mended = mend(decoded.rgba, judged, recipe, longest_mm, report, seen.page)
    facts = describe(mended.rgba)
    if facts.background is Background.EMPTY:
        raise ArtworkError(
            "Every pixel of the picture is clear.",
            "There is nothing to cut. Check that its layer was visible."
            if recipe.is_nothing
            else "Undo the last change, or bring some of it back.",
        )
    report(stage.TRACING)
    shapes = decoded.shapes if recipe.leaves_shapes else None
    covers = _goes_round(decoded, recipe, mended)
    if decoded.cut_alpha is not None and not covers.any():
        raise ArtworkError(
            "All that is left is printed only.", "Undo the last change, or bring some of it back."
        )
    outline = trace(covers) if shapes is None else Outline(shapes.outline, 0)
    if outline.shape.is_empty:
        raise ArtworkError(
            "What is not clear is smaller than dust.", "There is nothing to cut. Export it larger."
        )
    whole = mended.rgba is mended.art
    many = not whole or len(outline.shape.geoms) + outline.specks > 1
    art_is_clear = cv2.countNonZero(alpha_of(mended.art)) < mended.art.shape[0] * mended.art.shape[1]
    at = mended.art_at
    loose = tuple(part.moved(*at) for part in loose_parts(mended.art)) if many and art_is_clear else ()
    pieces = (
        tuple(piece.moved(*at) for piece in find_pieces(mended.art, _apart(recipe)))
        if many and art_is_clear
        else ()
    )
    if decoded.held is not None:
        outline = _with_held(outline, decoded.held, mended.origin_px, mended.scale)
    traced = TracedArtwork(
        facts,
        outline,
        judged,
        mended.islands,
        mended.doubts,
        seen.page.tolerance,
        seen.page.shadow,
        loose,
        pieces,
        decoded.notes,
        decoded.pages,
        kind_of_art(mended.art),
        edge_of(mended.art),
        mended.origin_px,
        mended.scale,
        (decoded.rgba.shape[1], decoded.rgba.shape[0]),
        shapes is not None and shapes.paths is not None,
        decoded.held.name if decoded.held is not None and not outline.held.is_empty else "",
        decoded.held is not None and decoded.held.alone,
        decoded.undrawn,
        decoded.mm_per_px,
    )
    return traced, mended.rgba


def _goes_round(decoded: Decoded, recipe: MendRecipe, mended: Mended) -> NDArray[np.uint8]:
    """(h, w) coverage of what the outline goes round: of a piece of several things some is printed only."""
    if decoded.cut_alpha is None or recipe.frame is not None or recipe.backing is not None:
        return alpha_of(mended.rgba)
    if recipe.leaves_shapes:
        return decoded.cut_alpha
    return cut_cover(decoded.rgba, decoded.cut_alpha, mended)


def _with_held(
    outline: Outline, held: HeldLine, origin_px: tuple[float, float], scale: tuple[float, float]
) -> Outline:
    """The outline with what the lines of the drawing's own go round, px of the picture as mended, and the lines beside
    them; of a page of many drawings only those that meet this one."""

    def moved(shape: shapely.Geometry) -> shapely.Geometry:
        return shapely.transform(shape, lambda xy: (xy - origin_px) * scale)

    parts = shapely.get_parts(moved(trace(held.area).shape if held.shape is None else held.shape))
    mine = parts[shapely.intersects(parts, outline.shape)]
    lines = [(each.process, moved(shapely.linestrings(each.points))) for each in held.further]
    # A line round the piece meets it no more than the piece lies within it.
    beside = tuple((process, line) for process, line in lines if line.convex_hull.intersects(outline.shape))
    return replace(outline, held=shapely.multipolygons(mine), beside=beside)


def _apart(recipe: MendRecipe) -> SplitRecipe:
    """How the pieces of a picture are told apart: drawings already taken from a page, by any gap at all."""
    return recipe.split.model_copy(update={"joining_px": 0.0}) if recipe.drawings else recipe.split
