"""Marks found once more when it is known how the sheet lies.

Looked for one by one, marks are compared with a picture of theirs that is not turned: on a sheet that lies a degree
askew all of them are off by some micrometres, and of a line that runs on over the sheet only what is near can be used.
When all are found the turn is known. The place is then the least-squares fit of the mark's own picture, turned, to the
view (Gauss and Newton), which for white noise is the likeliest one; what the light does over the view and how soft the
lens is are fitted with it.
"""

from collections.abc import Sequence
from dataclasses import replace
from math import hypot

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.registration import Registration
from perisect.core.cutting.view import View
from perisect.core.sheet.mark_shape import SHAPES, mark_darkness
from perisect.core.sheet.marks import Mark, MarkSettings

Place = tuple[float, float]

BESIDE_MM = 1.0
"""Seen beside ink: less than what is bare beside marks and the line of a frame."""
SOFT_PX, SOFTER_PX = 1.0, 1.4
"""Standard deviation of what a lens and a printer add to an edge; and a softer edge, by which it is fitted."""
MOST_MM = 0.3
"""A place that moves further was found wrongly: it stays."""


def refined(
    mark: Mark, settings: MarkSettings, view: View, found: Place, ringed: bool, lies: Registration
) -> Place:
    """The centre of a mark in the plotter's frame, mm: one step nearer to it than `found`.

    Args:
        view: with the mark near its middle.
        found: its centre, mm, to within a pixel or so.
        lies: how the sheet lies.
    """
    # The view's y runs down like the sheet's, the plotter's up.
    to_sheet = np.asarray(np.linalg.inv(np.array([[1.0], [-1.0]]) * lies.matrix[:, :2]), np.float64)
    step = _step(view, mark, settings, ringed, to_sheet, (found[0] - view.x_mm, view.y_mm - found[1]))
    if step is None or hypot(*step) > MOST_MM:
        return found
    return found[0] + step[0], found[1] - step[1]


def _step(
    view: View,
    mark: Mark,
    settings: MarkSettings,
    ringed: bool,
    to_sheet: NDArray[np.float64],
    at: Place,
) -> Place | None:
    """How far beside the place assumed the mark lies, mm along both axes of the view; None when no ink is there."""
    scale = view.px_per_mm
    reach = (settings.ring_outer_mm if ringed else settings.radius_mm) + BESIDE_MM
    rows, columns = (
        _around(size, scale, off, None if SHAPES[mark.shape].goes_on else reach)
        for size, off in zip(view.grey.shape, (at[1], at[0]), strict=True)
    )
    u, v = np.meshgrid(
        _mm(columns, view.grey.shape[1], scale) - at[0], _mm(rows, view.grey.shape[0], scale) - at[1]
    )
    x, y = ((row[0] * u + row[1] * v).astype(np.float32) for row in to_sheet)
    corner = mark.corner if SHAPES[mark.shape].turns else (1, 1)
    ink = mark_darkness(x, y, settings, ringed, scale, mark.shape, corner)
    soft, softer = (np.asarray(cv2.GaussianBlur(ink, (0, 0), px), np.float64) for px in (SOFT_PX, SOFTER_PX))
    near = np.asarray(np.hypot(x, y) <= reach)
    if SHAPES[mark.shape].goes_on:
        wide = replace(settings, line_mm=settings.line_mm + 2 * BESIDE_MM)
        near |= SHAPES[mark.shape].darkness(x, y, wide, corner, scale) > 0
    across, down = (np.gradient(soft, 1 / scale, axis=axis) for axis in (1, 0))
    seen: Sequence[NDArray[np.float64]] = (u, v, soft, softer - soft, across, down)
    tell = np.stack([np.ones(np.count_nonzero(near)), *(each[near] for each in seen)])
    grey = view.grey[np.ix_(rows, columns)][near].astype(np.float64)
    try:
        fit = np.linalg.solve(tell @ tell.T, tell @ grey)
    except np.linalg.LinAlgError:
        return None
    return None if fit[3] >= 0 else (float(-fit[5] / fit[3]), float(-fit[6] / fit[3]))


def _mm(px: NDArray[np.int_], size: int, px_per_mm: float) -> NDArray[np.float64]:
    """Pixels as distances from the middle of a view."""
    return np.asarray((px - (size - 1) / 2) / px_per_mm)


def _around(size: int, px_per_mm: float, off_mm: float, reach_mm: float | None) -> NDArray[np.int_]:
    """The pixels along one axis of a view that lie within reach of a place; all of them where nothing ends."""
    px = np.arange(size)
    return px if reach_mm is None else px[np.abs(_mm(px, size, px_per_mm) - off_mm) <= reach_mm]
