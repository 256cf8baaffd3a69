"""A ring opened into a chain of samples with their directions, ready to be fitted with curves."""

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

Complex = NDArray[np.complex128]
Floats = NDArray[np.float64]

CORNER_DEG = 28.0
"""A node that turns more than this is a corner: round bends of a tenth of a millimetre turn less."""

STRAIGHT = 2.5
"""An edge so many times longer than both beside it is a straight stretch, not a chord of a bend."""

STRAIGHT_MM = 0.8

LEAST_POINTS = 8
CRUMB_MM = 0.02
EASE_POINTS = 7
STEP_MM = 0.45
MOST_STEPS = 12


def reduced_ring(ring: Floats, tolerance_mm: float) -> Complex:
    """A ring with fewer points, as complex numbers; as it is where too few would be left."""
    fewer = shapely.get_coordinates(shapely.simplify(shapely.linearrings(ring), tolerance_mm))[:-1]
    points = fewer if len(fewer) >= LEAST_POINTS else ring
    return np.asarray(points[:, 0] + 1j * points[:, 1])


def _turns(unit: Complex) -> Floats:
    """Turn at each node of a ring, radians, from the directions of its edges."""
    return np.abs(np.angle(unit * np.roll(unit, 1).conj()))


def without_crumbs(ring: Complex) -> Complex:
    """A ring without the nodes, corners apart, that lie on the node before them but for a hair: an edge so
    short has no direction worth following."""
    ring = ring[np.abs(np.roll(ring, -1) - ring) > 1e-9]
    edge = np.roll(ring, -1) - ring
    long = np.abs(edge)
    crumb = (np.roll(long, 1) < CRUMB_MM) & (_turns(edge / long) < np.radians(CORNER_DEG))
    crumb &= ~np.roll(crumb, 1)
    return ring[~crumb] if np.count_nonzero(~crumb) > 3 else ring


def eased(ring: Complex, depth_mm: float) -> Complex:
    """A ring whose corners are small bends no more than `depth_mm` inside them."""
    edge = np.roll(ring, -1) - ring
    long = np.abs(edge)
    unit = edge / long
    turn = _turns(unit)
    corner = turn > np.radians(CORNER_DEG)
    # A parabola that leaves both sides this far from the corner passes it at half that times sin(turn / 2).
    reach = 2 * depth_mm / np.maximum(np.sin(turn / 2), 0.1)
    reach = np.minimum(reach, 0.3 * np.minimum(long, np.roll(long, 1)))
    t = np.linspace(0, 1, EASE_POINTS)[:, None]
    bends = ring - (1 - t) ** 2 * reach * np.roll(unit, 1) + t**2 * reach * unit
    keep = np.vstack([np.ones((1, len(ring)), dtype=np.bool_), np.tile(corner, (EASE_POINTS - 1, 1))])
    return np.asarray(np.where(corner, bends, ring).T[keep.T])


@dataclass(frozen=True)
class Chain:
    """One ring opened at a break: its points, the last on the first; directions out of and into each."""

    points: Complex
    out: Complex
    into: Complex
    breaks: NDArray[np.bool_]
    ends: NDArray[np.bool_]

    @staticmethod
    def of(ring: Complex, keep_corners: bool) -> "Chain":
        edge = np.roll(ring, -1) - ring
        long = np.abs(edge)
        unit = edge / long
        back, long_back = np.roll(unit, 1), np.roll(long, 1)
        turn = _turns(unit)
        breaks = (turn > np.radians(CORNER_DEG)) & keep_corners
        beside = np.maximum(
            np.where(breaks, 0, long_back), np.where(np.roll(breaks, -1), 0, np.roll(long, -1))
        )
        straight = (long > STRAIGHT_MM) & (long > STRAIGHT * beside)
        # The direction at a node is that of the circle through it and its neighbours, or of a straight side.
        middle = back * long + unit * long_back
        middle = np.where(straight, unit, np.where(np.roll(straight, 1), back, middle))
        middle /= np.maximum(np.abs(middle), 1e-12)
        out, into = np.where(breaks, unit, middle), np.where(breaks, back, middle)
        ends = (straight ^ np.roll(straight, 1)) & ~breaks
        # Samples between the nodes, their direction that of their edge.
        steps = np.clip(np.ceil(long / STEP_MM), 1, MOST_STEPS).astype(int)
        which = np.repeat(np.arange(len(ring)), steps)
        part = (np.arange(steps.sum()) - np.repeat(np.cumsum(steps) - steps, steps)) / steps[which]
        on_node = part == 0
        # Along a straight side they lie closest at its ends, where a bend that runs on would leave it.
        part = np.where(straight[which], (1 - np.cos(np.pi * part)) / 2, part)
        ahead = np.roll(into, -1)
        between = out[which] * (1 - part) + ahead[which] * part
        between /= np.maximum(np.abs(between), 1e-12)
        points = ring[which] + edge[which] * part
        first = int(np.flatnonzero(on_node)[np.argmax(breaks) if breaks.any() else turn.argmin()])
        order = (np.arange(len(points) + 1) + first) % len(points)
        return Chain(
            points[order],
            np.where(on_node, out[which], between)[order],
            np.where(on_node, into[which], between)[order],
            (on_node & breaks[which])[order],
            (on_node & ends[which])[order],
        )
