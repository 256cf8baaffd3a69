"""Station 1: what can be read, what is refused and how that is said."""

import io
import struct
import zlib

import numpy as np
import pytest
from PIL import Image

from perisect.core.artwork import ArtworkError, Background, decode, decode_rgba, describe
from perisect.core.artwork.kind import ArtKind
from perisect.core.artwork.png_rows import rows_there
from perisect.core.artwork.preview import preview_png
from perisect.core.artwork.resolution import resolution_finding
from perisect.core.finding import SetField
from tests.core import drawings


def saved(image: Image.Image, **options: object) -> bytes:
    file = io.BytesIO()
    image.save(file, "PNG", **options)
    return file.getvalue()


def header_only(width: int, height: int) -> bytes:
    """A PNG that promises a size and holds almost nothing."""
    head = struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)
    chunk = b"IHDR" + head
    return b"\x89PNG\r\n\x1a\n" + struct.pack(">I", 13) + chunk + struct.pack(">I", zlib.crc32(chunk))


GOOD = drawings.png(drawings.coverage(drawings.disc(30))[0])


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "empty"),
        (b"This is a shopping list, not a picture.", "not a picture"),
        (b"\xff\xd8\xff\xe0" + bytes(100), "damaged"),
        (GOOD[:20], "cut off"),
        (GOOD[: len(GOOD) // 2], "cut off"),
        (header_only(30_000, 30_000), "30000 × 30000"),
        (header_only(0, 10), "no pixels"),
        (header_only(40, 40), "cut off"),
    ],
)
def test_what_cannot_be_read_is_refused_with_what_to_do(data: bytes, says: str) -> None:
    with pytest.raises(ArtworkError) as refused:
        decode_rgba(data)
    assert says in refused.value.title
    assert refused.value.detail.endswith(".")


def test_every_kind_of_png_gives_the_same_four_channels() -> None:
    grey = np.tile(np.arange(0, 256, dtype=np.uint8), (4, 1))
    assert (decode_rgba(saved(Image.fromarray(grey)))[..., 0] == grey).all()
    deep = grey.astype(np.uint16) * 257
    assert (decode_rgba(saved(Image.fromarray(deep)))[..., 1] == grey).all()
    palette = Image.fromarray(grey // 128).convert("P")
    alpha = decode_rgba(saved(palette, transparency=0))[..., 3]
    assert (alpha == np.where(grey < 128, 0, 255)).all()


@pytest.mark.parametrize(
    ("alpha", "background"),
    [(0, Background.EMPTY), (100, Background.EMPTY), (255, Background.OPAQUE), (200, Background.OPAQUE)],
)
def test_background(alpha: int, background: Background) -> None:
    facts = describe(np.full((10, 20, 4), alpha, np.uint8))
    assert facts.background is background
    assert (facts.width_px, facts.height_px) == (20, 10)


def test_clear_background_and_its_share() -> None:
    rgba = np.zeros((10, 20, 4), np.uint8)
    rgba[:, :5, 3] = 255
    facts = describe(rgba)
    assert facts.background is Background.CLEAR
    assert facts.clear_share == pytest.approx(0.75)


@pytest.mark.parametrize(("longest_mm", "severity"), [(50.8, "good"), (60, "look"), (80, "look")])
def test_resolution_is_pixels_over_inches(longest_mm: float, severity: str) -> None:
    finding = resolution_finding("d1", "Heron", longest_px=600, longest_mm=longest_mm, kind=ArtKind.DRAWING)
    assert finding.severity == severity
    assert finding.measured == pytest.approx(600 / (longest_mm / 25.4), abs=0.1)
    if severity == "look":
        assert isinstance(finding.remedy, SetField)
        assert finding.remedy.value == pytest.approx(50.8)  # 600 px at 300 ppi are 2 inches


def test_a_preview_keeps_colours_at_soft_edges() -> None:
    rgba = np.zeros((3000, 3000, 4), np.uint8)  # black where it is clear
    rgba[:, :1501] = (200, 100, 50, 255)
    small = np.asarray(Image.open(io.BytesIO(preview_png(rgba))))
    assert max(small.shape) == 1400
    assert small[small[..., 3] > 8][:, :3].min(axis=0) == pytest.approx((200, 100, 50), abs=2)


def png_of(mode: str, width: int, height: int, rows: int, interlaced: bool = False) -> bytes:
    """A PNG of clear pixels that promises more rows than it holds, all else about it sound."""
    colour, samples = {"L": (0, 1), "RGB": (2, 3), "RGBA": (6, 4)}[mode]

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", width, height, 8, colour, 0, 0, int(interlaced))
    pixels = zlib.compress(bytes((1 + width * samples) * rows))
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", pixels) + chunk(b"IEND", b"")


@pytest.mark.parametrize("mode", ["L", "RGB", "RGBA"])
@pytest.mark.parametrize("rows", [1, 50, 6299])
def test_a_picture_that_lacks_rows_is_damaged_not_clear(mode: str, rows: int) -> None:
    with pytest.raises(ArtworkError, match=f"{rows:,} of its 6,300 rows"):
        decode(png_of(mode, 40, 6300, rows))
    assert decode(png_of(mode, 40, 6300, 6300)).rgba.shape == (6300, 40, 4)


@pytest.mark.parametrize("size", [(1, 1), (5, 5), (37, 3), (3, 37), (64, 64)])
@pytest.mark.parametrize("mode", ["1", "L", "P", "RGB", "RGBA", "LA", "I;16"])
def test_whole_pictures_hold_all_their_rows(mode: str, size: tuple[int, int]) -> None:
    held = io.BytesIO()
    Image.new(mode, size).save(held, "PNG")
    there, promised = rows_there(held.getvalue())
    assert there == promised == size[1]


def test_the_rows_of_an_interlaced_picture_are_counted_by_pass() -> None:
    # Of 8 × 8, the seven passes have 1, 1, 1, 2, 2, 4 and 4 rows of 1, 1, 2, 2, 4, 4 and 8 pixels: with a byte a row
    # and 4 a pixel these are 5 + 5 + 9 + 18 + 34 + 68 + 132 = 271 bytes.
    whole = png_of("RGBA", 8, 8, 8, interlaced=True)
    assert rows_there(whole) == (14, 15)  # 8 rows of 33 bytes are 264: seven short of the last row.
