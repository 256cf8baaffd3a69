"""Cut lines as SVG: user units are millimetres, origin at the sheet's top left."""

import numpy as np

from perisect.core.curve import Curve
from perisect.core.formats import OPEN, CutSheet, Ring

STROKES = {
    "crease": "#8a5a9e",
    "kiss": "#007f8c",
    "weed": "#8b9691",
    "perforate": "#7a4b12",
    "slit": "#1b2023",
    "through": "#1b2023",
    "marks": "#586762",
}
DASHES = {"through": ' stroke-dasharray="3 1"', "weed": ' stroke-dasharray="0.4 0.8"'}


def path_data(ring: Ring, decimals: int = 3, closed: bool = True) -> str:
    """One path of a ring, or of an open line."""
    pair = f"%.{decimals}f,%.{decimals}f"
    return f"M{' '.join([pair] * len(ring)) % tuple(ring.ravel().tolist())}{'Z' if closed else ''}"


def curve_data(curve: Curve, decimals: int = 3) -> str:
    """A closed curve as one path of cubic Béziers."""
    pair = f"%.{decimals}f,%.{decimals}f"
    control = np.concatenate([curve.nodes[:1], curve.stretches[:, 1:].reshape(-1, 2)])
    triple = "C" + " ".join([pair] * 3)
    return f"M{pair}{triple * len(curve.nodes)}Z" % tuple(control.ravel().tolist())


def write_svg(sheet: CutSheet) -> str:
    """A group for each process, named by its id: `kiss`, `through`, `marks`, and `crease`, `weed`, `perforate` and
    `slit` where there are any. Closed lines are the curves they were fitted with."""
    groups = []
    for process in ("crease", "kiss", "weed", "perforate", "slit", "through"):
        closed = process not in OPEN
        lines = sheet.lines.get(process, [])
        if not lines and not closed:
            continue
        curves = sheet.curves.get(process, [])
        drawn = (
            [curve_data(curve) for curve in curves]
            if len(curves) == len(lines)
            else [path_data(line, closed=closed) for line in lines]
        )
        groups.append(_group(process, "".join(f'<path d="{path}"/>' for path in drawn)))
    groups.append(_group("marks", "".join(f'<path d="{path_data(ring)}"/>' for ring in sheet.marks)))
    width, height = sheet.width_mm, sheet.height_mm
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}mm" height="{height:g}mm" '
        f'viewBox="0 0 {width:g} {height:g}">\n' + "\n".join(groups) + "\n</svg>\n"
    )


def _group(name: str, content: str) -> str:
    style = f'fill="none" stroke="{STROKES[name]}" stroke-width="0.2"{DASHES.get(name, "")}'
    return f'<g id="{name}" {style}>{content}</g>'
