"""Where the parts of a composition go: every place follows from the ink of what came before."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.artwork.words.ink import ink_of
from perisect.core.artwork.words.line import Letter, Line, set_line
from perisect.core.artwork.words.recipe import CompositionRecipe, GroundPart, PicturePart, WordsPart
from perisect.core.fonts.font import Font
from perisect.core.fonts.path import Path, joined

Floats = NDArray[np.float64]
Box = tuple[float, float, float, float]
SMOOTH_MM = 0.02
"""How finely an outline is walked along."""


@dataclass(frozen=True)
class PictureInk:
    """A picture's ink, all in shares of the ink's longest side from the top left of the ink's box.

    Attributes:
        ink: what is not clear.
        width: of the ink's box.
        height: of the ink's box.
        shown: x, y, width, height of the picture that is put into a drawing.
        whole: x, y, width, height of the whole picture.
        held: what its own cut line goes round; empty if it holds none.
        beside: lines beside that one, with their processes.
    """

    ink: shapely.MultiPolygon
    width: float
    height: float
    shown: Box = (0.0, 0.0, 1.0, 1.0)
    whole: Box = (0.0, 0.0, 1.0, 1.0)
    held: shapely.MultiPolygon = field(default_factory=shapely.MultiPolygon)
    beside: tuple[tuple[str, shapely.LineString], ...] = ()


@dataclass(frozen=True)
class PlacedPart:
    """A part as it is placed, mm: its ink, and a text's outlines as a path; a picture's (3, 3) from shares of its
    longest side; which font lacks which letters; by how much letters were closed (capital heights)."""

    number: int
    ink: shapely.Geometry
    path: Path | None = None
    picture: Floats | None = None
    source: PictureInk | None = None
    lacking: str = ""
    closed: float = 0.0

    def held_lines(self) -> dict[str, shapely.Geometry]:
        """Return the lines that a picture holds, mm: its own cut line under "cut", those beside it by process."""
        if self.source is None or self.picture is None or self.source.held.is_empty:
            return {}
        found: dict[str, list[shapely.Geometry]] = {"cut": [self.source.held.boundary]}
        for process, line in self.source.beside:
            found.setdefault(process, []).append(line)
        return {process: _through(shapely.union_all(lines), self.picture) for process, lines in found.items()}


@dataclass(frozen=True)
class Placed:
    """All parts but grounds in their order, then what their grounds go round: their ink together."""

    parts: tuple[PlacedPart, ...]
    grounds: tuple[PlacedPart, ...]

    def ink(self, recipe: CompositionRecipe, roles: Sequence[str]) -> shapely.Geometry:
        """The ink of parts of these roles, grounds among them."""
        found = [each.ink for each in (*self.parts, *self.grounds) if recipe.parts[each.number].role in roles]
        return shapely.union_all(found)


FontOf = Callable[[str], Font]


def place(recipe: CompositionRecipe, font_of: FontOf, pictures: Mapping[str, PictureInk]) -> Placed:
    """Place every part.

    Args:
        font_of: a font by its key.
        pictures: by the name of the picture as mended.
    """
    placed: list[PlacedPart] = []
    for number, part in enumerate(recipe.parts):
        base = shapely.union_all([each.ink for each in placed]) if placed else shapely.Point(0, 0)
        match part:
            case PicturePart():
                placed.append(_picture(number, part, pictures[part.picture]))
            case WordsPart():
                placed.append(_words(number, part, font_of(part.font), base, not placed))
            case GroundPart():
                pass
    inside = shapely.union_all([each.ink for each in placed])
    # Names of unlike lengths on one badge leave it as large as it is: its ground is centred on the first part.
    middle = _middle(placed[0].ink) if not placed[0].ink.is_empty else (0.0, 0.0)
    grounds = tuple(
        PlacedPart(number, ground_shape(part, inside, middle))
        for number, part in enumerate(recipe.parts)
        if isinstance(part, GroundPart)
    )
    return Placed(tuple(placed), grounds)


def _picture(number: int, part: PicturePart, picture: PictureInk) -> PlacedPart:
    middle = np.array([picture.width / 2, picture.height / 2])
    matrix = (
        _moved(part.x_mm, part.y_mm) @ _turned(part.turn_deg) @ _scaled(part.longest_mm) @ _moved(*-middle)
    )
    return PlacedPart(number, _through(picture.ink, matrix), picture=matrix, source=picture)


def _words(number: int, part: WordsPart, font: Font, base: shapely.Geometry, first: bool) -> PlacedPart:
    lines = [set_line(text, font, part.tracking, part.close) for text in part.text.split("\n")]
    size = part.size_mm
    placing = _straight if first and part.place not in ("on",) else _PLACINGS[part.place]
    if part.arc_mm and part.place in ("under", "over", "on"):
        placing = _bent
    each = placing(part, lines, base)
    letters = [(letter, each(line, number)) for number, line in enumerate(lines) for letter in line.letters]
    matrices = [at(letter) @ _scaled(size) for letter, at in letters]
    inks = [
        _through(letter.ink, m) for (letter, _), m in zip(letters, matrices, strict=True) if letter.has_ink
    ]
    ink = shapely.union_all(inks)
    if not inks:
        return PlacedPart(number, shapely.MultiPolygon(), lacking="".join(line.lacking for line in lines))
    moved = _moved(*_to_its_place(part, ink, base, first))
    middle = _middle(_through(ink, moved))
    final = _moved(part.x_mm, part.y_mm) @ _about(middle, part.turn_deg) @ moved
    paths = [_path(letter, final @ m, part.close) for (letter, _), m in zip(letters, matrices, strict=True)]
    return PlacedPart(
        number,
        _through(ink, final),
        joined([path for path in paths if path is not None]),
        lacking="".join(sorted({letter for line in lines for letter in line.lacking})),
        closed=max((line.closed for line in lines), default=0.0),
    )


At = Callable[[Letter], Floats]
LinePlacing = Callable[[Line, int], At]


def _line_starts(part: WordsPart, lines: Sequence[Line]) -> list[float]:
    """Where each line begins, mm from the left of the widest: by its ink, not by the room a font gives it."""
    boxes = [shapely.bounds(line.ink) for line in lines]
    widths = [0.0 if np.isnan(box[0]) else float(box[2] - box[0]) for box in boxes]
    share = {"left": 0.0, "centre": 0.5, "right": 1.0}[part.align]
    return [
        ((max(widths) - width) * share - (0.0 if np.isnan(box[0]) else float(box[0]))) * part.size_mm
        for box, width in zip(boxes, widths, strict=True)
    ]


def _straight(part: WordsPart, lines: Sequence[Line], _: shapely.Geometry) -> LinePlacing:
    starts = _line_starts(part, lines)

    def at(_line: Line, number: int) -> At:
        y = number * part.leading * part.size_mm
        return lambda letter: _moved(starts[number] + letter.x * part.size_mm, y + letter.y * part.size_mm)

    return at


def _bent(part: WordsPart, lines: Sequence[Line], _: shapely.Geometry) -> LinePlacing:
    """On an arc of the part's own radius: over a middle below it where that is more than 0, else under one above."""
    radius = part.arc_mm or 1.0
    up = radius > 0

    def at(line: Line, number: int) -> At:
        reach = abs(radius) + (-1 if up else 1) * number * part.leading * part.size_mm
        return _on_circle(line, part.size_mm, (0.0, 0.0), max(reach, part.size_mm), up)

    return at


