"""Shapes of marks as geometry, for files and screens, and as a picture, for the sensor to look for.

A shape is one object in `SHAPES`.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.sheet.mark_pattern import pattern_of
from perisect.core.sheet.marks import Mark, MarkSettings

ROUND = 24
"""Chords of a quarter circle."""

Picture = NDArray[np.float32]


def _soft(distance_mm: NDArray[np.floating], px_per_mm: float) -> Picture:
    """Ink by the distance inside an edge, mm: one pixel of soft edge."""
    return np.clip(distance_mm * px_per_mm + 0.5, 0, 1).astype(np.float32)


@dataclass(frozen=True)
class MarkShape:
    """A filled disc; other shapes differ from it in what they override."""

    name: str = "disc"
    title: str = "disc"
    turns: bool = False
    """Whether it is drawn differently in each corner of the sheet."""
    goes_on: bool = False
    """Whether its lines run on over the sheet, further than a sensor sees."""

    def ink(self, settings: MarkSettings, corner: tuple[int, int]) -> list[shapely.Polygon]:
        """Inked polygons about (0, 0), mm."""
        return [shapely.Point(0, 0).buffer(settings.radius_mm, quad_segs=ROUND)]

    def darkness(
        self, x: Picture, y: Picture, settings: MarkSettings, corner: tuple[int, int], px_per_mm: float
    ) -> Picture:
        """Ink 0 to 1 at places about (0, 0), mm."""
        return _soft(settings.radius_mm - np.hypot(x, y), px_per_mm)


class Quartered(MarkShape):
    """Perisect's own: a disc with two opposite quarters inked."""

    def ink(self, settings: MarkSettings, corner: tuple[int, int]) -> list[shapely.Polygon]:
        """Two quarters that meet in the centre."""
        quarter = np.linspace(0, np.pi / 2, ROUND + 1)
        arc = settings.radius_mm * np.column_stack([np.cos(quarter), np.sin(quarter)])
        return [shapely.Polygon([(0, 0), *(arc * sign)]) for sign in (1, -1)]

    def darkness(
        self, x: Picture, y: Picture, settings: MarkSettings, corner: tuple[int, int], px_per_mm: float
    ) -> Picture:
        """Positive in the inked quarters, by the distance to the nearer axis."""
        edge = (np.sign(x * y) * np.minimum(np.abs(x), np.abs(y))).astype(np.float32)
        return _soft(edge, px_per_mm) * _soft(settings.radius_mm - np.hypot(x, y), px_per_mm)


class Ring(MarkShape):
    """A ring of the line's weight."""

    def ink(self, settings: MarkSettings, corner: tuple[int, int]) -> list[shapely.Polygon]:
        """The disc without its middle."""
        return [ring_shape(settings.radius_mm - settings.line_mm, settings.radius_mm)]

    def darkness(
        self, x: Picture, y: Picture, settings: MarkSettings, corner: tuple[int, int], px_per_mm: float
    ) -> Picture:
        """Between both radii."""
        radius, outer = np.hypot(x, y), settings.radius_mm
        return _soft(outer - radius, px_per_mm) * _soft(radius - outer + settings.line_mm, px_per_mm)


SQUARE_SHARE = 0.8
"""Half a square's side in radii: its corners stay inside the ring of the first mark."""


class Square(MarkShape):
    """A filled square."""

    def ink(self, settings: MarkSettings, corner: tuple[int, int]) -> list[shapely.Polygon]:
        """The square."""
        r = settings.radius_mm * SQUARE_SHARE
        return [shapely.box(-r, -r, r, r)]

    def darkness(
        self, x: Picture, y: Picture, settings: MarkSettings, corner: tuple[int, int], px_per_mm: float
    ) -> Picture:
        """By the distance to the nearest side."""
        return _soft(settings.radius_mm * SQUARE_SHARE - np.maximum(np.abs(x), np.abs(y)), px_per_mm)


class Cross(MarkShape):
    """Two bars of the line's weight."""

    def ink(self, settings: MarkSettings, corner: tuple[int, int]) -> list[shapely.Polygon]:
        """Both bars as one."""
        r, half = settings.radius_mm, settings.line_mm / 2
        return [shapely.union(shapely.box(-r, -half, r, half), shapely.box(-half, -r, half, r))]

    def darkness(
        self, x: Picture, y: Picture, settings: MarkSettings, corner: tuple[int, int], px_per_mm: float
    ) -> Picture:
        """Near an axis and inside the square."""
        line = np.float32(settings.line_mm / 2)
        inside = settings.radius_mm - np.maximum(np.abs(x), np.abs(y))
        return _soft(line - np.minimum(np.abs(x), np.abs(y)), px_per_mm) * _soft(inside, px_per_mm)


