"""A page of many drawings taken apart: what hangs together, or nearly so, is one piece."""

from dataclasses import dataclass
from math import ceil

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.picture import alpha_of

JOIN_SHARE = 0.004
DESPECKLE_SHARE = 0.003
"""Of the page's longer side: parts nearer than the first join, parts smaller across than the second are
specks. On an A4 page at 300 ppi that is 1.2 mm and 0.9 mm."""

SPECK_OF_LARGEST = 0.004
"""Beside the largest drawing of a page, less than this of its area is a speck whatever the page."""

MOST_PIECES = 60


@dataclass(frozen=True)
class Piece:
    """One drawing of a page: its box in px and a place on it that names it."""

    left_px: int
    top_px: int
    width_px: int
    height_px: int
    x_px: int
    y_px: int


def find_pieces(rgba: NDArray[np.uint8]) -> tuple[Piece, ...]:
    """The drawings of a page in reading order, specks left out; at most `MOST_PIECES`."""
    labels, stats, joined, kept = _grouped(rgba)
    if not kept.any():
        return ()
    groups = np.unique(joined[kept])
    pieces = []
    for group in groups:
        members = np.flatnonzero(kept & (joined == group))
        left, top = stats[members, cv2.CC_STAT_LEFT].min(), stats[members, cv2.CC_STAT_TOP].min()
        right = (stats[members, cv2.CC_STAT_LEFT] + stats[members, cv2.CC_STAT_WIDTH]).max()
        bottom = (stats[members, cv2.CC_STAT_TOP] + stats[members, cv2.CC_STAT_HEIGHT]).max()
        largest = members[stats[members, cv2.CC_STAT_AREA].argmax()]
        x, y = _place_on(labels, stats[largest], int(largest))
        pieces.append(Piece(int(left), int(top), int(right - left), int(bottom - top), x, y))
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


def only_piece(rgba: NDArray[np.uint8], x_px: int, y_px: int) -> NDArray[np.uint8]:
    """The picture with nothing but the drawing that covers a place; all of it when none does."""
    labels, _, joined, kept = _grouped(rgba)
    height, width = labels.shape
    here = labels[min(y_px, height - 1), min(x_px, width - 1)]
    if here == 0:
        return rgba
    members = (kept & (joined == joined[here])) | (np.arange(len(joined)) == here)
    members[0] = False
    # Its soft edge goes with it, the neighbours' does not.
    near = np.asarray(cv2.dilate(members[labels].astype(np.uint8), np.ones((5, 5), np.uint8)), bool)
    out = rgba.copy()
    out[~(near & (members[labels] | (labels == 0)))] = 0
    return out


def _grouped(
    rgba: NDArray[np.uint8],
) -> tuple[NDArray[np.int32], NDArray[np.int32], NDArray[np.int64], NDArray[np.bool_]]:
    """Labels and stats of connected parts, the group each part joins, and which are no specks."""
    covered = np.asarray(cv2.inRange(alpha_of(rgba), 128, 255), np.uint8)
    _, found, described, _ = cv2.connectedComponentsWithStats(covered, connectivity=8)
    labels, stats = np.asarray(found, np.int32), np.asarray(described, np.int32)
    longer = max(covered.shape)
    speck = DESPECKLE_SHARE * longer
    area = stats[:, cv2.CC_STAT_AREA].copy()
    area[0] = 0
    kept = area >= max(speck * speck, SPECK_OF_LARGEST * area.max())
    reach = max(1, ceil(JOIN_SHARE * longer / 2))
    solid = kept[labels].astype(np.uint8)
    grown = cv2.dilate(solid, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1)))
    _, together = cv2.connectedComponents(grown, connectivity=8)
    joined = np.zeros(len(stats), np.int64)
    inside = labels > 0
    joined[labels[inside]] = np.asarray(together)[inside]
    return labels, stats, joined, kept


def _place_on(labels: NDArray[np.int32], stats: NDArray[np.int32], number: int) -> tuple[int, int]:
    """The pixel of a part that is deepest inside it."""
    left, top, width, height = (int(n) for n in stats[:4])
    part = np.pad((labels[top : top + height, left : left + width] == number).astype(np.uint8), 1)
    _, _, _, (x, y) = cv2.minMaxLoc(cv2.distanceTransform(part, cv2.DIST_L2, 3))
    return left + x - 1, top + y - 1
