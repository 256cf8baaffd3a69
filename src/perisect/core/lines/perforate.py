"""Perforation: cuts with ties between, whole periods round the loop, no tie at a corner."""

from dataclasses import dataclass

import numpy as np
import shapely

from perisect.core.curve import FINE_MM, FLAT_MM, Curve, OpenCurve
from perisect.core.lines.smooth import TURN_STEPS, turning

LEAST_TIES = 3
CORNER_DEG = 30.0
CORNER_WINDOW_MM = 0.6
PHASES = 180
NEAR_MM = 1e-6
SLACK_MM = 0.1
"""A corner is known to within about this."""

FALLS_OUT_GF, HARD_TO_POP_GF = 13.0, 57.0
"""Pull that all ties stand, gram-force for each mm of outline: below the first a piece may drop out in the
machine, above the second it tears before it pops."""

GOOD_GF = 26.0
"""In the middle of what holds and pops."""


@dataclass(frozen=True)
class Perforation:
    """Cuts of one loop as open (n, 2) paths in mm, its ties' length in all and how many there are."""

    cuts: tuple[np.ndarray, ...]
    """`parts`: the same as parts of the loop's curve, where it has one."""
    ties: int
    tie_mm: float
    cut_mm: float
    length_mm: float
    tie_gf_per_mm: float = 260.0
    parts: tuple[OpenCurve, ...] = ()

    @property
    def hold_index(self) -> float:
        """Total tie length per mm of the outline."""
        return self.ties * self.tie_mm / self.length_mm

    @property
    def hold_gf(self) -> float:
        """Pull that all ties together stand, gram-force."""
        return self.ties * self.tie_mm * self.tie_gf_per_mm

    @property
    def verdict(self) -> str:
        """Falls out, holds, or hard to pop."""
        per_mm = self.hold_gf / self.length_mm
        if per_mm < FALLS_OUT_GF:
            return "falls out"
        return "hard to pop" if per_mm > HARD_TO_POP_GF else "holds"


def perforate(
    ring: np.ndarray,
    cut_mm: float,
    tie_mm: float,
    tie_gf_per_mm: float = 260.0,
    curve: Curve | None = None,
) -> Perforation:
    """Perforate a closed (n, 2) ring of a face that stands `tie_gf_per_mm` of pull on each mm of tie; `curve` is what
    the ring was flattened from.

    The pattern is stretched so that whole periods close the loop, then turned to where no tie lies on a
    corner or within one tie of it. Where no turn does that, the few ties that are too near are moved
    clear; where corners are too dense for that, each stretch between them gets ties of its own.
    """
    closed = np.vstack([ring, ring[:1]])
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(closed, axis=0).T))])
    total = float(along[-1])
    periods = max(LEAST_TIES, round(total / (cut_mm + tie_mm)))
    scale = total / (periods * (cut_mm + tie_mm))
    tie, cut = tie_mm * scale, cut_mm * scale
    corners = corner_places(ring)
    middles = _placed(total, periods, tie, cut, corners)
    if middles is None:
        middles = _between_corners(total, corners, cut_mm, tie_mm)
        tie = tie_mm
        cut = (total - len(middles) * tie) / max(len(middles), 1)
    starts, ends = middles + tie / 2, np.roll(middles, -1) - tie / 2
    ends[-1] += total
    cuts = tuple(_part(closed, along, a, b) for a, b in zip(starts, ends, strict=True))
    places = None if curve is None else _places(curve, ring)
    parts: tuple[OpenCurve, ...] = ()
    if curve is not None and places is not None:
        round_ = np.append(places, len(curve.nodes))
        u = [np.interp(at % total, along, round_) for at in (starts, ends)]
        u[1] += np.where(u[1] <= u[0], len(curve.nodes), 0)
        parts = tuple(curve.part(a, b) for a, b in zip(*(each.tolist() for each in u), strict=True))
    return Perforation(cuts, len(middles), tie, cut, total, tie_gf_per_mm, parts)


def _places(curve: Curve, ring: np.ndarray) -> np.ndarray | None:
    """Where on its curve each point of a ring lies; None where it is not that curve flattened."""
    for sagitta in (FLAT_MM, FINE_MM):
        places = curve.places(sagitta)
        if len(places) == len(ring) and np.abs(curve.flat(sagitta) - ring).max() < NEAR_MM:
            return places
    return None