class Angle(MarkShape):
    """A corner whose arms run into the sheet."""

    def ink(self, settings: MarkSettings, corner: tuple[int, int]) -> list[shapely.Polygon]:
        """Both arms as one."""
        r, half = settings.radius_mm, settings.line_mm / 2
        along, down = (sorted((-half * way, r * way)) for way in corner)
        arms = shapely.box(along[0], -half, along[1], half), shapely.box(-half, down[0], half, down[1])
        return [shapely.union(*arms)]

    def darkness(
        self, x: Picture, y: Picture, settings: MarkSettings, corner: tuple[int, int], px_per_mm: float
    ) -> Picture:
        """Arms that end at the radius."""
        inside = settings.radius_mm - np.maximum(np.abs(x), np.abs(y))
        return self._arms(x, y, settings, corner, px_per_mm) * _soft(inside, px_per_mm)

    def _arms(
        self, x: Picture, y: Picture, settings: MarkSettings, corner: tuple[int, int], px_per_mm: float
    ) -> Picture:
        line = np.float32(settings.line_mm / 2)
        u, v = x * corner[0], y * corner[1]
        across = _soft(line - np.abs(v), px_per_mm) * _soft(u + line, px_per_mm)
        down = _soft(line - np.abs(u), px_per_mm) * _soft(v + line, px_per_mm)
        return np.maximum(across, down)


class FrameCorner(Angle):
    """An angle whose arms go on as the frame's line."""

    def darkness(
        self, x: Picture, y: Picture, settings: MarkSettings, corner: tuple[int, int], px_per_mm: float
    ) -> Picture:
        """Arms without an end."""
        return self._arms(x, y, settings, corner, px_per_mm)


SHAPES: dict[str, MarkShape] = {
    shape.name: shape
    for shape in (
        Quartered("quartered", "quartered disc"),
        MarkShape("disc", "disc"),
        Ring("ring", "ring"),
        Square("square", "filled square"),
        Cross("cross", "cross"),
        Angle("angle", "corner angle", turns=True),
        FrameCorner("frame_corner", "corner of a frame", turns=True, goes_on=True),
    )
}


def mark_shape(mark: Mark, settings: MarkSettings) -> shapely.MultiPolygon:
    """Inked area of a mark in sheet mm, and the ring of a ringed one."""
    parts = SHAPES[mark.shape].ink(settings, mark.corner)
    if mark.kind == "ringed":
        parts = [*parts, ring_shape(settings.ring_inner_mm, settings.ring_outer_mm)]
    # Arms and corners may reach into the ring; parts that only touch in a point stay as they are.
    merged = shapely.union_all(parts) if SHAPES[mark.shape].turns else shapely.multipolygons(parts)
    whole = shapely.multipolygons(shapely.get_parts(merged))
    return shapely.transform(whole, lambda xy: xy + (mark.x_mm, mark.y_mm))


def ink_shapes(marks: Sequence[Mark], settings: MarkSettings) -> list[shapely.Geometry]:
    """Everything that is inked to register a sheet: the marks, and what joins them."""
    shapes: list[shapely.Geometry] = [mark_shape(mark, settings) for mark in marks]
    line = pattern_of(settings).joining_line(marks, settings)
    return shapes if line is None else [*shapes, shapely.multipolygons([line])]


def ring_shape(inner_mm: float, outer_mm: float) -> shapely.Polygon:
    """A ring about (0, 0)."""
    centre = shapely.Point(0, 0)
    return centre.buffer(outer_mm, quad_segs=ROUND).difference(centre.buffer(inner_mm, quad_segs=ROUND))


def mark_picture(
    settings: MarkSettings,
    ringed: bool,
    px_per_mm: float,
    half_mm: float,
    shape: str = "quartered",
    corner: tuple[int, int] = (1, 1),
) -> Picture:
    """Reflectance 0 to 1 of a mark, centred in a square of 2 `half_mm`, one pixel of soft edge."""
    half = round(half_mm * px_per_mm)
    axis = (np.arange(-half, half + 1, dtype=np.float32)) / np.float32(px_per_mm)
    x, y = np.broadcast_arrays(axis[None, :], axis[:, None])
    return (1 - mark_darkness(x, y, settings, ringed, px_per_mm, shape, corner)).astype(np.float32)


def mark_darkness(
    x: Picture,
    y: Picture,
    settings: MarkSettings,
    ringed: bool,
    px_per_mm: float,
    shape: str,
    corner: tuple[int, int],
) -> Picture:
    """Ink 0 to 1 of a mark, its ring with it, at places about its centre, mm."""
    ink = SHAPES[shape].darkness(x, y, settings, corner, px_per_mm)
    if not ringed:
        return ink
    radius = np.hypot(x, y)
    ring = _soft(radius - settings.ring_inner_mm, px_per_mm)
    return np.maximum(ink, ring * _soft(settings.ring_outer_mm - radius, px_per_mm))
