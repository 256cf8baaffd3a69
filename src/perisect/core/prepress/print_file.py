"""The print file: 1:1 PDF with art and marks and no cut line.

Each distinct picture is one image object, shown wherever a copy stands, at its own full resolution.
Its pixels are kept as a PNG encoder filtered and deflated them (PDF's PNG predictors undo that), so
the file is about as large as the pictures stored once.
"""

import io
import struct
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

import cv2
import numpy as np
import pikepdf
from numpy.typing import NDArray
from PIL import Image

from perisect.core.artwork.drawing import DrawnPath
from perisect.core.artwork.picture import alpha_of
from perisect.core.artwork.tone import ToneRecipe
from perisect.core.prepress.curve_stream import curves_content
from perisect.core.prepress.mark_ink import draw_marks
from perisect.core.prepress.page import one_page
from perisect.core.prepress.rim import with_rim
from perisect.core.prepress.writing import Writing, write
from perisect.core.sheet import Mark, MarkSettings, Stock
from perisect.core.sheet.fill import Placement
from perisect.core.sheet.placement import matrix
from perisect.core.units import POINTS_PER_MM

COMPRESSION = 6

FLAT_SHARE = 0.05
"""Art that packs to less than this of its pixels is flat."""


@dataclass(frozen=True)
class EncodedPicture:
    """A picture ready for the file: deflated colour and coverage of its covered part, or its curves.

    The covered part starts at (`left_px`, `top_px`) of the whole picture; `curves` are in px of it.
    """

    left_px: int
    top_px: int
    width_px: int
    height_px: int
    colour: bytes
    coverage: bytes
    curves: bytes = b""


@dataclass(frozen=True)
class PrintDesign:
    """A design's picture and how it lies in design mm (the outline's box at (0, 0))."""

    picture: EncodedPicture
    mm_per_px: float
    origin_px: tuple[float, float]
    """Where the top left of the outline's box lies in the whole picture."""
    under: EncodedPicture | None = None
    """Bleed, in px of the picture, printed under it."""
    border: "PrintedShape | None" = None
    """A coloured border, printed under both."""


@dataclass(frozen=True)
class PrintedShape:
    """A filled shape: closed rings in design mm, filled by even and odd, in one colour."""

    rings: tuple[NDArray[np.float64], ...]
    colour: tuple[int, int, int]


@dataclass(frozen=True)
class PrintedCard:
    """A card's ground and heading, in card mm, where it stands."""

    placement: Placement
    ground: PrintedShape
    heading: Writing | None


def encode_picture(rgba: NDArray[np.uint8]) -> EncodedPicture:
    """Crop an (h, w, 4) picture to what it covers and deflate it.

    Raises:
        ValueError: nothing is covered.
    """
    left, top, width, height = cv2.boundingRect(alpha_of(rgba))
    if width == 0:
        raise ValueError("the picture is clear all over")
    part = rgba[top : top + height, left : left + width]
    return EncodedPicture(
        left, top, width, height, _deflate(with_rim(part)), _deflate(np.ascontiguousarray(part[..., 3]))
    )


def encode_curves(
    paths: Sequence[DrawnPath], width_px: int, height_px: int, tone: ToneRecipe
) -> EncodedPicture:
    """A drawing of plain paths as it is: no pixel of it is printed."""
    content = zlib.compress(curves_content(paths, tone), 9)
    return EncodedPicture(0, 0, width_px, height_px, b"", b"", content)


def _deflate(pixels: NDArray[np.uint8]) -> bytes:
    """Filtered and deflated rows of an image as a PNG holds them (ISO 15948, clauses 9 and 10).

    Rows are filtered as an encoder thinks best; flat art, which packs well anyhow, often packs better
    unfiltered, so that is tried too.
    """
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "PNG", compress_level=COMPRESSION)
    filtered = _image_data(file.getvalue())
    if len(filtered) > FLAT_SHARE * pixels.size:
        return filtered
    rows = pixels.reshape(len(pixels), -1)
    unfiltered = zlib.compress(np.pad(rows, ((0, 0), (1, 0))).tobytes(), 9)
    return min(filtered, unfiltered, key=len)


def _image_data(png: bytes) -> bytes:
    """The IDAT chunks of a PNG, put together."""
    at, data = 8, []
    while at < len(png):
        (length,) = struct.unpack_from(">I", png, at)
        if png[at + 4 : at + 8] == b"IDAT":
            data.append(png[at + 8 : at + 8 + length])
        at += 12 + length
    return b"".join(data)


