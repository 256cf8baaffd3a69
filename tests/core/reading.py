"""An SVG cut file read back with nothing but the standard library."""

import re
import xml.etree.ElementTree as ET

import numpy as np


def read_svg(text: str) -> dict[str, list[np.ndarray]]:
    """Points of every path by the id of its group."""
    space = "{http://www.w3.org/2000/svg}"
    return {
        group.get("id", ""): [
            np.array(re.findall(r"-?[\d.]+", path.get("d", "")), float).reshape(-1, 2)
            for path in group.iter(f"{space}path")
        ]
        for group in ET.fromstring(text.encode()).iter(f"{space}g")
    }