def _round(part: WordsPart, lines: Sequence[Line], base: shapely.Geometry) -> LinePlacing:
    """On the circle round what came before: over its top, or under its bottom with the letters upright."""
    up = part.place == "round"
    circle = shapely.minimum_bounding_circle(base)
    centre = (float(circle.centroid.x), float(circle.centroid.y))
    around = float(shapely.minimum_bounding_radius(base)) + part.gap_mm

    def at(line: Line, number: int) -> At:
        rows = number if not up else len(lines) - 1 - number
        deep = 0.0 if up else part.size_mm
        return _on_circle(
            line, part.size_mm, centre, max(around + deep + rows * part.leading * part.size_mm, 1.0), up
        )

    return at


def _on_circle(line: Line, size: float, centre: tuple[float, float], radius: float, up: bool) -> At:
    """Letters on a circle, the middle of the line's ink at its top or its bottom."""
    box = shapely.bounds(line.ink)
    middle = 0.0 if np.isnan(box[0]) else float(box[0] + box[2]) / 2

    def at(letter: Letter) -> Floats:
        half = letter.room / 2
        angle = (letter.x + half - middle) * size / radius
        turn = angle if up else -angle
        way = -1 if up else 1
        there = np.array(centre) + radius * np.array([np.sin(angle), way * np.cos(angle)])
        return _moved(*there) @ _turned(np.degrees(turn)) @ _moved(-half * size, letter.y * size)

    return at


def _along(part: WordsPart, lines: Sequence[Line], base: shapely.Geometry) -> LinePlacing:
    """Along the outline of what came before, its middle over the top of it."""

    def at(line: Line, number: int) -> At:
        away = part.gap_mm + (len(lines) - 1 - number) * part.leading * part.size_mm
        grown = shapely.buffer(shapely.concave_hull(base, 0.6), max(away, 0.05) + part.size_mm, quad_segs=24)
        smooth = shapely.buffer(grown, -part.size_mm, quad_segs=24)
        outer = max(shapely.get_parts(smooth), key=lambda each: float(each.area))
        ring = shapely.orient_polygons(outer, exterior_cw=False).exterior
        length = float(ring.length)
        top = _top_of(ring)
        box = shapely.bounds(line.ink)
        middle = 0.0 if np.isnan(box[0]) else float(box[0] + box[2]) / 2

        def here(s: float) -> Floats:
            point = shapely.line_interpolate_point(ring, s % length)
            return np.array([point.x, point.y])

        def letter_at(letter: Letter) -> Floats:
            half = letter.room / 2 * part.size_mm
            s = top + (letter.x - middle) * part.size_mm
            first, last = here(s), here(s + 2 * half)
            turn = np.degrees(np.arctan2(*(last - first)[::-1]))
            return _moved(*((first + last) / 2)) @ _turned(turn) @ _moved(-half, letter.y * part.size_mm)

        return letter_at

    return at


