"""SVG to pixels, fine enough for any sticker. Nothing outside the file is ever read."""

import copy
import io
import re
import xml.etree.ElementTree as ET
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import cv2
import numpy as np
import resvg_py
import shapely
from numpy.typing import NDArray
from PIL import Image

from perisect.core.artwork.die import NoDie, die_shape
from perisect.core.artwork.errors import ArtworkError
from perisect.core.artwork.held_line import FurtherLine, HeldLine, Parted, goes_round, is_thin, parted
from perisect.core.artwork.rendered import MOST_ASPECT, Decoded, rendering_px
from perisect.core.artwork.shapes import Shapes, paths_of, shapes_of
from perisect.core.artwork.undrawn import undrawn
from perisect.core.artwork.words.draw import shown_and_cut, without_role
from perisect.core.fonts import FAMILY, FOLDER

MOST_ELEMENTS = 200_000
SNAP_MM, SNAP_PX = 0.02, 0.7
"""Ends of a die's lines that are so near each other are meant to meet."""

_FONTS: dict[str, Any] = {
    "font_dirs": [str(FOLDER)],
    **{
        f"{name}family": FAMILY
        for name in ("font_", "serif_", "sans_serif_", "cursive_", "fantasy_", "monospace_")
    },
}
"""Text whose font is not on this machine is drawn with one that ships, not left out."""

PX_PER_MM = 96 / 25.4
_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_UNIT_PX = {"": 1.0, "px": 1.0, "pt": 96 / 72, "pc": 16.0, "mm": 96 / 25.4, "cm": 960 / 25.4, "in": 96.0}


# Drawings that are written again keep SVG as their plain namespace, which is all that some readers know.
ET.register_namespace("", "http://www.w3.org/2000/svg")


def looks_like_svg(data: bytes) -> bool:
    """Whether the first bytes are those of an SVG document."""
    head = data[:2000].lstrip(b"\xef\xbb\xbf").lstrip()
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return b"<svg" in data[:40_000].replace(b"\0", b"")
    return head.startswith(b"<") and b"<svg" in data[:20_000]


def render_svg(data: bytes) -> Decoded:
    """A drawing as pixels and, where they tell its outline, as shapes.

    Raises:
        ArtworkError: not well formed, declares entities, refers to anything outside itself, has no size.
    """
    data = _utf8(data)
    if b"<!DOCTYPE" in data[:4000] and b"[" in data[:4000].split(b"<!DOCTYPE", 1)[1].split(b">", 1)[0]:
        raise ArtworkError(
            "The drawing declares entities.", "Export it as plain SVG, without a DTD of its own."
        )
    if b"<!ENTITY" in data:
        raise ArtworkError(
            "The drawing declares entities.", "Export it as plain SVG, without a DTD of its own."
        )
    try:
        root = ET.fromstring(data.decode("utf-8-sig"))
    except (UnicodeDecodeError, ET.ParseError, ValueError) as error:
        raise ArtworkError("The drawing is damaged or cut off.", "Export it again as SVG.") from error
    notes = _inspect(root)
    width, height = _size(root)
    if not 1 / MOST_ASPECT <= width / height <= MOST_ASPECT:
        raise ArtworkError("The drawing is far longer than it is wide.", "Export the part you want to cut.")
    mm_per_px = _at_rendered_size(root, width, height)
    held = None
    for round_the_piece in (True, False):
        parts = parted(root, round_the_piece)
        held, art = (None, root) if parts is None else _held(parts, mm_per_px)
        if held is not None:
            root = art
            break
    printed_only, cut_only = shown_and_cut(root)
    if printed_only or cut_only:
        return replace(_by_role(root, notes), held=held, mm_per_px=mm_per_px)
    text = _text(root)
    rgba = _pixels(text)
    shapes = shapes_of(root, text, rgba)
    return Decoded(rgba, notes, shapes=shapes, undrawn=undrawn(root), held=held, mm_per_px=mm_per_px)


