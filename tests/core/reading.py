"""An SVG cut file read back with nothing but the standard library."""

import re
import xml.etree.ElementTree as ET

import numpy as np

FINE = np.linspace(0, 1, 33)[1:, None]


def read_svg(text: str) -> dict[str, list[np.ndarray]]:
    """Points of every path by the id of its group, curves at 32 places of each stretch."""
    space = "{http://www.w3.org/2000/svg}"
    return {
        group.get("id", ""): [points_of(path.get("d", "")) for path in group.iter(f"{space}path")]
        for group in ET.fromstring(text.encode()).iter(f"{space}g")
    }


def points_of(path: str) -> np.ndarray:
    """Points of one path of M, C and Z; pairs without a letter are corners. A closing point is left out."""
    points: list[np.ndarray] = []
    for letter, numbers in re.findall(r"([MC])([^MCZ]*)", path):
        pairs = np.array(re.findall(r"-?[\d.]+", numbers), float).reshape(-1, 2)
        if letter == "M":
            points.extend(pairs)
            continue
        a, (b, c, d), t = points[-1], pairs, FINE
        points.extend((1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * b + 3 * (1 - t) * t * t * c + t**3 * d)
    ends = "C" in path and np.allclose(points[0], points[-1], atol=0.002)
    return np.array(points[:-1] if ends else points)
