"""Lead a drag knife: its tip trails the swivel axis by the blade offset.

To keep the tip on the line, the axis runs one offset ahead of it along the line's direction; at a
corner the axis swings round the tip, which stays where it is. A closed line is cut a little past its
beginning (overcut), for the tip enters and leaves at a slant.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from perisect.core.formats import Ring
from perisect.core.sheet.shop_records import PlotterRecord

ARC_STEP = np.radians(12)
SWIVEL_FROM = np.radians(4)
"""Smaller turns the knife follows by itself."""


LIGHT_FROM = np.radians(30)
"""A blade that swings so far on the spot marks the face, unless it only touches it."""


@dataclass(frozen=True)
class KnifeSettings:
    """Blade offset and overcut, mm; and the force of a blade that only touches, in the plotter's own steps, with which
    corners are turned where the plotter can."""

    offset_mm: float = 0.25
    overcut_mm: float = 0.4
    light: float | None = None


def knife_of(plotter: PlotterRecord) -> KnifeSettings:
    """The knife of a plotter."""
    return KnifeSettings(
        plotter.knife_offset_mm, light=plotter.force.least if plotter.light_corners else None
    )


@dataclass(frozen=True)
class AxisPath:
    """Where the swivel axis goes: (m, 2) points in mm, (m - 1,) whether the way to the next one only turns the blade
    at a corner, and its heading at the end, radians."""

    points: NDArray[np.float64]
    turns: NDArray[np.bool_]
    heading: float


def with_overcut(ring: Ring, overcut_mm: float) -> NDArray[np.float64]:
    """(n, 2) open path: once round the ring and on past its first point by `overcut_mm`."""
    path = np.vstack([ring, ring])
    length = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    end = length[len(ring)] + overcut_mm
    last = int(np.searchsorted(length, end))
    last = min(max(last, len(ring)), len(path) - 1)
    span = length[last] - length[last - 1]
    part = (end - length[last - 1]) / span if span > 0 else 0.0
    final = path[last - 1] + (path[last] - path[last - 1]) * min(part, 1.0)
    return np.vstack([path[:last], final])


def axis_path(tip: NDArray[np.float64], heading: float, settings: KnifeSettings) -> AxisPath:
    """Path of the swivel axis that leads the tip along `tip`.

    Args:
        tip: (n, 2) points in mm, consecutive ones apart.
        heading: where the blade points now, radians, from the end of the path before.

    Returns:
        The path, from where the tip comes down on `tip[0]` with its present heading.
    """
    steps = np.diff(tip, axis=0)
    apart = np.hypot(steps[:, 0], steps[:, 1]) > 1e-6
    tip = np.vstack([tip[:1], tip[1:][apart]])
    steps = steps[apart]
    if len(steps) == 0:
        ahead = settings.offset_mm * np.array([[np.cos(heading), np.sin(heading)]])
        return AxisPath(tip + ahead, np.zeros(len(tip) - 1, np.bool_), heading)
    direction = np.arctan2(steps[:, 1], steps[:, 0])
    before = np.concatenate([[heading], direction[:-1]])
    turn = np.remainder(direction - before + np.pi, 2 * np.pi) - np.pi
    # At each segment's start: the axis positions of an arc about the tip, old heading to new.
    swings = np.where(np.abs(turn) > SWIVEL_FROM, np.ceil(np.abs(turn) / ARC_STEP), 1).astype(int)
    corner = np.repeat(np.arange(len(steps)), swings + 1)
    within = np.arange(len(corner)) - np.repeat(np.cumsum(swings + 1) - (swings + 1), swings + 1)
    angle = before[corner] + turn[corner] * within / swings[corner]
    arcs = tip[:-1][corner] + settings.offset_mm * np.column_stack([np.cos(angle), np.sin(angle)])
    end = tip[-1] + settings.offset_mm * np.array([np.cos(direction[-1]), np.sin(direction[-1])])
    # From the first point of a swing to its last one the blade turns; from there to the next it cuts.
    turns = (within < swings[corner]) & (np.abs(turn[corner]) > LIGHT_FROM)
    return AxisPath(np.vstack([arcs, end]), turns, float(direction[-1]))
