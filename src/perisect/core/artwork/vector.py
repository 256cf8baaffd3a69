"""SVG and PDF to pixels, fine enough for any sticker. Nothing outside the file is ever read."""

import io
import re
import xml.etree.ElementTree as ET
from dataclasses import dataclass
from typing import Any

import numpy as np
import pikepdf
import pypdfium2
import resvg_py
from numpy.typing import NDArray
from PIL import Image

from perisect.core.artwork.errors import ArtworkError
from perisect.core.artwork.shapes import Shapes, shapes_of
from perisect.core.artwork.undrawn import undrawn
from perisect.core.fonts import FAMILY, FOLDER

RENDER_PX = 3000
"""Longer side: 300 ppi on a 254 mm sticker, 0.02 mm a pixel on one of 60 mm."""

MOST_ASPECT = 40
MOST_ELEMENTS = 200_000

_FONTS: dict[str, Any] = {
    "font_dirs": [str(FOLDER)],
    **{
        f"{name}family": FAMILY
        for name in ("font_", "serif_", "sans_serif_", "cursive_", "fantasy_", "monospace_")
    },
}
"""Text whose font is not on this machine is drawn with one that ships, not left out."""

_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_UNIT_PX = {"": 1.0, "px": 1.0, "pt": 96 / 72, "pc": 16.0, "mm": 96 / 25.4, "cm": 960 / 25.4, "in": 96.0}


def looks_like_svg(data: bytes) -> bool:
    """Whether the first bytes are those of an SVG document."""
    head = data[:2000].lstrip(b"\xef\xbb\xbf").lstrip()
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return b"<svg" in data[:40_000].replace(b"\0", b"")
    return head.startswith(b"<") and b"<svg" in data[:20_000]


@dataclass(frozen=True)
class Rendered:
    """(h, w, 4) pixels, longer side `RENDER_PX`; notes; pages; own shapes, px, if known; and what of it was
    not drawn as it may be meant, in a sentence."""

    rgba: NDArray[np.uint8]
    notes: tuple[str, ...]
    pages: int = 1
    shapes: Shapes | None = None
    undrawn: str = ""


def render_svg(data: bytes) -> Rendered:
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
        text = data.decode("utf-8-sig")
        root = ET.fromstring(text)
    except (UnicodeDecodeError, ET.ParseError, ValueError) as error:
        raise ArtworkError("The drawing is damaged or cut off.", "Export it again as SVG.") from error
    notes = _inspect(root)
    width, height = _size(root)
    if not 1 / MOST_ASPECT <= width / height <= MOST_ASPECT:
        raise ArtworkError("The drawing is far longer than it is wide.", "Export the part you want to cut.")
    across, along = (RENDER_PX, None) if width >= height else (None, RENDER_PX)
    if (held := _held(root, width, height)) is not None:
        text = held
    try:
        png = resvg_py.svg_to_bytes(svg_string=text, width=across, height=along, dpi=96, **_FONTS)
    except (ValueError, RuntimeError) as error:
        raise ArtworkError("The drawing cannot be rendered.", "Export it again as SVG, or as PNG.") from error
    with Image.open(io.BytesIO(bytes(png))) as image:
        rgba = np.array(image.convert("RGBA"))
    return Rendered(rgba, notes, shapes=shapes_of(root, text, rgba), undrawn=undrawn(root))


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
        raise ArtworkError("The drawing says no size.", "Export it with a width and height, or a viewBox.")
    return sides


def _held(root: ET.Element, width: float, height: float) -> str | None:
    """The drawing with that size said plainly, where its own words leave half of it out."""
    said = [_length(root.get(name)) for name in ("width", "height")]
    if said == [width, height] or (said == [None, None] and _box(root) == (width, height)):
        return None
    root.set("width", f"{width:.6f}")
    root.set("height", f"{height:.6f}")
    return ET.tostring(root, encoding="unicode")


def render_pdf(data: bytes, number: int = 1) -> Rendered:
    """A page (from 1) without its paper.

    Raises:
        ArtworkError: damaged, protected, no such page, or a page of no size.
    """
    try:
        document = pypdfium2.PdfDocument(data)
    except pypdfium2.PdfiumError as error:
        if "password" in str(error).lower():
            raise ArtworkError(
                "The PDF is protected.", "Save it without a password and drop it again."
            ) from error
        raise ArtworkError("The PDF is damaged or cut off.", "Export it again.") from error
    try:
        pages = len(document)
        if number > max(pages, 1):
            raise ArtworkError(f"The PDF has no page {number}.", f"It has {pages}; choose one of them.")
        page = document[number - 1]
        width, height = page.get_size()
        if min(width, height) <= 0 or not 1 / MOST_ASPECT <= width / height <= MOST_ASPECT:
            raise ArtworkError("The page has no usable size.", "Export it again on a page that fits the art.")
        bitmap = page.render(
            scale=RENDER_PX / max(width, height),
            fill_color=(0, 0, 0, 0),
            force_bitmap_format=4,
            rev_byteorder=True,
        )
        rgba = np.array(bitmap.to_numpy(), np.uint8)
    except (pypdfium2.PdfiumError, IndexError) as error:
        raise ArtworkError("The PDF has no page that can be drawn.", "Export it again.") from error
    finally:
        document.close()
    notes = [f"Page {number} of {pages}."] if pages > 1 else []
    if _borrows_fonts(data, number):
        notes.append(
            "It names fonts it does not hold, so others stand in; turn its text into outlines to be sure."
        )
    return Rendered(rgba, tuple(notes), pages)


def _borrows_fonts(data: bytes, number: int) -> bool:
    """Whether a page names a font whose shapes are not in the file."""
    try:
        with pikepdf.open(io.BytesIO(data)) as pdf:
            resources = pdf.pages[number - 1].get("/Resources", pikepdf.Dictionary())
            for font in dict(resources.get("/Font", pikepdf.Dictionary())).values():
                inner = font.get("/DescendantFonts", [font])[0]
                described = inner.get("/FontDescriptor", pikepdf.Dictionary())
                held = any(key in described for key in ("/FontFile", "/FontFile2", "/FontFile3"))
                if not held and font.get("/Subtype") != "/Type3":
                    return True
    except (pikepdf.PdfError, ValueError, TypeError, LookupError, AttributeError):
        # It was rendered; what its fonts are is a courtesy.
        return False
    return False
