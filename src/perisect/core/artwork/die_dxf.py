"""A DXF drawing as an SVG of its lines, by layer; its blocks, curves and polylines are followed, nothing else is."""

import io
import logging
import re
from collections import defaultdict
from typing import TYPE_CHECKING
from xml.sax.saxutils import quoteattr

import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.errors import ArtworkError
from perisect.core.artwork.held_line import names_a_line

if TYPE_CHECKING:
    from collections.abc import Iterable

    from ezdxf.document import Drawing
    from ezdxf.entities import DXFEntity

# A broken drawing could fill the log with a line for each of its handles.
logging.getLogger("ezdxf").setLevel(logging.CRITICAL)

MOST_BYTES = 30_000_000
MOST_ENTITIES, MOST_POINTS = 20_000, 400_000
FLAT_MM = 0.005
LONGEST_MM, FARTHEST_MM = 5000.0, 1e6
TRUE_SIZE = "Export it in mm at the size it is cut."
LINE_MM = 0.2
FOLLOWED = {"LINE", "LWPOLYLINE", "POLYLINE", "CIRCLE", "ARC", "ELLIPSE", "SPLINE"}
BLOCK_OF = {"INSERT": "name", "DIMENSION": "geometry"}
"""Attribute of an entity that names the block it shows."""
MM_IN = {0: 1.0, 1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 13: 0.001}
"""mm for a unit of the drawing, by the number DXF has for it (group code 70 of $INSUNITS); none is taken for mm."""
PLAIN = "cut"
"""The layer of all lines where no layer says what it is for."""


def looks_like_dxf(data: bytes) -> bool:
    """Whether the first bytes are those of a drawing in plain text."""
    head = data[:4000].lstrip(b"\xef\xbb\xbf")
    return bool(re.match(rb"\s*(999\r?\n[^\n]*\n\s*)*0\r?\n\s*SECTION\r?\n", head))


def svg_of(data: bytes) -> tuple[bytes, tuple[str, ...]]:
    """The lines as an SVG in mm, a group for each layer, and what is to be said of them.

    Raises:
        ArtworkError: damaged, or nothing in it is a line.
    """
    if len(data) > MOST_BYTES:
        raise ArtworkError("The drawing is larger than 30 MB.", "Export the die alone.")
    drawing = _read(data)
    unit = int(drawing.header.get("$INSUNITS", 0) or 0)
    mm = MM_IN.get(unit, 1.0)
    layers, left_out = _layers(drawing, mm)
    if not layers:
        raise ArtworkError(
            "The drawing holds no lines.", "Export the die as lines, arcs or polylines, and drop it again."
        )
    notes = [] if unit in MM_IN and unit else ["It states no unit; its numbers are read as mm."]
    named = [layer for layer in layers if names_a_line(layer)]
    if named and len(named) < len(layers):
        others = ", ".join(sorted(layers.keys() - set(named)))[:120]
        notes.append(f"Layers that are named for no cut were left out: {others}.")
        layers = {layer: layers[layer] for layer in named}
    if left_out:
        notes.append(f"What is no line was left out: {', '.join(sorted(left_out))[:120]}.")
    return _svg(layers, bool(named)), tuple(notes)


def _read(data: bytes) -> "Drawing":
    import ezdxf
    import ezdxf.recover  # Half a second to import, and few files need it.

    try:
        drawing, _ = ezdxf.recover.read(io.BytesIO(data))
    except Exception as error:
        # The reader raises whatever a broken file leads it to; all of it means the same to a person.
        raise ArtworkError("The drawing is damaged or cut off.", "Export it again as DXF.") from error
    return drawing


def _layers(drawing: "Drawing", mm: float) -> tuple[dict[str, list[NDArray[np.float64]]], set[str]]:
    """(n, 2) points in mm, y up, of every line by layer; kinds of entities that are none."""
    from ezdxf import disassemble, path

    if _expanded(drawing) > MOST_ENTITIES:
        raise ArtworkError("The drawing has too many parts.", "Export the die alone.")
    layers: dict[str, list[NDArray[np.float64]]] = defaultdict(list)
    others: set[str] = set()
    points = 0
    try:
        for number, entity in enumerate(disassemble.recursive_decompose(drawing.modelspace())):
            if number >= MOST_ENTITIES or points > MOST_POINTS:
                raise ArtworkError("The drawing has too many parts.", "Export the die alone.")
            if entity.dxftype() not in FOLLOWED:
                others.add(entity.dxftype())
                continue
            for part in path.make_path(entity).sub_paths():
                reach = np.array([(at.x, at.y) for at in part.control_vertices()]) * mm
                # No chord is short enough for what has no end.
                if not (np.abs(reach) < FARTHEST_MM).all():
                    raise ArtworkError("The drawing reaches farther than a kilometre.", TRUE_SIZE)
                line = np.array([(at.x, at.y) for at in part.flattening(FLAT_MM / mm)]) * mm
                if len(line) > 1:
                    layers[entity.dxf.get("layer", "0")].append(line)
                    points += len(line)
    except ArtworkError:
        raise
    except Exception as error:
        raise ArtworkError("The drawing is damaged or cut off.", "Export it again as DXF.") from error
    return dict(layers), others


def _expanded(drawing: "Drawing") -> int:
    """Count what a drawing holds once its blocks are put in, arrays of them too; no block is put in for it.

    Returns:
        The count, or a number above `MOST_ENTITIES` where it is larger than that.
    """
    counts: dict[str, int] = {}

    def count(entities: "Iterable[DXFEntity]", inside: frozenset[str]) -> int:
        total = 0
        for entity in entities:
            total += 1
            told = BLOCK_OF.get(entity.dxftype())
            name = "" if told is None else str(entity.dxf.get(told, ""))
            if not name or name in inside:
                continue
            if name not in counts:
                block = drawing.blocks.get(name)
                counts[name] = 0 if block is None else count(block, inside | {name})
            # An insert that holds nothing is put in all the same.
            total += max(1, counts[name]) * max(1, int(getattr(entity, "mcount", 1)))
            if total > MOST_ENTITIES:
                return MOST_ENTITIES + 1
        return total

    try:
        return count(drawing.modelspace(), frozenset())
    except RecursionError:
        return MOST_ENTITIES + 1


def _svg(layers: dict[str, list[NDArray[np.float64]]], are_named: bool) -> bytes:
    every = np.concatenate([line for lines in layers.values() for line in lines])
    low, high = every.min(axis=0) - LINE_MM, every.max(axis=0) + LINE_MM
    width, height = high - low
    if not max(width, height) <= LONGEST_MM:
        raise ArtworkError(f"The die is {max(width, height) / 1000:.3g} m long.", TRUE_SIZE)
    groups = []
    for layer, lines in layers.items():
        data = "".join(_path(np.column_stack([line[:, 0] - low[0], high[1] - line[:, 1]])) for line in lines)
        name = quoteattr(layer if are_named else PLAIN)
        groups.append(
            f'<g id={name}><path d="{data}" fill="none" stroke="#000" stroke-width="{LINE_MM}"/></g>'
        )
    box = f'width="{width:.4f}mm" height="{height:.4f}mm" viewBox="0 0 {width:.4f} {height:.4f}"'
    return f'<svg xmlns="http://www.w3.org/2000/svg" {box}>{"".join(groups)}</svg>'.encode()


def _path(line: NDArray[np.float64]) -> str:
    places = " ".join(f"{x:.4f},{y:.4f}" for x, y in line.tolist())
    return f"M{places}" + ("Z" if np.allclose(line[0], line[-1], atol=FLAT_MM) else "")
