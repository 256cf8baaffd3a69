"""SVG and PDF to pixels, fine enough for any sticker. Nothing outside the file is ever read."""

import io
import re
import xml.etree.ElementTree as ET

import numpy as np
import pypdfium2
import resvg_py
from numpy.typing import NDArray
from PIL import Image

from perisect.core.artwork.errors import ArtworkError

RENDER_PX = 3600
"""Longer side: 300 ppi on a 300 mm sticker, 0.017 mm a pixel on one of 60 mm."""

MOST_ASPECT = 40
MOST_ELEMENTS = 200_000

_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_UNIT_PX = {"": 1.0, "px": 1.0, "pt": 96 / 72, "pc": 16.0, "mm": 96 / 25.4, "cm": 960 / 25.4, "in": 96.0}


def looks_like_svg(data: bytes) -> bool:
    """Whether the first bytes are those of an SVG document."""
    head = data[:2000].lstrip(b"\xef\xbb\xbf").lstrip()
    return head.startswith(b"<") and b"<svg" in data[:20_000]


def render_svg(data: bytes) -> tuple[NDArray[np.uint8], tuple[str, ...]]:
    """(h, w, 4) of a drawing, its longer side `RENDER_PX`, and notes.

    Raises:
        ArtworkError: not well formed, declares entities, refers to anything outside itself, has no size.
    """
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
    try:
        png = resvg_py.svg_to_bytes(svg_string=text, width=across, height=along)
    except (ValueError, RuntimeError) as error:
        raise ArtworkError("The drawing cannot be rendered.", "Export it again as SVG, or as PNG.") from error
    with Image.open(io.BytesIO(bytes(png))) as image:
        return np.array(image.convert("RGBA")), notes


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


def _size(root: ET.Element) -> tuple[float, float]:
    """Width over height counts; the unit does not."""
    box = re.findall(_NUMBER, root.get("viewBox", ""))
    if len(box) == 4 and float(box[2]) > 0 and float(box[3]) > 0:
        return float(box[2]), float(box[3])
    sides = []
    for name in ("width", "height"):
        found = re.fullmatch(rf"\s*({_NUMBER})\s*(px|pt|pc|mm|cm|in|)\s*", root.get(name, ""))
        sides.append(float(found[1]) * _UNIT_PX[found[2]] if found else 0.0)
    if min(sides) <= 0 or not np.isfinite(sides).all():
        raise ArtworkError("The drawing says no size.", "Export it with a width and height, or a viewBox.")
    return sides[0], sides[1]


def render_pdf(data: bytes) -> tuple[NDArray[np.uint8], tuple[str, ...]]:
    """(h, w, 4) of the first page without its paper, its longer side `RENDER_PX`, and notes.

    Raises:
        ArtworkError: damaged, protected, or a page of no size.
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
        page = document[0]
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
    return rgba, (f"It has {pages} pages; the first one is used.",) if pages > 1 else ()
