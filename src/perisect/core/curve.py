"""A closed chain of cubic Béziers: what a line is when it is exported and edited."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

FLAT_MM = 0.004
BEND_SAMPLES = np.linspace(0.02, 0.98, 13)[:, None]


@dataclass(frozen=True)
class Curve:
    """A closed chain of cubic Béziers, mm.

    `nodes`, `before` and `after` are (m, 2): stretch i runs from node i along its handle `after` to the
    handle `before` of node i + 1. `corner` (m,) says where the direction may break.
    """

    nodes: Floats
    before: Floats
    after: Floats
    corner: NDArray[np.bool_]

    @property
    def stretches(self) -> Floats:
        """(m, 4, 2) control points."""
        following = np.roll(self.before, -1, axis=0), np.roll(self.nodes, -1, axis=0)
        return np.stack([self.nodes, self.after, *following], axis=1)

    def flat(self, sagitta_mm: float = FLAT_MM) -> Floats:
        """(n, 2) points of a ring that leaves the curve by `sagitta_mm` at most; the first not repeated."""
        control = self.stretches
        # The second differences bound how far a chord leaves a cubic (Wang 1984).
        bend = np.hypot(*np.diff(control, 2, axis=1).transpose(2, 0, 1)).max(axis=1)
        counts = np.maximum(1, np.ceil(np.sqrt(0.75 * bend / sagitta_mm))).astype(int)
        which = np.repeat(np.arange(len(counts)), counts)
        t = (np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)) / counts[which]
        return np.asarray(np.einsum("kn,nkd->nd", bernstein(t), control[which]))

    def moved(self, transform: Callable[[Floats], Floats]) -> "Curve":
        """The curve through an affine map of (n, 2) points."""
        return Curve(transform(self.nodes), transform(self.before), transform(self.after), self.corner)

    def begun_at(self, node: int) -> "Curve":
        """The same curve, another of its nodes the first."""
        nodes, before, after = (
            np.roll(part, -node, axis=0) for part in (self.nodes, self.before, self.after)
        )
        return Curve(nodes, before, after, np.roll(self.corner, -node))

    def tightest_mm(self) -> float:
        """The least radius of curvature within its stretches; corners are not bends."""
        return float(radii((self.stretches @ np.array([1, 1j])).T).min())


def straight(ring: Floats) -> Curve:
    """A closed (n, 2) ring as it is: straight stretches, every node a corner."""
    ahead = np.roll(ring, -1, axis=0) - ring
    corner = np.ones(len(ring), dtype=np.bool_)
    return Curve(ring, ring - np.roll(ahead, 1, axis=0) / 3, ring + ahead / 3, corner)


def bernstein(t: Floats) -> Floats:
    """(4, n) weights of the control points of a cubic at n parameters."""
    s = 1 - t
    return np.stack([s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t])


def radii(control: NDArray[np.complex128]) -> Floats:
    """Least radius of curvature of each of (4, m) cubics, at a few places of it."""
    t, s = BEND_SAMPLES, 1 - BEND_SAMPLES
    d0, d1, d2 = 3 * np.diff(control, axis=0)
    one = s * s * d0 + 2 * s * t * d1 + t * t * d2
    two = 2 * (s * (d1 - d0) + t * (d2 - d1))
    with np.errstate(divide="ignore", invalid="ignore"):
        bend = np.abs((one.conj() * two).imag)
        return np.asarray(np.where(bend > 1e-12, np.abs(one) ** 3 / bend, np.inf).min(axis=0))
