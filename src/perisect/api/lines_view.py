"""What the API says of a design's lines. Paths are SVG path data in design mm."""

from functools import lru_cache

import shapely
from pydantic import BaseModel

from perisect.core.finding import Finding
from perisect.core.formats import rings_of
from perisect.core.formats.svg import curve_data, path_data
from perisect.core.job import DesignRecipe
from perisect.core.job.effort import cut_seconds
from perisect.core.lines import CutLines
from perisect.core.lines.cuttability import measure


class HoleView(BaseModel):
    """A hole of the piece's line: a place in it, how far across, whether it is filled and cannot be kept."""

    place: tuple[float, float]
    across_mm: float
    filled: bool
    too_small: bool


class PerforationView(BaseModel):
    """How the perforated loops hold, all together."""

    ties: int
    tie_mm: float
    cut_mm: float
    hold_index: float
    hold_gf: float
    verdict: str


class NodeView(BaseModel):
    """A node of the piece's own line, and whether the line may turn there at an angle."""

    place: tuple[float, float]
    corner: bool


class MovingLinesView(BaseModel):
    """Lines of one design while something moves: what is drawn of them, no closer than a screen shows it and not yet as
    curves, and what is counted at once."""

    width_mm: float
    height_mm: float
    paths: dict[str, str]
    """Lines by process."""
    bleed: str
    outer_box_mm: tuple[float, float, float, float]
    pieces: int
    holes: int
    joins_at_mm: float | None
    perforation: PerforationView | None


class LinesView(MovingLinesView):
    """Lines of one design with what was measured along them, and the outline they go round."""

    holes_found: list[HoleView]
    outline: str
    outline_nodes: int
    node_list: list[NodeView]
    nodes: int
    nodes_before: int
    tightest_mm: float | None
    turns_per_100: float
    narrowest_neck_mm: float | None
    narrowest_slot_mm: float | None
    length_mm: float
    seconds: float
    findings: list[Finding]


def shape_path(shape: shapely.Geometry, decimals: int = 3) -> str:
    """All rings of polygons, or all lines, as one path."""
    if shape.geom_type == "MultiPolygon" and not shape.is_empty:
        return _polygons_path(shape, decimals)
    closed = shape.geom_type not in ("LineString", "MultiLineString")
    return "".join(path_data(ring, decimals, closed) for ring in rings_of(shape))


def _polygons_path(shape: shapely.MultiPolygon, decimals: int) -> str:
    # Written by GEOS in half the time that formatting ring by ring takes: "((a b, c d), (e f, g h)), ((...".
    text: str = shapely.to_wkt(shape, rounding_precision=decimals).removeprefix("MULTIPOLYGON ")
    rings = text.replace("(((", "M").replace(")))", "Z").replace(")), ((", "ZM").replace("), (", "ZM")
    return rings.replace(", ", " ")


@lru_cache(maxsize=256)
def _outline_path(outline: shapely.MultiPolygon) -> str:
    """An outline stays while its border moves."""
    return shape_path(outline)


def _line_path(lines: CutLines, process: str) -> str:
    """The lines of a process: curves where there are any, and what is not whole as it is cut."""
    curves = lines.curves_by_process().get(process, [])
    if curves:
        return "".join(curve_data(curve) for curve in curves)
    return shape_path(lines.by_process().get(process, shapely.MultiPolygon()))


def moving_view(lines: CutLines, design: DesignRecipe) -> MovingLinesView:
    """Lines for a screen on which something moves."""
    paths = {process: shape_path(shape, decimals=2) for process, shape in lines.by_process().items()}
    return _counted(lines, design, paths)


def _counted(lines: CutLines, design: DesignRecipe, paths: dict[str, str]) -> MovingLinesView:
    bleed = design.lines.bleed_mm
    return MovingLinesView(
        width_mm=lines.width_mm,
        height_mm=lines.height_mm,
        paths=paths,
        bleed=shape_path(shapely.buffer(lines.outline, bleed, quad_segs=8)) if bleed else "",
        outer_box_mm=lines.taken.bounds,
        pieces=lines.pieces,
        holes=lines.holes,
        joins_at_mm=lines.joins_at_mm,
        perforation=_perforation(lines),
    )


def lines_view(lines: CutLines, design: DesignRecipe, findings: list[Finding]) -> LinesView:
    """Lines for the screen."""
    measured = measure(lines)
    necks, slots = measured.narrow.necks, measured.narrow.slots
    paths = {process: _line_path(lines, process) for process in lines.by_process()}
    return LinesView(
        **dict(_counted(lines, design, paths)),
        holes_found=[
            HoleView(place=(h.x_mm, h.y_mm), across_mm=h.across_mm, filled=h.filled, too_small=h.too_small)
            for h in lines.holes_found
        ],
        node_list=[
            NodeView(place=(round(x, 3), round(y, 3)), corner=bool(corner))
            for curve in lines.own_line.curves
            for (x, y), corner in zip(curve.nodes.tolist(), curve.corner, strict=True)
        ],
        nodes=lines.nodes,
        nodes_before=lines.nodes_before,
        outline=_outline_path(lines.outline),
        outline_nodes=lines.outline_nodes,
        tightest_mm=measured.tightest_mm if measured.tightest_mm < 1e6 else None,
        turns_per_100=measured.turns_per_100,
        narrowest_neck_mm=necks[0].width_mm if necks else None,
        narrowest_slot_mm=slots[0].width_mm if slots else None,
        length_mm=measured.length_mm,
        seconds=round(cut_seconds(lines), 1),
        findings=findings,
    )


def _perforation(lines: CutLines) -> PerforationView | None:
    if not lines.perforations:
        return None
    worst = min(lines.perforations, key=lambda loop: loop.hold_index)
    return PerforationView(
        ties=sum(loop.ties for loop in lines.perforations),
        tie_mm=worst.tie_mm,
        cut_mm=worst.cut_mm,
        hold_index=worst.hold_index,
        hold_gf=sum(loop.hold_gf for loop in lines.perforations),
        verdict=worst.verdict,
    )