def _top_of(ring: shapely.LinearRing) -> float:
    """How far along a ring its top is, over the middle of it where it is level there."""
    points = shapely.get_coordinates(ring)
    middle = (points[:, 0].min() + points[:, 0].max()) / 2
    high = points[points[:, 1] <= points[:, 1].min() + SMOOTH_MM]
    top = high[np.abs(high[:, 0] - middle).argmin()]
    return float(shapely.line_locate_point(ring, shapely.Point(top)))


_PLACINGS: dict[str, Callable[[WordsPart, Sequence[Line], shapely.Geometry], LinePlacing]] = {
    "under": _straight,
    "over": _straight,
    "on": _straight,
    "round": _round,
    "ring": _round,
    "outline": _along,
}


def _to_its_place(
    part: WordsPart, ink: shapely.Geometry, base: shapely.Geometry, first: bool
) -> tuple[float, float]:
    """By how much a text's ink is moved: under, over or on the middle of what came before."""
    x, y = _middle(ink)
    if first:
        return -x, -y
    if part.place in ("round", "ring", "outline"):
        return 0.0, 0.0
    there = shapely.bounds(base)
    bx, by = _middle(base)
    own = shapely.bounds(ink)
    if part.place == "on":
        return bx - x, by - y
    dy = there[3] + part.gap_mm - own[1] if part.place == "under" else there[1] - part.gap_mm - own[3]
    return bx - x, float(dy)


def ground_shape(part: GroundPart, inside: shapely.Geometry, middle: tuple[float, float]) -> shapely.Geometry:
    """The least shape of its kind about a middle that holds what is inside with its margin."""
    points = shapely.get_coordinates(inside) - middle
    wide, high = (float(side) + part.margin_mm for side in np.abs(points).max(axis=0))
    match part.shape:
        case "circle":
            radius = max(float(np.hypot(*points.T).max()) + part.margin_mm, 1.0)
            shape = shapely.buffer(shapely.Point(middle), radius, quad_segs=64)
        case "ellipse":
            unit = shapely.buffer(shapely.Point(0, 0), 1.0, quad_segs=64)
            stretch = np.array([max(wide * 2**0.5, 1.0), max(high * 2**0.5, 1.0)])
            shape = shapely.transform(unit, lambda xy: xy * stretch + middle)
        case _:
            wide, high = max(wide, 1.0), max(high, 1.0)
            shape = shapely.box(middle[0] - wide, middle[1] - high, middle[0] + wide, middle[1] + high)
            radius = min(part.radius_mm, wide - 0.01, high - 0.01) if part.shape == "rounded" else 0.0
            if radius > 0:
                shape = shapely.buffer(shapely.buffer(shape, -radius), radius, quad_segs=32)
    turned = _through(shape, _about(middle, part.turn_deg))
    return _through(turned, _moved(part.x_mm, part.y_mm))


def _path(letter: Letter, matrix: Floats, close: str) -> Path | None:
    """A letter's outlines through a matrix: as the font draws it, unless its loose parts were moved."""
    if not letter.has_ink:
        return None
    drawn = letter.font.outline(letter.glyph)
    if close != "no" and len(shapely.get_parts(letter.ink)) != len(_loose(letter)):
        rings = [
            shapely.get_coordinates(ring)[:-1]
            for part in shapely.get_parts(letter.ink)
            for ring in (part.exterior, *part.interiors)
        ]
        letters = "".join("M" + "L" * (len(ring) - 1) + "Z" for ring in rings)
        drawn = Path(letters, np.vstack(rings))
    return Path(drawn.letters, _points(drawn.points, matrix))


def _loose(letter: Letter) -> Sequence[shapely.Polygon]:
    return list(shapely.get_parts(ink_of(letter.font, letter.glyph)))


def _middle(shape: shapely.Geometry) -> tuple[float, float]:
    left, top, right, bottom = shapely.bounds(shape)
    return float(left + right) / 2, float(top + bottom) / 2


def _points(points: Floats, matrix: Floats) -> Floats:
    return np.asarray(points @ matrix[:2, :2].T + matrix[:2, 2])


def _through(shape: shapely.Geometry, matrix: Floats) -> shapely.Geometry:
    return shapely.transform(shape, lambda xy: _points(xy, matrix))


def _moved(x: float, y: float) -> Floats:
    return np.array([[1, 0, x], [0, 1, y], [0, 0, 1]], float)


def _scaled(by: float) -> Floats:
    return np.diag([by, by, 1.0])


def _turned(degrees: float) -> Floats:
    """Clockwise as it is seen, for y goes down."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    return np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]])


def _about(middle: tuple[float, float], degrees: float) -> Floats:
    return _moved(*middle) @ _turned(degrees) @ _moved(-middle[0], -middle[1])
