"""Closed lines as chains of cubic Béziers, fitted to a polyline within a tolerance.

The fit is Schneider's (Graphics Gems, 1990: least squares for the lengths of the handles, a step of Newton
for the parameters, splitting where it fails), done for all stretches of all rings at once. Inside, points
are complex numbers: half the work of pairs.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from perisect.core.curve import Curve, bernstein, radii
from perisect.core.lines.chain import Chain, Complex, Floats, eased, reduced_ring, without_crumbs

Index = NDArray[np.intp]

INPUT_MM = 0.005
"""Points of the ring nearer than this to the chord of their neighbours say nothing that the fit would follow."""

FIRST_TURN = np.radians(100.0)
LEVELS = 12
MARGIN = 0.49
"""The promise is against the exact line. The ring is only within some hundredths of it, and errors are seen at
samples of the ring."""


def fit_curves(
    rings: Sequence[Floats], tolerance_mm: float, keep_corners: bool = True, radius_mm: float = 0.0
) -> list[Curve]:
    """Fit closed (n, 2) rings, first point not repeated.

    Args:
        tolerance_mm: how far the curve may leave the ring.
        keep_corners: whether sharp corners stay exactly where they are.
        radius_mm: no bend of the curve tighter than this where the ring allows it; 0 for any.
    """
    if not rings:
        return []
    reduced = INPUT_MM if radius_mm == 0 else min(INPUT_MM, 0.002 * radius_mm)
    whole = [without_crumbs(reduced_ring(ring, reduced)) for ring in rings]
    if not keep_corners:
        whole = [eased(ring, tolerance_mm * MARGIN) for ring in whole]
    chains = [Chain.of(ring, keep_corners) for ring in whole]
    starts, control = _Fit(chains, tolerance_mm * MARGIN, radius_mm).stretches()
    curves, first = [], 0
    for chain in chains:
        mine = (starts >= first) & (starts < first + len(chain.points) - 1)
        nodes, after, before = control[:3, mine]
        corner = chain.breaks[starts[mine] - first]
        curves.append(Curve(_pairs(nodes), _pairs(np.roll(before, 1)), _pairs(after), corner))
        first += len(chain.points)
    return curves


def _pairs(points: Complex) -> Floats:
    return np.column_stack([points.real, points.imag])


class _Fit:
    """All chains end to end."""

    def __init__(self, chains: list[Chain], tolerance: float, radius: float) -> None:
        self.points = np.concatenate([chain.points for chain in chains])
        self.out = np.concatenate([chain.out for chain in chains])
        self.into = np.concatenate([chain.into for chain in chains])
        self.breaks = np.concatenate([chain.breaks for chain in chains])
        self.ends = np.concatenate([chain.ends for chain in chains])
        self.along = np.cumsum(np.abs(np.diff(self.points, prepend=self.points[:1])))
        self.seam = np.zeros(len(self.points), dtype=np.bool_)
        self.seam[np.cumsum([len(chain.points) for chain in chains]) - 1] = True
        self.tolerance, self.radius = tolerance, radius
        self.failed: NDArray[np.int64] = np.empty(0, np.int64)
        """Stretches that were tried and did not fit."""

    def stretches(self) -> tuple[Index, Complex]:
        """Starts (indices of points) and (4, m) control points of all stretches, in order."""
        starts, ends, control = self._split(*self._first_cut())
        for odd in (0, 1, 0, 1):
            starts, ends, control = self._merged(starts, ends, control, odd)
        return starts, control

    def _first_cut(self) -> tuple[Index, Index]:
        """Stretches that turn by a quarter or so each: most of them fit at once."""
        edge = np.diff(self.points)
        with np.errstate(invalid="ignore"):
            turn = np.concatenate([[0.0], np.abs(np.angle(edge[1:] * edge[:-1].conj())), [0.0]])
        must = self.breaks | self.seam | np.roll(self.seam, 1) | self.ends
        must[0] = True
        turn[must] = 0.0
        total = np.cumsum(turn)
        step = np.floor((total - np.maximum.accumulate(np.where(must, total, 0.0))) / FIRST_TURN)
        places = np.flatnonzero(must | (np.diff(step, prepend=step[0]) > 0))
        inside = ~self.seam[places[:-1]]
        return places[:-1][inside], places[1:][inside]

    def _split(self, starts: Index, ends: Index) -> tuple[Index, Index, Complex]:
        """Stretches halved, near their worst point, until each fits."""
        done: list[tuple[Index, Index, Complex]] = []
        for level in range(LEVELS):
            control, error, worst = self._fitted(starts, ends)
            good = (error <= self.tolerance) | (ends - starts <= 1) | (level == LEVELS - 1)
            chords = good & np.isinf(error)  # one chord of the ring, whose bends were as wide as asked
            third = (control[3, chords] - control[0, chords]) / 3
            control[1, chords], control[2, chords] = control[0, chords] + third, control[3, chords] - third
            done.append((starts[good], ends[good], control[:, good]))
            starts, ends, worst = starts[~good], ends[~good], worst[~good]
            if len(starts) == 0:
                break
            quarter = np.maximum(1, (ends - starts) // 4)
            middle = np.clip(worst, starts + quarter, ends - quarter)
            starts, ends = np.concatenate([starts, middle]), np.concatenate([middle, ends])
        starts = np.concatenate([each[0] for each in done])
        order = np.argsort(starts)
        ends = np.concatenate([each[1] for each in done])
        return starts[order], ends[order], np.concatenate([each[2] for each in done], axis=1)[:, order]

    def _pairs_from(self, starts: Index, ends: Index, odd: int) -> Index:
        """Numbers of stretches that run on into the next, every other one."""
        left = np.arange(odd, len(starts) - 1, 2)
        return left[(ends[left] == starts[left + 1]) & ~self.breaks[ends[left]]]

    def _merged(self, starts: Index, ends: Index, control: Complex, odd: int) -> tuple[Index, Index, Complex]:
        """Neighbours made one where the one still fits."""
        left = self._pairs_from(starts, ends, odd)
        names = starts[left] * len(self.points) + ends[np.minimum(left + 1, len(ends) - 1)]
        left, names = left[new := ~np.isin(names, self.failed)], names[new]
        if len(left) == 0:
            return starts, ends, control
        tried, error, _ = self._fitted(starts[left], ends[left + 1])
        good = error <= self.tolerance
        self.failed = np.concatenate([self.failed, names[~good]])
        taken = left[good]
        control, ends = control.copy(), ends.copy()
        control[:, taken], ends[taken] = tried[:, good], ends[taken + 1]
        keep = np.ones(len(starts), dtype=np.bool_)
        keep[taken + 1] = False
        return starts[keep], ends[keep], control[:, keep]

    def _fitted(self, starts: Index, ends: Index) -> tuple[Complex, Floats, Index]:
        """(4, m) control points, error (infinite where a bend is too tight) and worst point of each."""
        counts = ends - starts + 1
        heads = np.cumsum(counts) - counts
        which = np.repeat(np.arange(len(starts)), counts)
        index = np.arange(counts.sum()) + (starts - heads)[which]
        target, along = self.points[index], self.along[index]
        length = np.maximum(self.along[ends] - self.along[starts], 1e-12)
        t = (along - along[heads][which]) / length[which]
        hold = (self.points[starts], self.points[ends], self.out[starts], -self.into[ends])
        weights = bernstein(t)
        control = _least_squares(weights, target, which, heads, hold, length)
        # One step of Gauss and Newton towards the places of the curve that lie nearest.
        off, slope = _off(weights, t, target, control, which)
        t = np.clip(t - (off * slope.conj()).real / np.maximum((slope * slope.conj()).real, 1e-12), 0, 1)
        t[heads], t[heads + counts - 1] = 0.0, 1.0
        weights = bernstein(t)
        control = _least_squares(weights, target, which, heads, hold, length)
        off, slope = _off(weights, t, target, control, which)
        # What a target lies along the curve is the parameter's error, not the line's.
        sideways = np.abs((off * slope.conj()).imag) / np.maximum(np.abs(slope), 1e-9)
        away = sideways + np.abs(off) * 0.02
        error = np.maximum.reduceat(away, heads)
        at_worst = away >= error[which]
        worst = np.zeros(len(starts), dtype=np.intp)
        worst[which[at_worst]] = index[at_worst]
        if self.radius > 0:
            error = np.where(radii(control) < self.radius, np.inf, error)
        return control, error, worst


Hold = tuple[Complex, Complex, Complex, Complex]
"""First and last points of stretches, and the directions out of the first and back from the last."""


def _least_squares(
    weights: Floats, target: Complex, which: Index, heads: Index, hold: Hold, length: Floats
) -> Complex:
    """(4, m) control points whose handles have the lengths that come nearest the targets."""
    first, last, ahead, back = hold
    b0, b1, b2, b3 = weights
    rest = target - (b0 + b1) * first[which] - (b2 + b3) * last[which]
    along, against = b1 * ahead[which], b2 * back[which]
    terms = np.empty((5, len(target)))
    terms[0], terms[1], terms[2] = b1 * b1, b1 * b2, b2 * b2
    terms[3], terms[4] = (rest * along.conj()).real, (rest * against.conj()).real
    c11, c12, c22, x1, x2 = np.add.reduceat(terms, heads, axis=1)
    c12 = c12 * (ahead * back.conj()).real
    with np.errstate(divide="ignore", invalid="ignore"):
        determinant = c11 * c22 - c12 * c12
        alpha = (x1 * c22 - x2 * c12) / determinant
        beta = (c11 * x2 - c12 * x1) / determinant
        # Handles longer together than the stretch itself would tie it into a loop.
        chord = np.abs(last - first)
        poor = ~((alpha > 1e-3 * chord) & (beta > 1e-3 * chord) & (alpha + beta < 1.02 * length))
    alpha, beta = np.where(poor, chord / 3, alpha), np.where(poor, chord / 3, beta)
    return np.stack([first, first + ahead * alpha, last + back * beta, last])


def _off(
    weights: Floats, t: Floats, target: Complex, control: Complex, which: Index
) -> tuple[Complex, Complex]:
    """From each target to its place on the curve, and the curve's derivative there."""
    at = control[:, which]
    d = np.diff(at, axis=0)
    s = 1 - t
    return (weights * at).sum(axis=0) - target, 3 * (s * s * d[0] + 2 * s * t * d[1] + t * t * d[2])
