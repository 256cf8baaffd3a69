"""A shape grown or shrunk by a border."""

from dataclasses import dataclass, fields

import shapely

from perisect.core.lines.polygons import SAGITTA_MM, polygons_of, quarter_segments, reduced


@dataclass(frozen=True)
class Fineness:
    """How closely lines are worked out: tolerances in mm."""

    line_mm: float = 0.005
    """Reduction of the finished line; with trace and sagitta it stays well within 0.05 mm."""
    outline_mm: float = 0.015
    """Reduction of the outline before it is grown: growing costs time for every node of it."""
    rung_mm: float = 0.0015
    """Reduction at a rung; seven of them together stay under a hundredth."""
    chord_mm: float = SAGITTA_MM
    """How far a chord may leave the round corner it stands for."""
    bend_mm: float = 0.001
    """The same where a radius is promised, and of the reduction there: a long chord ends in a corner."""

    @classmethod
    def on_screen(cls, longest_mm: float) -> "Fineness":
        """For a line that is only drawn, while something moves: what all steps together may leave it by is a fraction
        of a pixel where the whole piece, `longest_mm` across, is shown. Never closer than what is kept."""
        close = longest_mm / 7_000
        kept = cls()
        return cls(**{each.name: max(close, getattr(kept, each.name)) for each in fields(cls)})


KEPT = Fineness()

RUNGS_MM = (0.25, 0.5, 1.0, 2.0, 4.0, 8.0, 16.0)
"""A border is grown from the rung below it. Growing twice by discs is growing once by their sum; the
first small rungs melt the fine wiggles whose large offsets would all cross each other, and while a
slider moves only the last short way is new."""

DRAWN_RUNGS_MM = (0.5, 2.0)
"""Fewer for a line that is only drawn, of a shape that is asked for once and has been rounded before."""


class Growth:
    """A shape in mm that is asked for at many distances; the rungs on the way are kept."""

    def __init__(
        self, shape: shapely.Geometry, fineness: Fineness = KEPT, rungs_mm: tuple[float, ...] = RUNGS_MM
    ) -> None:
        self._shape = shape
        self._fineness = fineness
        self._rungs_mm = rungs_mm
        self._rungs: dict[float, shapely.Geometry] = {}

    def by(self, distance_mm: float, corner: str = "round", mitre_limit: float = 4.0) -> shapely.MultiPolygon:
        """The shape grown outward, or shrunk by a negative distance; holes go the other way and may close.

        Args:
            corner: round, mitre or bevel, as the line goes round corners that grow.
            mitre_limit: how many distances far a pointed corner may reach before it is cut off.
        """
        if distance_mm == 0:
            return polygons_of(reduced(self._shape, self._fineness.line_mm))
        if corner == "round" and distance_mm > 0:
            grown = self._grown(distance_mm)
        else:
            segments = quarter_segments(abs(distance_mm), self._fineness.chord_mm)
            grown = shapely.buffer(
                self._shape, distance_mm, quad_segs=segments, join_style=corner, mitre_limit=mitre_limit
            )
        return polygons_of(reduced(grown, self._fineness.line_mm))

    def _grown(self, distance_mm: float) -> shapely.Geometry:
        below = max((rung for rung in self._rungs_mm if rung < distance_mm), default=0.0)
        start = self._rung(below) if below else self._shape
        step = distance_mm - below
        return shapely.buffer(start, step, quad_segs=quarter_segments(step, self._fineness.chord_mm))

    def _rung(self, rung_mm: float) -> shapely.Geometry:
        if rung_mm not in self._rungs:
            self._rungs[rung_mm] = reduced(self._grown(rung_mm), self._fineness.rung_mm)
        return self._rungs[rung_mm]
