"""A composition as a drawing: SVG in true millimetres that carries what it was made from."""

import base64
import html
import json
import re
import xml.etree.ElementTree as ET
from collections.abc import Mapping

import numpy as np
import shapely

from perisect.core.artwork.words.place import Placed, PlacedPart
from perisect.core.artwork.words.recipe import CompositionRecipe, GroundPart, WordsPart

ROLE = "data-role"
"""Attribute of what is printed only (`print`) or cut round only (`cut`)."""
METADATA = "perisect-composition"
MOST_MOTIFS = 6000
AROUND_MM = 0.2
"""Left round the drawing, so that its edge is drawn whole."""


class TooFine(ValueError):
    """A pattern of more motifs than can be meant."""


def draw(recipe: CompositionRecipe, placed: Placed, pngs: Mapping[str, bytes]) -> str:
    """The drawing.

    Args:
        pngs: pictures as mended, cropped to their ink, by name.

    Raises:
        TooFine.
    """
    lines = held_lines(recipe, placed)
    everything = placed.ink(recipe, ("both", "print", "cut"))
    drawn = shapely.union_all([shapely.box(*shapely.bounds(each)) for each in (everything, *lines.values())])
    left, top, right, bottom = shapely.bounds(drawn) + (-AROUND_MM, -AROUND_MM, AROUND_MM, AROUND_MM)
    width, height = right - left, bottom - top
    parts = [_ground(recipe.parts[each.number], each) for each in placed.grounds]
    parts += [_part(recipe, each, pngs) for each in placed.parts]
    parts += [_lines(process, line) for process, line in lines.items()]
    told = html.escape(json.dumps(recipe.model_dump(mode="json"), ensure_ascii=False), quote=False)
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" '
        f'width="{width:.4f}mm" height="{height:.4f}mm" viewBox="{left:.4f} {top:.4f} {width:.4f} {height:.4f}">\n'
        f'<metadata id="{METADATA}">{told}</metadata>\n' + "\n".join(parts) + "\n</svg>\n"
    )


def held_lines(recipe: CompositionRecipe, placed: Placed) -> dict[str, shapely.Geometry]:
    """Return the lines that the pictures of a composition hold, mm: cut lines under "cut", others by process.

    A picture that is printed only brings none.
    """
    found: dict[str, list[shapely.Geometry]] = {}
    for each in placed.parts:
        if recipe.parts[each.number].role != "print":
            for process, line in each.held_lines().items():
                found.setdefault(process, []).append(line)
    return {process: shapely.union_all(lines) for process, lines in found.items()}


def composition_in(data: bytes) -> CompositionRecipe | None:
    """What a drawing of ours was made from; None for any other file."""
    if METADATA.encode() not in data[:4000]:
        return None
    found = re.search(
        rf'<metadata id="{METADATA}">(.*?)</metadata>', data[:400_000].decode("utf-8", "replace"), re.S
    )
    if found is None:
        return None
    try:
        return CompositionRecipe.model_validate_json(html.unescape(found[1]))
    except ValueError:
        return None


def _part(recipe: CompositionRecipe, placed: PlacedPart, pngs: Mapping[str, bytes]) -> str:
    part = recipe.parts[placed.number]
    if isinstance(part, WordsPart):
        path = "" if placed.path is None else placed.path.svg()
        return _group(part.role, f'<path fill="{part.colour}" d="{path}"/>')
    assert placed.picture is not None
    assert placed.source is not None
    m = placed.picture
    x, y, width, height = placed.source.shown
    matrix = " ".join(f"{n:.6f}" for n in (m[0, 0], m[1, 0], m[0, 1], m[1, 1], m[0, 2], m[1, 2]))
    data = base64.b64encode(pngs[part.picture]).decode("ascii")  # type: ignore[union-attr]
    image = (
        f'<image transform="matrix({matrix})" x="{x:.6f}" y="{y:.6f}" width="{width:.6f}" height="{height:.6f}" '
        f'preserveAspectRatio="none" xlink:href="data:image/png;base64,{data}"/>'
    )
    return _group(part.role, image)