def corner_places(ring: np.ndarray) -> np.ndarray:
    """Places along a closed ring, mm from its first point, where it turns by 30° or more within 0.6 mm."""
    points, turn, step = turning(ring, CORNER_WINDOW_MM)
    sharp = turn > np.radians(CORNER_DEG)
    if not sharp.any() or sharp.all():
        return np.empty(0)
    # One corner is a run of sharp places; its middle is half a window on.
    first = int(np.flatnonzero(~sharp)[0])
    turned = np.roll(sharp, -first)
    edges = np.flatnonzero(np.diff(turned.astype(np.int8), prepend=0, append=0))
    middle = (edges[::2] + edges[1::2] - 1) / 2 + first + (TURN_STEPS + 1) / 2
    return np.sort((middle * step) % (len(points) * step))


def _placed(total: float, periods: int, tie: float, cut: float, corners: np.ndarray) -> np.ndarray | None:
    """Middles of the ties, an even pitch apart, turned to where fewest come near a corner; those that still
    do are moved just clear of it. None where there is no room to move."""
    pitch, clear = total / periods, 1.5 * tie + SLACK_MM
    even = (np.arange(periods) + 0.5) * pitch
    if len(corners) == 0:
        return even
    phase = np.arange(PHASES) / PHASES * pitch
    away = np.abs((corners[None, :] - phase[:, None] + pitch / 2) % pitch - pitch / 2)
    near = np.clip(clear - away, 0, None)
    best = int(np.lexsort((-away.min(axis=1), near.sum(axis=1)))[0])
    middles = np.arange(periods) * pitch + phase[best]
    if near[best].sum() == 0:
        return middles
    off = (middles[:, None] - corners + total / 2) % total - total / 2
    nearest = np.abs(off).argmin(axis=1)
    gap = off[np.arange(periods), nearest]
    # Rounding must not leave a tie a hair too near.
    moved = middles + np.where(
        np.abs(gap) < clear, np.where(gap < 0, -1, 1) * (clear * 1.001 - np.abs(gap)), 0
    )
    off = np.abs((moved[:, None] - corners + total / 2) % total - total / 2)
    apart = np.diff(np.concatenate([moved, moved[:1] + total]))
    return moved if off.min() >= clear and apart.min() >= tie + cut / 3 else None


def _between_corners(total: float, corners: np.ndarray, cut: float, tie: float) -> np.ndarray:
    """Middles of ties: in every stretch between corners whole periods, half a cut at its ends."""
    spans = np.diff(np.concatenate([corners, corners[:1] + total]))
    room = spans - 2 * (1.5 * tie + SLACK_MM)
    counts = np.where(room > 0, np.maximum(1, np.round(spans / (cut + tie))), 0).astype(int)
    # Few corners and short stretches: the longest ones make up for what is missing.
    while counts.sum() < LEAST_TIES and (room > 0).any():
        counts[int((spans / (counts + 1)).argmax())] += 1
    middles = [
        start + (np.arange(count) + 0.5) * span / count
        for start, span, count in zip(corners, spans, counts, strict=True)
        if count
    ]
    return np.sort(np.concatenate(middles) % total) if middles else np.arange(LEAST_TIES) * total / LEAST_TIES


def _part(closed: np.ndarray, along: np.ndarray, start: float, end: float) -> np.ndarray:
    """The path from one place along a closed ring to another, past its beginning if need be."""
    total = along[-1]
    twice = np.concatenate([along[:-1], along + total])
    points = np.vstack([closed[:-1], closed])
    inside = (twice > start + 1e-9) & (twice < end - 1e-9)
    ends = np.array([start, end])
    edge = np.column_stack([np.interp(ends, twice, points[:, 0]), np.interp(ends, twice, points[:, 1])])
    return np.vstack([edge[:1], points[inside], edge[1:]])


def cuts_of(perforations: tuple[Perforation, ...]) -> shapely.MultiLineString:
    """All cuts as one geometry."""
    return shapely.multilinestrings([shapely.linestrings(cut) for each in perforations for cut in each.cuts])