def _held(parts: Parted, mm_per_px: float | None) -> tuple[HeldLine | None, ET.Element]:
    """The lines of a drawing, exactly where it tells them, and what is printed; no lines where they are areas."""
    drawn = _pixels(_text(parts.lines))[..., 3]
    height_px, width_px = drawn.shape
    further = tuple(
        FurtherLine(process, points)
        for process, lines in parts.further.items()
        for points in paths_of(_text(lines), width_px)
    )
    if not parts.name:
        if not _are_strokes(parts, further, mm_per_px):
            return None, parts.art
        return HeldLine("", np.zeros_like(drawn), shapely.MultiPolygon(), further), parts.art
    try:
        own = die_shape(
            paths_of(_text(parts.lines), width_px), SNAP_MM / mm_per_px if mm_per_px else SNAP_PX
        ).shape
    except NoDie:
        own = shapely.MultiPolygon()
    # Loose lines that meet go round what none of them does alone.
    face = parts.area if own.is_empty else _face(own, width_px, height_px)
    area = _pixels(_text(face))[..., 3]
    if not is_thin(drawn, area):
        return None, parts.art
    if not parts.alone and not goes_round(parts.name, area, _pixels(_text(parts.art))[..., 3]):
        return None, parts.art
    held = HeldLine(parts.name, area, None if own.is_empty else own, further, parts.alone)
    return held, face if parts.alone and not own.is_empty else parts.art


WIDEST_MM, WIDEST_PX = 1.5, 12.0
"""Width above which a named shape is art and no line, mm, or px of the rendering where no size is known. Chosen: lines
for a plotter are drawn as hairlines; the widest that was met was 1 mm."""


def _are_strokes(parts: Parted, lines: Sequence[FurtherLine], mm_per_px: float | None) -> bool:
    """Return whether what is drawn under the names of further lines is as thin as a line."""
    ink = sum(cv2.countNonZero(_pixels(_text(each))[..., 3]) for each in parts.further.values())
    length = sum(float(shapely.length(shapely.linestrings(line.points))) for line in lines)
    return ink <= length * (WIDEST_MM / mm_per_px if mm_per_px else WIDEST_PX)


def _face(shape: shapely.MultiPolygon, width_px: int, height_px: int) -> ET.Element:
    """A drawing of a shape in px, white as the bare face of a stock."""
    rings = [ring for part in shape.geoms for ring in (part.exterior, *part.interiors)]
    data = "".join(
        "M" + " ".join(f"{x:.3f},{y:.3f}" for x, y in shapely.get_coordinates(ring).tolist()) + "Z"
        for ring in rings
    )
    root = ET.Element(
        "{http://www.w3.org/2000/svg}svg",
        {"width": str(width_px), "height": str(height_px), "viewBox": f"0 0 {width_px} {height_px}"},
    )
    ET.SubElement(
        root, "{http://www.w3.org/2000/svg}path", {"d": data, "fill": "#fff", "fill-rule": "evenodd"}
    )
    return root


def _by_role(root: ET.Element, notes: tuple[str, ...]) -> Decoded:
    """A drawing some of whose parts are printed only, or cut round only: its pixels, and apart from them what its
    outline goes round."""
    shown, cut = copy.deepcopy(root), copy.deepcopy(root)
    without_role(shown, "cut")
    without_role(cut, "print")
    shown_text, cut_text = _text(shown), _text(cut)
    rgba, outlined = _pixels(shown_text), _pixels(cut_text)
    if not outlined[..., 3].any():
        raise ArtworkError("All of it is printed only.", "Let one part of it be cut round.")
    shapes, drawn = shapes_of(cut, cut_text, outlined), shapes_of(shown, shown_text, rgba)
    if shapes is not None:
        shapes = Shapes(shapes.outline, None if drawn is None else drawn.paths)
    return Decoded(rgba, notes, shapes=shapes, cut_alpha=np.ascontiguousarray(outlined[..., 3]))


def _pixels(text: str) -> NDArray[np.uint8]:
    """(h, w, 4) of a drawing at the size it says."""
    try:
        png = resvg_py.svg_to_bytes(svg_string=text, dpi=96, **_FONTS)
    except (ValueError, RuntimeError) as error:
        raise ArtworkError("The drawing cannot be rendered.", "Export it again as SVG, or as PNG.") from error
    with Image.open(io.BytesIO(bytes(png))) as image:
        return np.array(image.convert("RGBA"))


