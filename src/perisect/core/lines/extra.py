"""Further lines of a design: each a process along an offset of the art, of another line, or of a shape."""

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.ops import substring

from perisect.core.curve import Chain, Curve
from perisect.core.lines.border import Growth
from perisect.core.lines.fitted import fitted
from perisect.core.lines.material import Tooling
from perisect.core.lines.perforate import Perforation, cuts_of, perforate
from perisect.core.lines.polygons import polygons_of
from perisect.core.lines.recipe import ExtraLineRecipe, LineRecipe
from perisect.core.lines.simple import simple_shape
from perisect.core.process import processes

STRAIGHT_ACROSS = ("level", "upright")
CLOSED = {record.name for record in processes() if record.closed}


@dataclass(frozen=True)
class ExtraLine:
    """A further line: its process, its geometry in design mm (polygons, or lines that are open), its curves
    where it is closed and whole, and its ties where it is perforated."""

    process: str
    shape: shapely.Geometry
    curves: tuple[Curve, ...] = ()
    perforations: tuple[Perforation, ...] = ()

    @property
    def chains(self) -> tuple[Chain, ...]:
        """Its lines as curves, none where they are not all."""
        if not self.perforations:
            return self.curves
        whole = all(len(each.parts) == len(each.cuts) for each in self.perforations)
        return tuple(part for each in self.perforations for part in each.parts) if whole else ()

    @property
    def cut(self) -> shapely.Geometry:
        """What the knife follows."""
        return cuts_of(self.perforations) if self.perforations else self.shape


def extra_line(
    extra: ExtraLineRecipe,
    recipe: LineRecipe,
    outline: shapely.MultiPolygon,
    own: shapely.MultiPolygon,
    outer: shapely.MultiPolygon,
    tooling: Tooling,
) -> ExtraLine | None:
    """One further line, None where its offset leaves nothing."""
    if extra.of in STRAIGHT_ACROSS:
        shape: shapely.Geometry = _across(extra, outer)
        return None if shape.is_empty else ExtraLine(extra.process, shape)
    shape = _closed(extra, outline, own, outer)
    if shape.is_empty:
        return None
    if extra.process == "perforate":
        return _perforated(shape, recipe, tooling)
    line = fitted(shape, recipe.fit_mm, recipe.keep_corners)
    return ExtraLine(extra.process, line.shape, line.curves)


def drawn_line(process: str, line: shapely.LineString, recipe: LineRecipe, tooling: Tooling) -> ExtraLine:
    """A line that a drawing held beside the piece's own, design mm. A perforated one is given ties, but for one that is
    a single cut between two already."""
    points = shapely.get_coordinates(line)
    if line.is_closed and len(points) > 3:
        shape = polygons_of(shapely.make_valid(shapely.Polygon(points)))
        if process == "perforate":
            return _perforated(shape, recipe, tooling)
        if process in CLOSED:
            smooth = fitted(shape, recipe.fit_mm, recipe.keep_corners)
            return ExtraLine(process, smooth.shape, smooth.curves)
    if process == "perforate" and line.length > recipe.cut_mm + recipe.tie_mm:
        return ExtraLine(process, _dashed(line, recipe.cut_mm, recipe.tie_mm))
    return ExtraLine(process, shapely.multilinestrings([line]))


def _perforated(shape: shapely.MultiPolygon, recipe: LineRecipe, tooling: Tooling) -> ExtraLine:
    """The outer rings of a shape as curves, with ties."""
    line = fitted(shape, recipe.fit_mm, recipe.keep_corners)
    loops = tuple(
        perforate(ring, recipe.cut_mm, recipe.tie_mm, tooling.tie_gf_per_mm, curve)
        for ring, curve in line.outer
    )
    return ExtraLine("perforate", line.shape, perforations=loops)


def _dashed(line: shapely.LineString, cut_mm: float, tie_mm: float) -> shapely.MultiLineString:
    """Cuts along an open line, one at each end, ties between them."""
    count = max(2, round((line.length + tie_mm) / (cut_mm + tie_mm)))
    cut = (line.length - (count - 1) * tie_mm) / count
    starts = np.arange(count) * (cut + tie_mm)
    return shapely.multilinestrings([substring(line, start, start + cut) for start in starts])


def _closed(
    extra: ExtraLineRecipe,
    outline: shapely.MultiPolygon,
    own: shapely.MultiPolygon,
    outer: shapely.MultiPolygon,
) -> shapely.MultiPolygon:
    match extra.of:
        case "art":
            return Growth(outline).by(extra.offset_mm)
        case "own":
            return Growth(own).by(extra.offset_mm)
        case "outer":
            return Growth(outer).by(extra.offset_mm)
        case "box":
            left, top, right, bottom = outer.bounds
            room = max(extra.offset_mm, -0.49 * min(right - left, bottom - top))
            box = shapely.box(left - room, top - room, right + room, bottom + room)
            return shapely.multipolygons([box])
        case _:
            return polygons_of(simple_shape(outer, extra.of, extra.offset_mm, 0.0))


def _across(extra: ExtraLineRecipe, outer: shapely.MultiPolygon) -> shapely.Geometry:
    """A straight line over the piece, `offset_mm` below or right of its middle, as far as the piece goes."""
    left, top, right, bottom = outer.bounds
    if extra.of == "level":
        y = (top + bottom) / 2 + extra.offset_mm
        line = shapely.linestrings([(left - 1, y), (right + 1, y)])
    else:
        x = (left + right) / 2 + extra.offset_mm
        line = shapely.linestrings([(x, top - 1), (x, bottom + 1)])
    parts = shapely.get_parts(shapely.intersection(line, outer))
    lines = parts[shapely.get_type_id(parts) == shapely.GeometryType.LINESTRING]
    return shapely.multilinestrings(lines) if len(lines) else shapely.MultiLineString()


def extras_reach(extras: tuple[ExtraLine, ...]) -> np.ndarray:
    """The polygons that further lines enclose."""
    closed = [
        part for extra in extras for part in shapely.get_parts(extra.shape) if part.geom_type == "Polygon"
    ]
    return np.array(closed, dtype=object)
