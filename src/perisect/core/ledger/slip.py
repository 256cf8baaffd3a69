"""Slip: how far each cut lies from where the printed art wanted it."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.cutting.error_map import VISIBLE_MM
from perisect.core.ledger.scan import ScannedSheet


@dataclass(frozen=True)
class WantedSticker:
    """One sticker of the sheet: its kiss line and that line's box as drawn, in sheet mm."""

    design: str
    box_mm: tuple[float, float, float, float]
    kiss: shapely.MultiLineString
    border_mm: float
    strokes: tuple[int, ...]
    """Which of the run's strokes cut its kiss line."""


@dataclass(frozen=True)
class StickerSlip:
    """Measured at one sticker. `dx_mm`, `dy_mm`: the shift that takes the wanted line to the cut. `good`: within its
    border."""

    design: str
    x_mm: float
    y_mm: float
    slip_mm: float
    dx_mm: float
    dy_mm: float
    limit_mm: float
    good: bool


@dataclass(frozen=True)
class SlipReport:
    """All stickers that were cut whole; `uncut` is how many were not."""

    stickers: tuple[StickerSlip, ...]
    uncut: int

    @property
    def largest_mm(self) -> float:
        """Largest slip; 0 when nothing was cut."""
        return max((s.slip_mm for s in self.stickers), default=0.0)

    @property
    def mean_mm(self) -> float:
        """Mean slip; 0 when nothing was cut."""
        return float(np.mean([s.slip_mm for s in self.stickers])) if self.stickers else 0.0

    @property
    def rms_mm(self) -> float:
        """Root mean square slip; 0 when nothing was cut."""
        return float(np.sqrt(np.mean([s.slip_mm**2 for s in self.stickers]))) if self.stickers else 0.0

    @property
    def good(self) -> int:
        """Stickers whose slip stays within their border."""
        return sum(s.good for s in self.stickers)


def measure_slip(
    printed: ScannedSheet,
    drawn: NDArray[np.uint8],
    wanted: Sequence[WantedSticker],
    cuts_mm: Sequence[NDArray[np.float64]],
) -> SlipReport:
    """Slip of every sticker.

    Args:
        printed: the printed sheet, its marks found.
        drawn: (h, w) grey picture of the print file at the same scale.
        wanted: the stickers as drawn.
        cuts_mm: (n, 2) paths of the knife's tip on the sheet, one a stroke, sheet mm.
    """
    measured = []
    uncut = 0
    for sticker in wanted:
        if any(stroke >= len(cuts_mm) for stroke in sticker.strokes):
            uncut += 1
            continue
        cuts = [cuts_mm[stroke] for stroke in sticker.strokes]
        measured.append(_sticker_slip(printed, drawn, sticker, cuts))
    return SlipReport(tuple(measured), uncut)


def _sticker_slip(
    printed: ScannedSheet, drawn: NDArray[np.uint8], sticker: WantedSticker, cuts: list[NDArray[np.float64]]
) -> StickerSlip:
    affine = printed.drawn_to_printed
    shift = np.array(printed.local_shift(drawn, sticker.box_mm)) + affine[:, 2]
    line = shapely.transform(sticker.kiss, lambda xy: xy @ affine[:, :2].T + shift)
    cut = _Segments(cuts)
    tips = np.vstack(cuts)
    wanted_points = shapely.get_coordinates(shapely.segmentize(line, 0.5))
    off_line = tips - _Segments(map(shapely.get_coordinates, shapely.get_parts(line))).nearest(tips)
    off_cut = wanted_points - cut.nearest(wanted_points)
    slip = float(max(np.hypot(*off_line.T).max(), np.hypot(*off_cut.T).max()))
    dx, dy = _shift(line, cut)
    limit = sticker.border_mm if sticker.border_mm > 0 else VISIBLE_MM
    left, top, right, bottom = sticker.box_mm
    return StickerSlip(
        design=sticker.design,
        x_mm=(left + right) / 2,
        y_mm=(top + bottom) / 2,
        slip_mm=slip,
        dx_mm=float(dx),
        dy_mm=float(dy),
        limit_mm=limit,
        good=slip <= limit,
    )


class _Segments:
    """The segments of some paths, (n, 2) each, in a tree: a line of a few thousand points is asked by as many."""

    def __init__(self, paths: Iterable[NDArray[np.float64]]) -> None:
        ends = np.vstack([np.stack([path[:-1], path[1:]], axis=1) for path in paths])
        self._begin, self._way = ends[:, 0], ends[:, 1] - ends[:, 0]
        self._tree = shapely.STRtree(shapely.linestrings(ends))

    def nearest(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """(n, 2) the place of theirs that is nearest to each of (n, 2) points."""
        which = self._tree.query_nearest(shapely.points(points), all_matches=False)[1]
        begin, way = self._begin[which], self._way[which]
        length2 = np.maximum(np.sum(way * way, axis=1), 1e-30)
        share = np.clip(np.sum((points - begin) * way, axis=1) / length2, 0, 1)
        return np.asarray(begin + way * share[:, None])


def _shift(line: shapely.MultiLineString, cut: _Segments) -> tuple[float, float]:
    """The shift that takes a line to its cut.

    Each point of the line goes to the nearest of the cut, which shows its way across the line alone; the shift is the
    least-squares solution of n . d = distance over all normals n (as point-to-plane matching has it, Chen and Medioni
    1992).
    """
    pieces = shapely.get_parts(shapely.segmentize(line, 0.5))
    points, piece = shapely.get_coordinates(pieces, return_index=True)
    inside = piece[1:] == piece[:-1]
    along = np.diff(points, axis=0)[inside]
    middle = ((points[1:] + points[:-1]) / 2)[inside]
    length = np.hypot(along[:, 0], along[:, 1])
    keep = length > 1e-9
    normal = np.column_stack([-along[keep, 1], along[keep, 0]]) / length[keep, None]
    off = np.sum((cut.nearest(middle[keep]) - middle[keep]) * normal, axis=1)
    weight = length[keep]
    # A line all one way shows nothing along itself: there the least shift is taken.
    solved, *_ = np.linalg.lstsq(
        (normal * weight[:, None]).T @ normal, (normal * weight[:, None]).T @ off, rcond=1e-6
    )
    return float(solved[0]), float(solved[1])
