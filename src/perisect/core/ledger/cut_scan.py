"""Slip of every sticker, read from a scan or a photo of the cut sheet.

The sheet is laid flat, the print as it was drawn is taken out of it, and what is left along each wanted line are the
cuts. Across the line the picture is turned into how much it looks like a thin dark stroke (a ridge, the second
derivative of a Gaussian, Lindeberg 1998). The shift of a sticker is the one at which all of its line lies best on such
ridges, first over a grid, then solved from the places of the single ridges, least squares with Tukey's weights.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.ledger.flat_sheet import PX_PER_MM, FlatSheet
from perisect.core.ledger.scan import ScannedSheet
from perisect.core.ledger.slip import WantedSticker

REACH_MM = 1.6
"""A cut farther from where it was wanted is not found."""
STEP_MM = 0.2
"""From point to point of a line."""
SIGMA_MM = 0.11
"""About half the width of a cut as a camera shows it."""
ACROSS_MM = 1 / (2 * PX_PER_MM)
LOOSE_MM = 0.06
"""Ridges that scatter more about one line are no cut: those of mere noise scatter by 0.1."""
PRINT_SURE_MM = 0.025
"""How sure it is where the print itself lies (95 %): pictures are printed on whole dots of a printer."""
SIGMAS = 1.96
"""Deviations that 95 % lie within."""
LEAST_SEEN = 0.55
"""Of a line so much has to be seen as cut; of noise two fifths are."""
LEAST_CONTRAST = 1.6
"""A line of ridges has to stand out so far from all other places of the grid, in their deviations."""
AS_DRAWN = np.array([[1.0, 0, 0], [0, 1, 0]])


@dataclass(frozen=True)
class ScanSlip:
    """A sticker's slip, mm: the cut against its print, how sure each way (95 %); None where no cut is seen."""

    design: str
    x_mm: float
    y_mm: float
    dx_mm: float | None = None
    dy_mm: float | None = None
    sure_mm: float | None = None

    @property
    def slip_mm(self) -> float | None:
        """How far."""
        return None if self.dx_mm is None or self.dy_mm is None else float(np.hypot(self.dx_mm, self.dy_mm))


def noise_of(sure_mm: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n,) by how much readings that are so sure scatter, mm: the allowance for the print is none, and what is no noise
    must not be taken out of slips as such."""
    own = np.maximum(sure_mm**2 - PRINT_SURE_MM**2, 0.0)
    return np.asarray(np.sqrt(own) / SIGMAS)


def read_cuts(flat: FlatSheet, drawn: NDArray[np.uint8], wanted: Sequence[WantedSticker]) -> list[ScanSlip]:
    """Of every sticker of a sheet.

    Args:
        drawn: (h, w) grey picture of the print file at PX_PER_MM, or finer.
        wanted: the stickers as drawn.
    """
    height, width = flat.grey.shape
    as_drawn = np.asarray(cv2.resize(drawn, (width, height), interpolation=cv2.INTER_AREA), np.uint8)
    seen = ScannedSheet(np.clip(flat.grey, 0, 255).astype(np.uint8), PX_PER_MM, AS_DRAWN)
    return [_sticker(flat.grey, seen, as_drawn, each) for each in wanted]


def _sticker(
    grey: NDArray[np.float32], seen: ScannedSheet, drawn: NDArray[np.uint8], sticker: WantedSticker
) -> ScanSlip:
    left, top, right, bottom = sticker.box_mm
    place = ScanSlip(sticker.design, (left + right) / 2, (top + bottom) / 2)
    print_shift = np.array(seen.local_shift(drawn, sticker.box_mm))
    points, normals = _along(sticker.kiss)
    if len(points) < 12:
        return place
    ridges, offsets = _ridges(grey, drawn, points, normals, print_shift)
    first = _first(ridges, offsets, normals)
    if first is None:
        return place
    solved = _solved(ridges, offsets, normals, first)
    if solved is None:
        return place
    (dx, dy), sure_mm = solved
    sure = float(np.hypot(sure_mm, PRINT_SURE_MM))
    return ScanSlip(place.design, place.x_mm, place.y_mm, float(dx), float(dy), sure)


def _along(line: shapely.MultiLineString) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(n, 2) points of a line at even steps, and the normals there."""
    points, normals = [], []
    for part in shapely.get_parts(line):
        xy = shapely.get_coordinates(part)
        steps = np.hypot(*np.diff(xy, axis=0).T)
        length = np.concatenate([[0.0], np.cumsum(steps)])
        many = max(round(length[-1] / STEP_MM), 8)
        at = (np.arange(many) + 0.5) / many * length[-1]
        before, here, after = (_place(xy, length, at + by) for by in (-0.1, 0.0, 0.1))
        way = after - before
        size = np.hypot(*way.T)
        keep = size > 1e-6
        points.append(here[keep])
        normals.append(np.column_stack([-way[keep, 1], way[keep, 0]]) / size[keep, None])
    return np.vstack(points), np.vstack(normals)


