"""Whether a PNG holds all the rows it promises; decoders fill those that are missing with nothing and say nothing."""

import struct
import zlib
from collections.abc import Iterator

STEP = 1 << 20
"""Bytes unpacked at a time; none of them is kept."""

SAMPLES = {0: 1, 2: 3, 3: 1, 4: 2, 6: 4}
"""Samples of a pixel by colour type (PNG specification, table 11.1)."""
ADAM7 = ((0, 0, 8, 8), (4, 0, 8, 8), (0, 4, 4, 8), (2, 0, 4, 4), (0, 2, 2, 4), (1, 0, 2, 2), (0, 1, 1, 2))
"""First column, first row, steps across and down of each pass of an interlaced picture (section 8.2)."""


def rows_there(data: bytes) -> tuple[int, int]:
    """Rows that a PNG holds and rows it promises; an interlaced one counts the rows of its seven passes.

    Raises:
        ValueError, struct.error, zlib.error: it is no sound PNG.
    """
    width, height, depth, colour, _, _, interlaced = struct.unpack(">IIBBBBB", data[16:29])
    bits = SAMPLES.get(colour, 4) * depth
    passes = [
        (len(range(x, width, across)), len(range(y, height, down)))
        for x, y, across, down in (ADAM7 if interlaced else ((0, 0, 1, 1),))
    ]
    # Each row begins with a byte that names its filter; a pass without columns has no rows.
    rows = [(1 + (columns * bits + 7) // 8, count) for columns, count in passes if columns]
    left, there = _unpacked(data), 0
    for length, count in rows:
        whole = min(count, left // length)
        there, left = there + whole, left - whole * length
        if whole < count:
            break
    return there, sum(count for _, count in rows)


def _unpacked(data: bytes) -> int:
    """Bytes that the pixels of a PNG unpack to."""
    unpack, size = zlib.decompressobj(), 0
    for part in _idat(data):
        rest = part
        while rest and not unpack.eof:
            size += len(unpack.decompress(rest, STEP))
            rest = unpack.unconsumed_tail
    return size + len(unpack.flush())


def _idat(data: bytes) -> Iterator[bytes]:
    at = 8
    while at + 8 <= len(data):
        (length,) = struct.unpack(">I", data[at : at + 4])
        if data[at + 4 : at + 8] == b"IDAT":
            yield data[at + 8 : at + 8 + length]
        at += 12 + length
