"""An ICC profile of a made-up press, so that no stranger's ships with the tests: lut8 tables (ICC.1:2022, 10.10) of
inks that each take their share of light, on paper that is a little darker than the screen's white."""

import struct
from functools import lru_cache

import cv2
import numpy as np

GRID = 33
INKS = np.array([[0.12, 0.55, 0.80], [0.75, 0.10, 0.40], [0.95, 0.85, 0.12], [0.06, 0.06, 0.06]])
"""Red, green and blue (linear) that full cyan, magenta, yellow and black let through."""


def printed(cmyk: np.ndarray) -> np.ndarray:
    """(n, 3) linear RGB of (n, 4) inks from 0 to 1, paper as white: each ink takes its share."""
    return np.prod(1 - cmyk[:, :, None] * (1 - INKS[None]), axis=1)


def _lab8(linear: np.ndarray) -> np.ndarray:
    """(n, 3) of lut8's L, a, b as bytes."""
    srgb = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
    lab = cv2.cvtColor(srgb.clip(0, 1).astype(np.float32)[None], cv2.COLOR_RGB2Lab)[0]
    return np.column_stack([lab[:, 0] * 2.55, lab[:, 1] + 128, lab[:, 2] + 128]).round().clip(0, 255)


def _inks(lab8: np.ndarray) -> np.ndarray:
    """(n, 4) inks for L, a, b bytes: the nearest of a fine set."""
    steps = np.stack(np.meshgrid(*[np.linspace(0, 1, 25)] * 3, indexing="ij"), axis=-1).reshape(-1, 3)
    some = np.column_stack([steps, np.zeros(len(steps))])
    from scipy.spatial import cKDTree

    return some[cKDTree(_lab8(printed(some))).query(lab8)[1]]


def _grid(channels: int, points: int) -> np.ndarray:
    return np.stack(np.meshgrid(*[np.linspace(0, 1, points)] * channels, indexing="ij"), axis=-1).reshape(
        -1, channels
    )


def _lut8(channels_in: int, channels_out: int, points: int, table: np.ndarray) -> bytes:
    head = b"mft1" + bytes(4) + struct.pack(">BBBx", channels_in, channels_out, points)
    matrix = struct.pack(">9i", *(65536 if n % 4 == 0 else 0 for n in range(9)))
    ramp = bytes(range(256))
    return head + matrix + ramp * channels_in + table.astype(np.uint8).tobytes() + ramp * channels_out


def _text(name: str) -> bytes:
    letters = name.encode() + b"\0"
    return b"desc" + bytes(4) + struct.pack(">I", len(letters)) + letters + bytes(4 + 4 + 2 + 1 + 67)


@lru_cache(maxsize=1)
def press(name: str = "Ferry press, matt paper") -> bytes:
    """The profile."""
    paper = struct.pack(">3i", *(round(value * 65536) for value in (0.9642, 1.0, 0.8249)))
    there = _lab8(printed(_grid(4, 9)))
    back = _inks(_grid(3, GRID) * 255) * 255
    tags = {
        b"desc": _text(name),
        b"cprt": b"text" + bytes(4) + b"none\0",
        b"wtpt": b"XYZ " + bytes(4) + paper,
        b"A2B0": _lut8(4, 3, 9, there),
        b"B2A0": _lut8(3, 4, GRID, back),
    }
    tags |= {b"A2B1": tags[b"A2B0"], b"B2A1": tags[b"B2A0"]}
    at, table, data = 128 + 4 + 12 * len(tags), b"", b""
    for tag, value in tags.items():
        padded = value + bytes(-len(value) % 4)
        table += tag + struct.pack(">II", at + len(data), len(value))
        data += padded
    size = at + len(data)
    head = struct.pack(">I4sI4s4s4s", size, bytes(4), 0x02400000, b"prtr", b"CMYK", b"Lab ")
    head += struct.pack(">6H", 2024, 1, 1, 0, 0, 0) + b"acsp" + bytes(28)
    head += struct.pack(">3i", *(round(value * 65536) for value in (0.9642, 1.0, 0.8249)))
    return head.ljust(128, b"\0") + struct.pack(">I", len(tags)) + table + data
