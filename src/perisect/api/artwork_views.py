"""What the API says of a picture."""

from typing import Literal

from pydantic import BaseModel

from perisect.core.artwork import Verdict
from perisect.core.artwork.kind import ArtKind
from perisect.core.artwork.mend import THIN_SLIVER_PX
from perisect.core.artwork.pieces import Piece
from perisect.core.job import TracedArtwork


class LoosePartView(BaseModel):
    """A loose piece of the art: area and middle in px of the picture as it came, and what names it."""

    area_px: float
    x_px: float
    y_px: float
    place: tuple[int, int]


class IslandView(BaseModel):
    """An enclosed patch of background colour, px of the picture as it came."""

    area_px: float
    place: tuple[int, int]
    thin: bool


class PieceView(BaseModel):
    """One drawing of a page, px of the picture as it came."""

    left_px: int
    top_px: int
    width_px: int
    height_px: int
    place: tuple[int, int]


class ArtworkView(BaseModel):
    """A picture as mended: `outline_box_px` is left, top, right, bottom of the traced outline.

    `picture` names its preview. `tolerance` is what was measured on it for taking its background away, None where that
    was left; `shadow` whether a soft one lay on it. The verdict is on the picture as it came. Places of islands, loose
    parts (before specks are removed) and pieces are in px of the picture as it came; such a place is shown at
    ((x, y) - `origin_px`) * `scale` of the picture as mended.
    """

    sha256: str
    picture: str
    verdict: Verdict
    reason: str
    confidence: float
    tolerance: float | None
    shadow: bool
    notes: list[str]
    islands: list[IslandView]
    loose: list[LoosePartView]
    pieces: list[PieceView]
    pages: int
    kind: ArtKind
    in_curves: bool
    held_line: str
    """Name of the cut line that the drawing held already, empty for none."""
    origin_px: tuple[float, float]
    scale: tuple[float, float]
    came_px: tuple[int, int]
    width_px: int
    height_px: int
    background: Literal["clear", "opaque", "empty"]
    outline_box_px: tuple[float, float, float, float]
    own_mm: tuple[float, float] | None
    """Width and height of the outline at the size that the file says, where it says one that can be believed."""


def artwork_view(sha256: str, picture: str, traced: TracedArtwork) -> ArtworkView:
    """A picture for the screen."""
    return ArtworkView(
        sha256=sha256,
        picture=picture,
        verdict=traced.judged.verdict,
        reason=traced.judged.reason,
        tolerance=traced.tolerance,
        shadow=traced.shadow,
        notes=list(traced.notes),
        confidence=round(traced.judged.confidence, 3),
        islands=[
            IslandView(area_px=i.area_px, place=(i.x_px, i.y_px), thin=i.width_px < THIN_SLIVER_PX)
            for i in traced.islands
        ],
        loose=[
            LoosePartView(area_px=p.area_px, x_px=p.x_px, y_px=p.y_px, place=p.place) for p in traced.loose
        ],
        pieces=[piece_view(piece) for piece in traced.pieces],
        pages=traced.pages,
        kind=traced.kind,
        in_curves=traced.in_curves,
        held_line=traced.held_line,
        origin_px=traced.origin_px,
        scale=traced.scale,
        came_px=traced.came_px,
        width_px=traced.facts.width_px,
        height_px=traced.facts.height_px,
        background=traced.facts.background.value,
        outline_box_px=traced.outline.box_px,
        own_mm=traced.own_mm,
    )


def piece_view(piece: Piece) -> PieceView:
    """A drawing of a page for the screen."""
    return PieceView(
        left_px=piece.left_px,
        top_px=piece.top_px,
        width_px=piece.width_px,
        height_px=piece.height_px,
        place=(piece.x_px, piece.y_px),
    )