def write_print_pdf(
    stock: Stock,
    marks: Sequence[Mark],
    settings: MarkSettings,
    placements: Sequence[Placement],
    designs: dict[str, PrintDesign],
    written: Mapping[int, Sequence[Writing]] = MappingProxyType({}),
    cards: Sequence[PrintedCard] = (),
    scale: tuple[float, float] = (1.0, 1.0),
) -> bytes:
    """One page of `stock` with each placement's picture and the marks.

    Args:
        designs: by the placements' keys.
        cards: printed under everything else.
        written: texts and codes over the art, by the placement's index.
        scale: by how much larger everything is along width and length, about the middle of the page.
    """
    pdf = pikepdf.new()
    images = pikepdf.Dictionary()
    by_picture: dict[int, str] = {}
    for key in dict.fromkeys(placement.key for placement in placements):
        for picture in (designs[key].picture, designs[key].under):
            if picture is not None and id(picture) not in by_picture:
                by_picture[id(picture)] = f"/P{len(by_picture) + 1}"
                show = _form if picture.curves else picture_object
                images[by_picture[id(picture)]] = show(pdf, picture)
    content = [_fill(card.ground, card.placement, stock) for card in cards]
    content += [
        write(pdf, images, card.heading, _page_matrix(card.placement, stock))
        for card in cards
        if card.heading is not None
    ]
    content += [_show_design(by_picture, designs[p.key], p, stock) for p in placements]
    for sticker, paths in written.items():
        page = _page_matrix(placements[sticker], stock)
        content += [write(pdf, images, each, page) for each in paths]
    content.append(draw_marks(marks, settings, stock))
    if scale != (1.0, 1.0):
        content.insert(0, _larger(stock, scale))
    return one_page(pdf, stock, images, content)


def _larger(stock: Stock, scale: tuple[float, float]) -> str:
    x, y = stock.width_mm / 2 * POINTS_PER_MM, stock.height_mm / 2 * POINTS_PER_MM
    return f"{scale[0]:.6f} 0 0 {scale[1]:.6f} {x * (1 - scale[0]):.4f} {y * (1 - scale[1]):.4f} cm"


def picture_object(pdf: pikepdf.Pdf, picture: EncodedPicture) -> pikepdf.Object:
    """An encoded picture as an image of a PDF, on the unit square."""

    def stream(data: bytes, channels: int, colours: str) -> pikepdf.Stream:
        image = pdf.make_stream(data)
        image.Type, image.Subtype = pikepdf.Name.XObject, pikepdf.Name.Image
        image.Width, image.Height = picture.width_px, picture.height_px
        image.ColorSpace, image.BitsPerComponent = pikepdf.Name(colours), 8
        image.Filter = pikepdf.Name.FlateDecode
        image.DecodeParms = pikepdf.Dictionary(
            Predictor=15, Colors=channels, BitsPerComponent=8, Columns=picture.width_px
        )
        return image

    colour = stream(picture.colour, 3, "/DeviceRGB")
    colour.SMask = stream(picture.coverage, 1, "/DeviceGray")
    return colour


def _form(pdf: pikepdf.Pdf, picture: EncodedPicture) -> pikepdf.Object:
    """Curves on the unit square, as an image lies on it."""
    form = pdf.make_stream(picture.curves)
    form.Type, form.Subtype, form.FormType = pikepdf.Name.XObject, pikepdf.Name.Form, 1
    form.BBox = [0, 0, picture.width_px, picture.height_px]
    form.Matrix = [1 / picture.width_px, 0, 0, -1 / picture.height_px, 0, 1]
    form.Filter = pikepdf.Name.FlateDecode
    form.Resources = pikepdf.Dictionary()
    return form


def _show_design(names: dict[int, str], design: PrintDesign, placement: Placement, stock: Stock) -> str:
    """Border, then bleed, then the art itself."""
    shown = [_fill(design.border, placement, stock)] if design.border is not None else []
    pictures = [picture for picture in (design.under, design.picture) if picture is not None]
    shown += [_show(names[id(picture)], picture, design, placement, stock) for picture in pictures]
    return "\n".join(shown)


def _page_matrix(placement: Placement, stock: Stock) -> NDArray[np.float64]:
    """From design mm to points of the page, whose y runs up."""
    sheet = np.vstack([matrix(placement), [0, 0, 1]])
    up = np.array([[1, 0, 0], [0, -1, stock.height_mm], [0, 0, 1]])
    return up * [[POINTS_PER_MM], [POINTS_PER_MM], [1]] @ sheet


def _fill(shape: PrintedShape, placement: Placement, stock: Stock) -> str:
    page = _page_matrix(placement, stock)
    parts = [" ".join(f"{level / 255:.4f}" for level in shape.colour) + " rg"]
    for ring in shape.rings:
        points = ring @ page[:2, :2].T + page[:2, 2]
        steps = [f"{x:.3f} {y:.3f} l" for x, y in points.tolist()]
        steps[0] = steps[0][:-1] + "m"
        parts.append(" ".join(steps) + " h")
    return "q " + "\n".join(parts) + " f* Q"


def _show(name: str, picture: EncodedPicture, design: PrintDesign, placement: Placement, stock: Stock) -> str:
    """Place the unit square of the image: an image's first row is at y = 1."""
    scale = design.mm_per_px
    left = (picture.left_px - design.origin_px[0]) * scale
    top = (picture.top_px - design.origin_px[1]) * scale
    width, height = picture.width_px * scale, picture.height_px * scale
    # Unit square (s right, t up) to design mm, to sheet mm, to points.
    unit = np.array([[width, 0, left], [0, -height, top + height], [0, 0, 1]])
    a = _page_matrix(placement, stock) @ unit
    numbers = (a[0, 0], a[1, 0], a[0, 1], a[1, 1], a[0, 2], a[1, 2])
    return "q " + " ".join(f"{n:.5f}" for n in numbers) + f" cm {name} Do Q"
