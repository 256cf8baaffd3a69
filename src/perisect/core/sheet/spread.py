"""Pieces that do not fill their room, set apart in it."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from perisect.core.sheet.fill import Footprint
from perisect.core.sheet.grid import EPSILON_MM
from perisect.core.sheet.placement import Placement, matrix

Box = tuple[float, float, float, float]
"""Left, top, right, bottom, mm."""


def spread(
    places: Sequence[Placement], footprints: Sequence[Footprint], room: Box, gap_mm: float
) -> tuple[Placement, ...]:
    """Places set apart so that what is left of the room lies evenly before, between and after them: along each row,
    and between rows, never nearer than the gap that they have. Pieces that do not stand in rows (their boxes overlap,
    as in a nest) keep their places to each other and come to the middle."""
    if not places:
        return ()
    by_key = {footprint.key: footprint for footprint in footprints}
    boxes = np.array([_box(place, by_key[place.key]) for place in places])
    rows = _rows(boxes)
    shift = np.zeros((len(places), 2))
    if rows is None:
        shift[:] = (
            np.array(room[:2]) + np.array(room[2:]) - boxes[:, :2].min(axis=0) - boxes[:, 2:].max(axis=0)
        ) / 2
    else:
        heights = [float(boxes[row, 3].max() - boxes[row, 1].min()) for row in rows]
        tops = _apart(heights, room[1], room[3], gap_mm)
        for row, high, top in zip(rows, heights, tops, strict=True):
            lefts = _apart(list(boxes[row, 2] - boxes[row, 0]), room[0], room[2], gap_mm)
            shift[row, 0] = lefts - boxes[row, 0]
            # A lower piece stands in the middle of its row.
            shift[row, 1] = top - boxes[row, 1] + (high - (boxes[row, 3] - boxes[row, 1])) / 2
    return tuple(
        replace(place, x_mm=place.x_mm + dx, y_mm=place.y_mm + dy)
        for place, (dx, dy) in zip(places, shift.tolist(), strict=True)
    )


def _box(place: Placement, footprint: Footprint) -> Box:
    """What a piece takes, as it stands."""
    m = matrix(place)
    across, along = (footprint.left_mm, footprint.right_mm), (footprint.top_mm, footprint.bottom_mm)
    corners = np.array([(x, y) for x in across for y in along]) @ m[:, :2].T + m[:, 2]
    (left, top), (right, bottom) = corners.min(axis=0), corners.max(axis=0)
    return left, top, right, bottom


def _rows(boxes: NDArray[np.float64]) -> list[NDArray[np.intp]] | None:
    """Numbers of the boxes row by row, each from the left; None when two of a row overlap across."""
    order = np.argsort(boxes[:, 1], kind="stable")
    below = np.maximum.accumulate(boxes[order, 3])[:-1]
    begins = np.flatnonzero(boxes[order, 1][1:] >= below - EPSILON_MM) + 1
    rows = [row[np.argsort(boxes[row, 0], kind="stable")] for row in np.split(order, begins)]
    overlap = any((boxes[row[1:], 0] < boxes[row[:-1], 2] - EPSILON_MM).any() for row in rows)
    return None if overlap else rows


def _apart(lengths: list[float], begin: float, end: float, least_mm: float) -> NDArray[np.float64]:
    """Where lengths begin that stand one after the other, even gaps before, between and after them."""
    left, between = end - begin - sum(lengths), len(lengths) - 1
    gap = max(left / (between + 2), least_mm)
    ends = np.cumsum([0.0, *lengths[:-1]])
    return begin + (left - between * gap) / 2 + gap * np.arange(len(lengths)) + ends
