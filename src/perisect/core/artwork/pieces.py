"""A page of many drawings taken apart: what hangs together, or nearly so, is one piece.

Drawings are told apart on the page reduced to `PAGE_PX`, the same reduction the screen shows, so that
what a person sees while a slider moves is what is made.
"""

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.sparse.csgraph import connected_components

from perisect.core.artwork.preview import LONGEST_PX, shrunk_alpha
from perisect.core.artwork.recipe import Place, SplitRecipe

PAGE_PX = LONGEST_PX

JOIN_SHARE = 0.004
DESPECKLE_SHARE = 0.003
"""Of the page's longer side: parts nearer than the first join, parts smaller across than the second are
specks. On an A4 page at 300 ppi that is 1.2 mm and 0.9 mm."""

SPECK_OF_LARGEST = 0.004
"""Beside the largest drawing of a page, less than this of its area is a speck whatever the page."""

COVERED = 64
"""A pixel of the reduced page is art from this coverage: a hairline two pixels wide still joins."""

OVERLAP = 0.1
"""Boxes that share more of the smaller one than this hold one drawing."""

MOST_PIECES = 60

BY_SIZE = SplitRecipe()


@dataclass(frozen=True)
class Piece:
    """One drawing of a page: its box in px of the page and a place on it that names it."""

    left_px: int
    top_px: int
    width_px: int
    height_px: int
    x_px: int
    y_px: int

    def moved(self, x: int, y: int) -> "Piece":
        """The same drawing by places of the whole that this picture is a part of."""
        return replace(
            self,
            left_px=self.left_px + x,
            top_px=self.top_px + y,
            x_px=self.x_px + x,
            y_px=self.y_px + y,
        )


@dataclass(frozen=True)
class Limits:
    """Joining distance and despeckle limit that hold for a page, px of the page."""

    joining_px: float
    despeckle_px: float


def limits(longer_px: int, split: SplitRecipe) -> Limits:
    """The limits asked for, or those that suit a page this long."""
    joining = JOIN_SHARE * longer_px if split.joining_px is None else split.joining_px
    despeckle = DESPECKLE_SHARE * longer_px if split.despeckle_px is None else split.despeckle_px
    return Limits(joining, despeckle)


def find_pieces(
    rgba: NDArray[np.uint8], split: SplitRecipe = BY_SIZE, longer_px: int | None = None
) -> tuple[Piece, ...]:
    """The drawings of a page in reading order, specks left out; at most `MOST_PIECES`.

    Args:
        rgba: (h, w, 4), the page or its reduction for the screen.
        longer_px: longer side of the page itself, whose pixels limits and places count.
    """
    longer = longer_px or max(rgba.shape[:2])
    labels, stats, joined, kept = _grouped(shrunk_alpha(rgba, PAGE_PX), split, longer)
    if not kept.any():
        return ()
    scale = longer / max(labels.shape)
    pieces = []
    for group in np.unique(joined[kept]):
        members = np.flatnonzero(kept & (joined == group))
        left, top = stats[members, cv2.CC_STAT_LEFT].min(), stats[members, cv2.CC_STAT_TOP].min()
        right = (stats[members, cv2.CC_STAT_LEFT] + stats[members, cv2.CC_STAT_WIDTH]).max()
        bottom = (stats[members, cv2.CC_STAT_TOP] + stats[members, cv2.CC_STAT_HEIGHT]).max()
        largest = members[stats[members, cv2.CC_STAT_AREA].argmax()]
        x, y = _place_on(labels, stats[largest], int(largest))
        box = np.round(np.array([left, top, right - left, bottom - top]) * scale).astype(int).tolist()
        pieces.append(Piece(box[0], box[1], box[2], box[3], int((x + 0.5) * scale), int((y + 0.5) * scale)))
    return tuple(_in_reading_order(pieces)[:MOST_PIECES])


def _in_reading_order(pieces: list[Piece]) -> list[Piece]:
    """Row by row; a new row begins where the middles jump by a third of a usual height."""
    middle = np.array([piece.top_px + piece.height_px / 2 for piece in pieces])
    down = np.argsort(middle, kind="stable")
    jump = np.diff(middle[down], prepend=middle[down[0]]) > np.median([p.height_px for p in pieces]) / 3
    row = np.zeros(len(pieces), int)
    row[down] = np.cumsum(jump)
    left = np.array([piece.left_px for piece in pieces])
    return [pieces[n] for n in np.lexsort((left, row))]