def _text(root: ET.Element) -> str:
    try:
        return ET.tostring(root, encoding="unicode")
    except RecursionError as error:
        raise ArtworkError(
            "The drawing is nested too deeply.", "Ungroup it, then export it again."
        ) from error


def _inspect(root: ET.Element) -> tuple[str, ...]:
    notes: list[str] = []
    for number, element in enumerate(root.iter()):
        if number > MOST_ELEMENTS:
            raise ArtworkError("The drawing has too many parts.", "Simplify it, or export it as PNG.")
        name = str(element.tag).rsplit("}", 1)[-1]
        if name in ("script", "foreignObject"):
            raise ArtworkError(f"The drawing holds a {name}.", "Export it as plain SVG.")
        if name == "text" and not notes:
            notes.append(
                "Its text is drawn with the fonts of this machine; turn it into outlines to be sure."
            )
        for key, value in element.attrib.items():
            if key.rsplit("}", 1)[-1] == "href" and not _is_inside(value):
                raise _outside()
            if re.search(r"url\(\s*['\"]?(?!#|['\"]?#)", value):
                raise _outside()
        if name == "style" and re.search(r"@import|url\(\s*['\"]?(?!['\"]?#|data:)", element.text or ""):
            raise _outside()
    return tuple(notes)


def _is_inside(reference: str) -> bool:
    plain = reference.strip()
    return plain.startswith("#") or bool(re.match(r"data:image/(png|jpe?g|webp|gif);", plain))


def _outside() -> ArtworkError:
    return ArtworkError(
        "The drawing refers to other files.", "Embed its pictures and fonts, then export it again."
    )


def _utf8(data: bytes) -> bytes:
    """A drawing in UTF-16, which some programs write, as UTF-8."""
    for mark, name in ((b"\xff\xfe", "utf-16-le"), (b"\xfe\xff", "utf-16-be")):
        if data.startswith(mark):
            try:
                text = data[2:].decode(name)
            except UnicodeDecodeError as error:
                raise ArtworkError("The drawing is damaged or cut off.", "Export it again as SVG.") from error
            return re.sub(r"(<\?xml[^>]*?)\s+encoding=(\"[^\"]*\"|'[^']*')", r"\1", text, count=1).encode()
    return data


def _length(told: str | None) -> float | None:
    """A length in px; None where it is missing, a share, or no length."""
    found = re.fullmatch(rf"\s*({_NUMBER})\s*(px|pt|pc|mm|cm|in|)\s*", told or "")
    return float(found[1]) * _UNIT_PX[found[2]] if found else None


def _box(root: ET.Element) -> tuple[float, float] | None:
    box = re.findall(_NUMBER, root.get("viewBox", ""))
    if len(box) != 4 or float(box[2]) <= 0 or float(box[3]) <= 0:
        return None
    return float(box[2]), float(box[3])


def _size(root: ET.Element) -> tuple[float, float]:
    """Width and height as the drawing says them, what is missing from its viewBox; only their ratio counts."""
    width, height = (_length(root.get(name)) for name in ("width", "height"))
    box = _box(root)
    if box is not None:
        if width is None and height is None:
            width, height = box
        elif width is None:
            width = (height or 0.0) * box[0] / box[1]
        elif height is None:
            height = width * box[1] / box[0]
    sides = (width or 0.0, height or 0.0)
    if min(sides) <= 0 or not np.isfinite(sides).all():
        raise ArtworkError("The drawing states no size.", "Export it with a width and height, or a viewBox.")
    return sides


def _at_rendered_size(root: ET.Element, width: float, height: float) -> float | None:
    """Say a drawing's size in whole px of its rendering: a renderer rounds a size in mm to px first, and then the
    picture is not as large as the shapes. Returns mm for a px of it, where the drawing says its size in a length."""
    if _box(root) is None:
        root.set("viewBox", f"0 0 {width:.6f} {height:.6f}")
    lengths = [root.get(name, "") for name in ("width", "height")]
    physical = all(re.search(r"(mm|cm|in|pt|pc)\s*$", told) for told in lengths)
    scale = rendering_px(max(width, height) / PX_PER_MM if physical else None) / max(width, height)
    root.set("width", f"{max(1, round(width * scale))}")
    root.set("height", f"{max(1, round(height * scale))}")
    return 1 / PX_PER_MM / scale if physical else None