def _lines(process: str, lines: shapely.Geometry) -> str:
    """Lines for a plotter, in a layer by the name that a reader of drawings knows them by."""
    rings = [shapely.get_coordinates(line).tolist() for line in shapely.get_parts(shapely.line_merge(lines))]
    data = "".join(
        "M"
        + " ".join(f"{x:.4f},{y:.4f}" for x, y in (ring[:-1] if ring[0] == ring[-1] else ring))
        + ("Z" if ring[0] == ring[-1] else "")
        for ring in rings
    )
    return f'<g id="{process}"><path fill="none" stroke="#000" stroke-width="0.1" d="{data}"/></g>'


def _group(role: str, inside: str) -> str:
    return f"<g>{inside}</g>" if role == "both" else f'<g {ROLE}="{role}">{inside}</g>'


def _ground(part: object, placed: PlacedPart) -> str:
    assert isinstance(part, GroundPart)
    outline = path_of(placed.ink)
    second = part.second or "#ffffff"
    if part.pattern == "fade":
        key = f"fade{placed.number}"
        stops = f'<stop offset="0" stop-color="{part.colour}"/><stop offset="1" stop-color="{second}"/>'
        paint = f'<linearGradient id="{key}" x1="0" y1="0" x2="0" y2="1">{stops}</linearGradient>'
        return _group(part.role, f'{paint}<path fill="url(#{key})" d="{outline}"/>')
    inside = f'<path fill="{part.colour}" d="{outline}"/>'
    if part.pattern != "none":
        inside += f'<path fill="{second}" d="{path_of(motifs(part, placed.ink))}"/>'
    return _group(part.role, inside)


def motifs(part: GroundPart, shape: shapely.Geometry) -> shapely.Geometry:
    """A pattern's motifs where they lie on the ground, from its middle outwards.

    Raises:
        TooFine.
    """
    left, top, right, bottom = shapely.bounds(shape)
    pitch = part.pattern_mm
    columns, rows = int((right - left) / pitch) + 2, int((bottom - top) / pitch) + 2
    count = columns if part.pattern == "stripes" else columns * rows
    if count > MOST_MOTIFS:
        raise TooFine("The pattern is so fine that nobody would see it: make it coarser.")
    x0, y0 = (left + right) / 2, (top + bottom) / 2
    n, m = np.arange(columns) - columns // 2, np.arange(rows) - rows // 2
    if part.pattern == "stripes":
        found = shapely.box(x0 + n * pitch - pitch / 4, top - 1, x0 + n * pitch + pitch / 4, bottom + 1)
    else:
        x, y = (each.ravel() for each in np.meshgrid(x0 + n * pitch, y0 + m * pitch))
        if part.pattern == "dots":
            shifted = x + np.where((np.round((y - y0) / pitch).astype(int)) % 2, pitch / 2, 0.0)
            found = shapely.buffer(shapely.points(shifted, y), pitch / 4, quad_segs=10)
        else:
            even = (np.round((x - x0) / pitch) + np.round((y - y0) / pitch)) % 2 == 0
            x, y = x[even], y[even]
            found = shapely.box(x - pitch / 2, y - pitch / 2, x + pitch / 2, y + pitch / 2)
    return shapely.intersection(shapely.union_all(found), shape)


def path_of(shape: shapely.Geometry) -> str:
    """Path data of polygons, mm."""
    parts = [part for part in shapely.get_parts(shape) if part.geom_type == "Polygon"]
    rings = [ring for part in parts for ring in (part.exterior, *part.interiors)]
    drawn = []
    for ring in rings:
        points = " ".join(f"{x:.4f},{y:.4f}" for x, y in shapely.get_coordinates(ring)[:-1].tolist())
        drawn.append(f"M{points}Z")
    return "".join(drawn)


def shown_and_cut(root: ET.Element) -> tuple[bool, bool]:
    """Whether a drawing has parts that are printed only, and parts that are cut round only."""
    roles = {element.get(ROLE) for element in root.iter()}
    return "print" in roles, "cut" in roles


def without_role(root: ET.Element, role: str) -> None:
    """Take the parts of a role out of a drawing."""
    for parent in list(root.iter()):
        for child in [child for child in parent if child.get(ROLE) == role]:
            parent.remove(child)
