"""Bytes to pixels, with the refusals said before anything big is allocated."""

import io
import warnings
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms, ImageOps, PngImagePlugin

from perisect.core.artwork.die_dxf import looks_like_dxf, svg_of
from perisect.core.artwork.errors import ArtworkError
from perisect.core.artwork.png_rows import rows_there
from perisect.core.artwork.rendered import Decoded
from perisect.core.artwork.vector import looks_like_svg, render_svg
from perisect.core.artwork.vector_pdf import render_pdf
from perisect.core.units import MM_PER_INCH

MAX_PIXELS = 40_000_000
"""An A4 sheet at 600 ppi has 35 million; more than that is a mistake or a bomb, and no reader could hold it."""

MAX_BYTES = 100_000_000

LEAST_PPI, MOST_PPI = 100, 2400

KINDS = "PNG, JPEG, WebP, TIFF, SVG and PDF, and DXF for a die"

# A compressed text chunk may unpack to anything; none of ours is read.
PngImagePlugin.MAX_TEXT_CHUNK = 1 << 20
Image.MAX_IMAGE_PIXELS = MAX_PIXELS


def kind_of(data: bytes) -> str:
    """PNG, JPEG, WEBP, TIFF, SVG, PDF or DXF, by the first bytes.

    Raises:
        ArtworkError: empty, too long, or none of these.
    """
    if not data:
        raise ArtworkError("The file is empty.", "Export the picture again and drop the new file.")
    if len(data) > MAX_BYTES:
        raise ArtworkError(
            "The file is larger than 100 MB.", "Export the picture at the size you will print."
        )
    if data.startswith(b"\x89PNG\r\n\x1a\n"):
        return "PNG"
    if data.startswith(b"\xff\xd8\xff"):
        return "JPEG"
    if data[:4] == b"RIFF" and data[8:12] == b"WEBP":
        return "WEBP"
    if data[:4] in (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"):
        return "TIFF"
    if b"%PDF-" in data[:1024]:
        return "PDF"
    if looks_like_svg(data):
        return "SVG"
    if looks_like_dxf(data):
        return "DXF"
    raise ArtworkError(
        "This is not a picture Perisect reads.",
        f"It reads {KINDS}. Export the art as one of these and drop that.",
    )


def read_header(data: bytes) -> None:
    """Refuse what need not be decoded to be refused.

    Raises:
        ArtworkError: as `kind_of`, or a PNG that says it is too large or has no pixels.
    """
    if kind_of(data) != "PNG":
        return
    if len(data) < 33 or data[12:16] != b"IHDR":
        raise ArtworkError("The picture is cut off.", "Copy or export it again; the file ends too early.")
    check_size(int.from_bytes(data[16:20], "big"), int.from_bytes(data[20:24], "big"))


def check_size(width: int, height: int) -> None:
    """Refuse a size before its pixels are allocated.

    Raises:
        ArtworkError: no pixels, or more than `MAX_PIXELS`.
    """
    if width < 1 or height < 1:
        raise ArtworkError("The picture has no pixels.", "Export it again with a real width and height.")
    if width * height > MAX_PIXELS:
        raise ArtworkError(
            f"The picture is {width} × {height} px, more than Perisect opens ({MAX_PIXELS // 1_000_000} million).",
            "Export it at the size you will print: 300 to 600 px an inch is enough.",
        )


def decode(data: bytes, page: int = 1) -> Decoded:
    """Pixels of a picture of any kind Perisect reads, of a PDF those of one page (from 1).

    Turned as its camera says (EXIF), colours taken to sRGB by its profile, of an animation the first
    frame, 16 bit reduced to 8.

    Raises:
        ArtworkError: as `read_header`, or the pixels cannot be read to the end.
    """
    read_header(data)
    kind = kind_of(data)
    match kind:
        case "SVG":
            return render_svg(data)
        case "PDF":
            return render_pdf(data, page)
        case "DXF":
            svg, said = svg_of(data)
            drawn = render_svg(svg)
            return replace(drawn, notes=(*drawn.notes, *said))
    notes: list[str] = []
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            with Image.open(io.BytesIO(data), formats=[kind]) as opened:
                check_size(*opened.size)
                mm_per_px = _believed_mm_per_px(opened)
                frames = getattr(opened, "n_frames", 1)
                if frames > 1:
                    notes.append(f"It holds {frames} pictures; the first one is used.")
                opened.load()
                if kind == "PNG":
                    _check_rows(data, opened)
                image = _turned(opened, notes)
                image = _to_srgb(image, notes)
                return Decoded(np.array(image), tuple(notes), mm_per_px=mm_per_px)
    except ArtworkError:
        raise
    except (MemoryError, Image.DecompressionBombError) as error:
        raise ArtworkError(
            "The picture needs more memory than it is given.", "Export it smaller and drop it again."
        ) from error
    except Exception as error:
        # Decoders raise whatever a broken file leads them to; all of it means the same to a person.
        raise ArtworkError(
            "The picture is damaged or cut off.", "Copy or export it again; its pixels end too early."
        ) from error


def _believed_mm_per_px(opened: Image.Image) -> float | None:
    """What a px measures by the density that the file holds, mm. Few programs that write 72 or 96 mean them, and
    nobody scans or draws stickers below 100 or above 2400 ppi."""
    across, along = (float(ppi or 0) for ppi in opened.info.get("dpi", (0, 0))[:2])
    if not LEAST_PPI <= across <= MOST_PPI or abs(across - along) > across / 100:
        return None
    # PNG holds whole px a metre: 300 ppi come back as 299.9994.
    return MM_PER_INCH / (round(across) if abs(across - round(across)) < 0.02 else across)


def _check_rows(data: bytes, opened: Image.Image) -> None:
    """Refuse a PNG that ends before its last row. Rows that are missing are decoded as nothing, so only a picture
    whose last row holds nothing is unpacked to be counted."""
    width, height = opened.size
    if opened.crop((0, height - 1, width, height)).getbbox() is not None:
        return
    there, promised = rows_there(data)
    if there < promised:
        raise ArtworkError(
            f"The picture is damaged or cut off: {there:,} of its {promised:,} rows are there.",
            "Copy or export it again.",
        )


def decode_rgba(data: bytes) -> NDArray[np.uint8]:
    """Only the pixels of `decode`."""
    return decode(data).rgba


def _turned(image: Image.Image, notes: list[str]) -> Image.Image:
    if image.getexif().get(0x0112, 1) in range(2, 9):
        notes.append("It was rotated by its EXIF orientation.")
        return ImageOps.exif_transpose(image) or image
    return image


def _to_srgb(image: Image.Image, notes: list[str]) -> Image.Image:
    """RGBA in sRGB."""
    if image.mode.startswith("I"):
        # 16-bit grey: Pillow would clip instead of scaling.
        deep = np.asarray(image)
        scaled = deep >> 8 if deep.max(initial=0) > 255 else deep
        return Image.fromarray(scaled.astype(np.uint8)).convert("RGBA")
    if image.mode == "F":
        deep = np.nan_to_num(np.asarray(image))
        top = float(deep.max(initial=0)) or 1.0
        return Image.fromarray((deep.clip(0, top) / top * 255).astype(np.uint8)).convert("RGBA")
    profile = image.info.get("icc_profile")
    if image.mode == "CMYK":
        notes.append("Its printing colours (CMYK) were converted to screen colours.")
    if profile and image.mode in ("RGB", "RGBA", "CMYK"):
        try:
            own = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            alpha = image.getchannel("A") if image.mode == "RGBA" else None
            solid = image.convert("RGB") if alpha is not None else image
            srgb = ImageCms.profileToProfile(solid, own, ImageCms.createProfile("sRGB"), outputMode="RGB")
            if srgb is not None:
                if alpha is not None:
                    srgb.putalpha(alpha)
                return srgb.convert("RGBA")
        except (ImageCms.PyCMSError, OSError):
            notes.append("Its colour profile is damaged and was ignored.")
    return image.convert("RGBA")