def only_drawings(
    rgba: NDArray[np.uint8], places: tuple[Place, ...], split: SplitRecipe = BY_SIZE
) -> NDArray[np.uint8]:
    """The page with nothing but the drawings at some places, or nearest to them: what named a drawing may
    have been erased since."""
    height, width = rgba.shape[:2]
    labels, _, joined, kept = _grouped(shrunk_alpha(rgba, PAGE_PX), split, max(height, width))
    scale = max(labels.shape) / max(height, width)
    if not labels.any():
        return rgba
    here = [_label_at(labels, int(x * scale), int(y * scale)) for x, y in places]
    numbers = np.arange(len(joined))
    members = (kept & np.isin(joined, joined[here])) | np.isin(numbers, here)
    members[0] = False
    # Its soft edge goes with it, the neighbours' does not.
    mine = members[labels]
    near = np.asarray(cv2.dilate(mine.astype(np.uint8), np.ones((5, 5), np.uint8)), bool)
    shown = (near & (mine | (labels == 0))).astype(np.uint8)
    shown = np.asarray(cv2.resize(shown, (width, height), interpolation=cv2.INTER_NEAREST), np.uint8)
    out = rgba.copy()
    out[shown == 0] = 0
    return out


def _label_at(labels: NDArray[np.int32], x: int, y: int) -> int:
    """The part that covers a place, or the nearest one."""
    x, y = min(x, labels.shape[1] - 1), min(y, labels.shape[0] - 1)
    if labels[y, x] == 0:
        rows, columns = np.nonzero(labels)
        nearest = int(((rows - y) ** 2 + (columns - x) ** 2).argmin())
        y, x = int(rows[nearest]), int(columns[nearest])
    return int(labels[y, x])


def _grouped(
    alpha: NDArray[np.uint8], split: SplitRecipe, longer_px: int
) -> tuple[NDArray[np.int32], NDArray[np.int32], NDArray[np.int64], NDArray[np.bool_]]:
    """Labels and stats of connected parts, the group each part joins, and which are no specks."""
    scale = max(alpha.shape) / longer_px
    limit = limits(longer_px, split)
    covered = np.asarray(cv2.inRange(alpha, COVERED, 255), np.uint8)
    _, found, described, _ = cv2.connectedComponentsWithStats(covered, connectivity=8)
    labels, stats = np.asarray(found, np.int32), np.asarray(described, np.int32)
    speck = limit.despeckle_px * scale
    area = stats[:, cv2.CC_STAT_AREA].copy()
    area[0] = 0
    least = speck * speck
    if split.despeckle_px is None:
        least = max(least, SPECK_OF_LARGEST * area.max())
    kept = area >= max(least, 1)
    reach = limit.joining_px * scale / 2
    together = labels
    if reach >= 0.5:
        solid = kept[labels].astype(np.uint8)
        grown = _within(solid, reach)
        together = np.asarray(cv2.connectedComponents(grown, connectivity=8)[1], np.int32)
    joined = np.zeros(len(stats), np.int64)
    inside = labels > 0
    joined[labels[inside]] = together[inside]
    if split.joining_px is None:
        joined = _with_overlapping(stats, joined, kept)
    return labels, stats, joined, kept


def _with_overlapping(
    stats: NDArray[np.int32], joined: NDArray[np.int64], kept: NDArray[np.bool_]
) -> NDArray[np.int64]:
    """Groups whose boxes lie in one another are parts of one drawing, such as a sail above its hull."""
    joined = joined.copy()
    while True:
        groups = np.unique(joined[kept])
        which = np.searchsorted(groups, joined[kept])
        first = stats[kept][:, [cv2.CC_STAT_LEFT, cv2.CC_STAT_TOP]]
        last = first + stats[kept][:, [cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]]
        low, high = np.full((len(groups), 2), 1 << 30), np.zeros((len(groups), 2), np.int64)
        np.minimum.at(low, which, first)
        np.maximum.at(high, which, last)
        common = (np.minimum(high[:, None], high) - np.maximum(low[:, None], low)).clip(0).prod(axis=2)
        size = (high - low).prod(axis=1)
        overlap = common > OVERLAP * np.minimum(size[:, None], size)
        count, merged = connected_components(overlap, directed=False)
        if count == len(groups):
            return joined
        joined[kept] = merged[which] + 1


def _within(solid: NDArray[np.uint8], reach: float) -> NDArray[np.uint8]:
    """1 where a part lies within a distance: cheaper than a large disc."""
    return (cv2.distanceTransform(1 - solid, cv2.DIST_L2, 5) <= reach).astype(np.uint8)


def _place_on(labels: NDArray[np.int32], stats: NDArray[np.int32], number: int) -> tuple[int, int]:
    """The pixel of a part that is deepest inside it."""
    left, top, width, height = (int(n) for n in stats[:4])
    part = np.pad((labels[top : top + height, left : left + width] == number).astype(np.uint8), 1)
    _, _, _, (x, y) = cv2.minMaxLoc(cv2.distanceTransform(part, cv2.DIST_L2, 3))
    return left + x - 1, top + y - 1
