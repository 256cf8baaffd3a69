"""Chains of cubic Béziers: what a line is when it is exported and edited."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import ClassVar, Protocol, Self

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

FLAT_MM = 0.004
FINE_MM = 0.001
"""Chords of a line whose radius is promised are shorter."""
BEND_SAMPLES = np.linspace(0.02, 0.98, 13)[:, None]


class Chain(Protocol):
    """Cubic Béziers one after the other, each beginning where the last one ends."""

    @property
    def stretches(self) -> Floats:
        """(m, 4, 2) control points, mm."""

    closed: ClassVar[bool]
    """Whether the last one ends where the first begins."""

    def moved(self, transform: Callable[[Floats], Floats]) -> Self:
        """The chain through an affine map of (n, 2) points."""


def control_of(chain: Chain) -> Floats:
    """(3m + 1, 2) control points, those where two stretches meet once."""
    stretches = chain.stretches
    return np.concatenate([stretches[:1, 0], stretches[:, 1:].reshape(-1, 2)])


@dataclass(frozen=True)
class OpenCurve:
    """A chain with a beginning and an end: (m, 4, 2) control points, mm."""

    stretches: Floats
    closed: ClassVar[bool] = False

    def moved(self, transform: Callable[[Floats], Floats]) -> "OpenCurve":
        """The chain through an affine map of (n, 2) points."""
        return OpenCurve(transform(self.stretches.reshape(-1, 2)).reshape(-1, 4, 2))


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
    closed: ClassVar[bool] = True

    @property
    def stretches(self) -> Floats:
        """(m, 4, 2) control points."""
        following = np.roll(self.before, -1, axis=0), np.roll(self.nodes, -1, axis=0)
        return np.stack([self.nodes, self.after, *following], axis=1)

    def flat(self, sagitta_mm: float = FLAT_MM) -> Floats:
        """(n, 2) points of a ring that leaves the curve by `sagitta_mm` at most; the first not repeated."""
        u = self.places(sagitta_mm)
        which = u.astype(int)
        return np.asarray(np.einsum("kn,nkd->nd", bernstein(u - which), self.stretches[which]))

    def places(self, sagitta_mm: float = FLAT_MM) -> Floats:
        """(n,) where the points of `flat` lie: the number of their stretch, and how far along it from 0 to 1."""
        control = self.stretches
        # The second differences bound how far a chord leaves a cubic (Wang 1984).
        bend = np.hypot(*np.diff(control, 2, axis=1).transpose(2, 0, 1)).max(axis=1)
        counts = np.maximum(1, np.ceil(np.sqrt(0.75 * bend / sagitta_mm))).astype(int)
        which = np.repeat(np.arange(len(counts)), counts)
        within = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
        return np.asarray(which + within / counts[which])

    def part(self, begin: float, end: float) -> OpenCurve:
        """From one place to another, past the first node if need be; places as those of `places`, the second larger by
        at most once round."""
        inner = np.arange(np.floor(begin) + 1, np.ceil(end))
        u = np.concatenate([[begin], inner, [end]])
        which = np.floor((u[:-1] + u[1:]) / 2)
        ends = np.stack([u[:-1], u[1:]]) - which
        control = self.stretches[which.astype(int) % len(self.nodes)]
        # The blossom of a cubic at its ends so and so often (Ramshaw 1989) is its part's control points.
        corners = [_blossom(control, [ends[int(n < k)] for n in range(3)]) for k in range(4)]
        return OpenCurve(np.stack(corners, axis=1))

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


def _blossom(control: Floats, at: list[Floats]) -> Floats:
    """(m, 2) the polar forms of (m, 4, 2) cubics at three parameters each, by de Casteljau's steps."""
    for t in at:
        control = control[:, :-1] + (control[:, 1:] - control[:, :-1]) * t[:, None, None]
    return control[:, 0]


def straight(ring: Floats) -> Curve:
    """A closed (n, 2) ring as it is: straight stretches, every node a corner."""
    # A page of drawings has a hundred rings, and `np.roll` takes longer for each than all else here.
    behind, ahead = np.concatenate([ring[-1:], ring[:-1]]), np.concatenate([ring[1:], ring[:1]])
    corner = np.ones(len(ring), dtype=np.bool_)
    return Curve(ring, ring + (behind - ring) / 3, ring + (ahead - ring) / 3, corner)


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
