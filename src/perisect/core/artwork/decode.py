"""Bytes to pixels, with the refusals said before anything big is allocated."""

import io
import warnings
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image, PngImagePlugin

MAX_PIXELS = 80_000_000
"""An A3 sheet at 600 ppi has 70 million; more than that is a mistake or a bomb."""

MAX_BYTES = 100_000_000

PNG_SIGNATURE = b"\x89PNG\r\n\x1a\n"

# A compressed text chunk may unpack to anything; none of ours is read.
PngImagePlugin.MAX_TEXT_CHUNK = 1 << 20
Image.MAX_IMAGE_PIXELS = MAX_PIXELS


class ArtworkError(ValueError):
    """Bytes that cannot become artwork. `title` says what happened, `detail` what to do."""

    def __init__(self, title: str, detail: str) -> None:
        super().__init__(f"{title} {detail}")
        self.title = title
        self.detail = detail

    def __reduce__(self) -> tuple[type, tuple[str, str]]:
        # It crosses from a reader process, and its message alone would not make it again.
        return type(self), (self.title, self.detail)


@dataclass(frozen=True)
class Header:
    """What a picture says of itself before it is decoded."""

    width_px: int
    height_px: int


def read_header(data: bytes) -> Header:
    """Size of a PNG from its first bytes.

    Raises:
        ArtworkError: empty, not a PNG, cut off in its header, or too large to decode.
    """
    if not data:
        raise ArtworkError("The file is empty.", "Export the picture again and drop the new file.")
    if not data.startswith(PNG_SIGNATURE):
        raise ArtworkError(
            "This is not a PNG picture.",
            "Perisect reads PNG with a clear background. Export the art as PNG and drop that.",
        )
    if len(data) > MAX_BYTES:
        raise ArtworkError(
            "The file is larger than 100 MB.", "Export the picture at the size you will print."
        )
    if len(data) < 33 or data[12:16] != b"IHDR":
        raise ArtworkError("The picture is cut off.", "Copy or export it again; the file ends too early.")
    width, height = int.from_bytes(data[16:20], "big"), int.from_bytes(data[20:24], "big")
    if width < 1 or height < 1:
        raise ArtworkError("The picture has no pixels.", "Export it again with a real width and height.")
    if width * height > MAX_PIXELS:
        raise ArtworkError(
            f"The picture is {width} × {height} px, more than Perisect opens ({MAX_PIXELS // 1_000_000} million).",
            "Export it at the size you will print: 300 to 600 px an inch is enough.",
        )
    return Header(width, height)


def decode_rgba(data: bytes) -> NDArray[np.uint8]:
    """Pixels of a PNG of any kind as (height, width, 4) uint8, alpha not premultiplied.

    Raises:
        ArtworkError: as `read_header`, or the pixels cannot be read to the end.
    """
    read_header(data)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            with Image.open(io.BytesIO(data), formats=["PNG"]) as opened:
                opened.load()
                image: Image.Image = opened
                if image.mode.startswith("I"):
                    # 16-bit grey: Pillow would clip instead of scaling.
                    grey = (np.asarray(image).astype(np.uint32) >> 8).astype(np.uint8)
                    image = Image.fromarray(grey)
                if image.mode != "RGBA":
                    image = image.convert("RGBA")
                return np.array(image)
    except (OSError, SyntaxError, ValueError, Image.DecompressionBombError, MemoryError, EOFError) as error:
        raise ArtworkError(
            "The picture is damaged or cut off.", "Copy or export it again; its pixels end too early."
        ) from error
