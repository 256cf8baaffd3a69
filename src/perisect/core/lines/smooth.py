"""A least radius on every bend: opening rounds what juts out, closing what juts in (Serra 1982)."""

import numpy as np
import shapely

from perisect.core.lines.polygons import polygons_of, quarter_segments, reduced

OVER = 1.03
"""Rounded a little wider than asked: chords and the final reduction take some of a radius back."""

MOST_ROUNDS = 4
WINDOW_SHARE = 0.7
ROUND_ENOUGH = 0.985


def with_least_radius(
    shape: shapely.Geometry, radius_mm: float, chord_mm: float, rounds: int = MOST_ROUNDS
) -> shapely.MultiPolygon:
    """The shape with no bend tighter than `radius_mm`, outside or inside.

    Opening and closing are repeated while a bend is still too tight: rounding one kind may sharpen the other
    where both lie close.

    Args:
        chord_mm: how far a chord may leave its bend, here and below.
        rounds: how often at most.
    """
    radius = radius_mm * OVER
    for _ in range(rounds):
        # Of a busy shape all at once the arcs of its turns cross each other: in halves it takes a third of the time.
        shrunk = _grown(_grown(shape, -radius / 2, chord_mm), -radius / 2, chord_mm)
        opened = _grown(shrunk, radius, chord_mm)
        shape = _closed(opened, radius, chord_mm)
        if rounds == 1 or _is_rounded(shape, radius_mm):
            break
    return polygons_of(shape)


def shrunk_again(grown: shapely.Geometry, radius_mm: float, chord_mm: float) -> shapely.MultiPolygon:
    """A shape that was grown by a radius and `OVER` more than it is to be, shrunk by so much: nothing juts into it
    tighter than the radius. That is its closing, in which the growing is had from elsewhere."""
    return polygons_of(_grown(grown, -radius_mm * OVER, chord_mm))


def bears_radius(shape: shapely.Geometry, radius_mm: float) -> bool:
    """Whether anything is left of the shape where no bend is tighter than `radius_mm`."""
    return not shapely.buffer(shape, -radius_mm * OVER).is_empty


def _closed(shape: shapely.Geometry, radius_mm: float, chord_mm: float) -> shapely.Geometry:
    return _grown(_grown(shape, radius_mm, chord_mm), -radius_mm, chord_mm)


def _grown(shape: shapely.Geometry, by_mm: float, chord_mm: float) -> shapely.Geometry:
    # Every growth adds nodes, and the next one takes its time for each of them.
    return reduced(shapely.buffer(shape, by_mm, quad_segs=quarter_segments(abs(by_mm), chord_mm)), chord_mm)


def _is_rounded(shape: shapely.Geometry, radius_mm: float) -> bool:
    """Whether no bend is tighter, as far as windows as long as a good part of the radius can tell."""
    rings = shapely.get_rings(shapely.get_parts(shape))
    return all(
        tightest_bends(shapely.get_coordinates(ring)[:-1], WINDOW_SHARE * radius_mm)[0].min()
        >= ROUND_ENOUGH * radius_mm
        for ring in rings
    )


def bridged(shape: shapely.Geometry, reach_mm: float) -> shapely.MultiPolygon:
    """The shape with gaps and slots narrower than twice `reach_mm` filled: grown, then shrunk again."""
    segments = quarter_segments(reach_mm)
    grown = shapely.buffer(shape, reach_mm, quad_segs=segments)
    return polygons_of(shapely.buffer(grown, -reach_mm, quad_segs=segments))


TURN_STEPS = 6


def turning(ring: np.ndarray, window_mm: float) -> tuple[np.ndarray, np.ndarray, float]:
    """How far a closed (n, 2) ring turns within a window that begins at each of its even steps.

    Returns the (m, 2) steps, the turn of each in radians, and the mean length of a step in mm; a window is
    `TURN_STEPS` steps long.
    """
    points = resampled(ring, window_mm / TURN_STEPS)
    ahead = np.roll(points, -1, axis=0) - points
    direction = np.unwrap(np.arctan2(ahead[:, 1], ahead[:, 0]))
    once_round = round((direction[-1] - direction[0]) / (2 * np.pi)) * 2 * np.pi
    beyond = np.concatenate([direction, direction[:TURN_STEPS] + once_round])
    return points, np.abs(beyond[TURN_STEPS:] - direction), float(np.hypot(*ahead.T).mean())


def tightest_bends(ring: np.ndarray, window_mm: float = 0.3) -> tuple[np.ndarray, np.ndarray]:
    """Radius of the bend at every step of a closed (n, 2) ring, and its turn in degrees.

    Its radius is the length of the window over the turn in it. Straight stretches have an infinite radius.
    """
    _, turn, step = turning(ring, window_mm)
    with np.errstate(divide="ignore"):
        return TURN_STEPS * step / turn, np.degrees(turn)


def resampled(ring: np.ndarray, step_mm: float) -> np.ndarray:
    """A closed (n, 2) ring as points an even step apart, about `step_mm`."""
    closed = np.vstack([ring, ring[:1]])
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(closed, axis=0).T))])
    count = max(8, round(along[-1] / step_mm))
    at = np.arange(count) * along[-1] / count
    return np.column_stack([np.interp(at, along, closed[:, 0]), np.interp(at, along, closed[:, 1])])
