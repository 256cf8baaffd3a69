"""Files of a few bytes that stand for hours of work are refused before it, by what they say they hold."""

import math
import random
import struct
import time
import zlib

import pytest

from perisect.core.artwork import ArtworkError, decode
from tests.core import drawings


def dxf(*parts: str, rows: int = 1, columns: int = 1) -> bytes:
    """A drawing with blocks, and an array of inserts of the last of them."""
    last = len(parts) - 1
    blocks = "".join(f"0\nBLOCK\n2\nB{n}\n10\n0\n20\n0\n{part}0\nENDBLK\n" for n, part in enumerate(parts))
    insert = f"0\nINSERT\n2\nB{last}\n8\n0\n10\n0\n20\n0\n70\n{columns}\n71\n{rows}\n44\n1\n45\n1\n"
    text = f"0\nSECTION\n2\nBLOCKS\n{blocks}0\nENDSEC\n0\nSECTION\n2\nENTITIES\n{insert}0\nENDSEC\n0\nEOF\n"
    return text.encode()


LINE = "0\nLINE\n8\n0\n10\n0\n20\n0\n11\n30\n21\n5\n"


def insert(block: int, times: int = 1) -> str:
    return f"0\nINSERT\n2\nB{block}\n8\n0\n10\n0\n20\n0\n" * times


@pytest.mark.parametrize(
    "data",
    [
        dxf(LINE, rows=32_000, columns=32_000),
        dxf("", rows=32_000, columns=32_000),
        dxf(LINE, *(insert(n, 10) for n in range(8))),
        dxf("", *(insert(n, 10) for n in range(8))),
    ],
    ids=["array", "array of nothing", "blocks in blocks", "nothing in blocks"],
)
def test_a_drawing_that_unfolds_without_end_is_refused_at_once(data: bytes) -> None:
    decode(dxf(LINE))  # What reads drawings is loaded once.
    began = time.process_time()
    with pytest.raises(ArtworkError, match="too many parts"):
        decode(data)
    assert time.process_time() - began < 2


def test_a_block_that_holds_itself_is_no_reason_to_go_on_for_ever() -> None:
    began = time.process_time()
    try:
        decode(dxf(LINE + insert(0)))
    except ArtworkError:
        pass
    assert time.process_time() - began < 2


def test_an_array_that_is_meant_is_read() -> None:
    assert decode(dxf(LINE, rows=10, columns=20)).rgba.any()


@pytest.mark.parametrize("kind", [b"zTXt", b"iTXt", b"iCCP"])
def test_a_text_that_unpacks_to_much_is_not_unpacked(kind: bytes) -> None:
    png = drawings.png(drawings.coverage(drawings.disc(100))[0])
    begins = {b"zTXt": b"Comment\0\0", b"iTXt": b"Comment\0\1\0\0\0", b"iCCP": b"icc\0\0"}
    body = begins[kind] + zlib.compress(b"a" * 200_000_000, 9)
    chunk = struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))
    began = time.process_time()
    try:
        decode(png[:33] + chunk + png[33:])
    except ArtworkError:
        pass
    assert time.process_time() - began < 1


def polygon(points: list[tuple[float, float]]) -> bytes:
    data = " ".join(f"{x:.3f},{y:.3f}" for x, y in points)
    box = 'width="100mm" height="100mm" viewBox="0 0 100 100"'
    return f'<svg xmlns="http://www.w3.org/2000/svg" {box}><path d="M{data}Z" fill="#a33"/></svg>'.encode()


def wheel(count: int) -> list[tuple[float, float]]:
    """A circle with ripples."""
    turns = [2 * math.pi * n / count for n in range(count)]
    return [
        (50 + (40 + math.sin(97 * turn)) * math.cos(turn), 50 + (40 + math.sin(97 * turn)) * math.sin(turn))
        for turn in turns
    ]


def test_a_path_of_very_many_points_is_told_by_its_pixels_instead() -> None:
    began = time.process_time()
    found = decode(polygon(wheel(300_000)))
    assert time.process_time() - began < 6
    assert found.shapes is None
    assert decode(polygon(wheel(20_000))).shapes is not None


def test_a_path_that_crosses_itself_very_often_is_told_by_its_pixels_instead() -> None:
    chance = random.Random(5)
    scribble = [(chance.uniform(5, 95), chance.uniform(5, 95)) for _ in range(6000)]
    began = time.process_time()
    found = decode(polygon(scribble))
    assert time.process_time() - began < 8
    assert found.shapes is None
    # A star that crosses itself some hundred times is no such thing: its faces are told.
    star = [(50 + 40 * math.cos(n * 2.4), 50 + 40 * math.sin(n * 2.4)) for n in range(60)]
    assert decode(polygon(star)).shapes is not None