def _place(
    xy: NDArray[np.float64], length: NDArray[np.float64], along: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Points so far along a path."""
    there = np.clip(along, 0, length[-1])
    return np.column_stack([np.interp(there, length, xy[:, 0]), np.interp(there, length, xy[:, 1])])


def _ridges(
    grey: NDArray[np.float32],
    drawn: NDArray[np.uint8],
    points: NDArray[np.float64],
    normals: NDArray[np.float64],
    print_shift: NDArray[np.float64],
) -> tuple[NDArray[np.float32], NDArray[np.float64]]:
    """(n, m) how much each place across a line looks like a thin dark stroke that was not printed, about the line as
    its print lies; and the (m,) places across, mm."""
    offsets = np.arange(-REACH_MM, REACH_MM + 1e-9, ACROSS_MM)
    at = points[:, None, :] + print_shift + normals[:, None, :] * offsets[None, :, None]
    scanned = _sample(grey, at)
    printed = _sample(drawn.astype(np.float32), at - print_shift)
    # What was printed is as dark as ink is here: the share that explains most of it.
    ink = 255 - printed
    share = float((ink * (255 - scanned)).sum() / max(float((ink * ink).sum()), 1.0))
    left = (255 - scanned) - min(max(share, 0.0), 1.3) * ink
    # Where the print has an edge, what is left of it is no cut.
    edge = np.abs(np.gradient(printed, axis=1))
    left = np.where(cv2.dilate(edge.astype(np.float32), np.ones((1, 9))) > 6, 0.0, left)
    sigma = SIGMA_MM / ACROSS_MM
    reach = round(4 * sigma)
    x = np.arange(-reach, reach + 1)
    kernel = (1 - (x / sigma) ** 2) * np.exp(-0.5 * (x / sigma) ** 2)
    kernel = (kernel - kernel.mean()).astype(np.float32)
    ridge = cv2.filter2D(left.astype(np.float32), -1, kernel[None], borderType=cv2.BORDER_REPLICATE)
    # A cut goes on from point to point; noise does not.
    ridge = cv2.blur(ridge, (1, 5))
    return np.asarray(ridge, np.float32), offsets


def _sample(picture: NDArray[np.float32], at_mm: NDArray[np.float64]) -> NDArray[np.float32]:
    """(n, m) a picture at places, mm."""
    x = (at_mm[..., 0] * PX_PER_MM - 0.5).astype(np.float32)
    y = (at_mm[..., 1] * PX_PER_MM - 0.5).astype(np.float32)
    return np.asarray(cv2.remap(picture, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), np.float32)


def _first(
    ridges: NDArray[np.float32], offsets: NDArray[np.float64], normals: NDArray[np.float64]
) -> NDArray[np.float64] | None:
    """The shift on a grid at which the line lies best on ridges; None where none stands out."""
    capped = np.clip(ridges, 0, np.quantile(ridges, 0.995))
    axis = np.arange(-REACH_MM + 0.1, REACH_MM - 0.1 + 1e-9, 0.05)
    dx, dy = (each.ravel() for each in np.meshgrid(axis, axis))
    rows = np.arange(0, len(normals), max(len(normals) // 240, 1))
    across = normals[rows] @ np.stack([dx, dy])
    column = np.clip(np.round((across - offsets[0]) / ACROSS_MM).astype(int), 0, len(offsets) - 1)
    score = capped[rows[:, None], column].mean(axis=0)
    best = int(score.argmax())
    if score[best] < score.mean() + LEAST_CONTRAST * score.std() + 0.05:
        return None
    return np.array([dx[best], dy[best]])


def _solved(
    ridges: NDArray[np.float32],
    offsets: NDArray[np.float64],
    normals: NDArray[np.float64],
    shift: NDArray[np.float64],
) -> tuple[NDArray[np.float64], float] | None:
    """The shift from each point's own ridge near it, and how sure it is."""
    sure = 0.0
    for near in (0.25, 0.15, 0.15):
        there = normals @ shift
        window = np.abs(offsets[None] - there[:, None]) <= near
        masked = np.where(window, ridges, -np.inf)
        peak = np.clip(masked.argmax(axis=1), 1, len(offsets) - 2)
        rows = np.arange(len(peak))
        low, mid, high = ridges[rows, peak - 1], ridges[rows, peak], ridges[rows, peak + 1]
        bend = np.minimum(low - 2 * mid + high, -1e-6)
        at = offsets[peak] + np.clip(0.5 * (low - high) / bend, -1, 1) * ACROSS_MM
        usable = (mid > 0.25 * np.quantile(mid, 0.8)) & (np.abs(at - there) < near) & (mid > 0)
        if usable.sum() < 12:
            return None
        weight = np.where(usable, np.minimum(mid, np.quantile(mid[usable], 0.7)), 0.0)
        for _ in range(4):
            design = normals * weight[:, None]
            matrix = design.T @ normals
            if np.linalg.cond(matrix) > 200:
                return None
            shift = np.linalg.solve(matrix, design.T @ at)
            left = at - normals @ shift
            spread = 1.4826 * float(np.median(np.abs(left[usable]))) + 1e-4
            tukey = np.clip(1 - (left / (4.7 * spread)) ** 2, 0, None) ** 2
            weight = np.where(usable, np.minimum(mid, np.quantile(mid[usable], 0.7)) * tukey, 0.0)
        if spread > LOOSE_MM or (usable & (np.abs(left) < LOOSE_MM)).mean() < LEAST_SEEN:
            return None
        # Neighbours within a blade's width say the same.
        effective = max(usable.sum() * STEP_MM / 1.0, 4.0)
        sure = float(2 * spread * np.sqrt(2 / effective)) + 0.008
    return shift, sure
