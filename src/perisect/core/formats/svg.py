"""Cut lines as SVG: user units are millimetres, origin at the sheet's top left."""

from perisect.core.curve import Chain, control_of
from perisect.core.formats import CutSheet, Ring
from perisect.core.process import MARKS_COLOUR, processes


def path_data(ring: Ring, decimals: int = 3, closed: bool = True) -> str:
    """One path of a ring, or of an open line."""
    pair = f"%.{decimals}f,%.{decimals}f"
    return f"M{' '.join([pair] * len(ring)) % tuple(ring.ravel().tolist())}{'Z' if closed else ''}"


def curve_data(curve: Chain, decimals: int = 3) -> str:
    """A chain as one path of cubic Béziers."""
    pair = f"%.{decimals}f,%.{decimals}f"
    triple = "C" + " ".join([pair] * 3)
    path = f"M{pair}{triple * len(curve.stretches)}{'Z' if curve.closed else ''}"
    return path % tuple(control_of(curve).ravel().tolist())


def write_svg(sheet: CutSheet) -> str:
    """A group for each process, named by its id: those of closed lines always, others where there are any; and
    `marks`. Lines are the curves they were fitted with, or parts of them."""
    groups = []
    for process in processes():
        lines = sheet.lines.get(process.name, [])
        if not lines and not process.closed:
            continue
        curves = sheet.curves.get(process.name, [])
        drawn = (
            [curve_data(curve) for curve in curves]
            if len(curves) == len(lines)
            else [path_data(line, closed=process.closed) for line in lines]
        )
        groups.append(_group(process.name, drawn, process.colour, process.dash_mm))
    groups.append(_group("marks", [path_data(ring) for ring in sheet.marks], MARKS_COLOUR))
    width, height = sheet.width_mm, sheet.height_mm
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}mm" height="{height:g}mm" '
        f'viewBox="0 0 {width:g} {height:g}">\n' + "\n".join(groups) + "\n</svg>\n"
    )


def _group(name: str, paths: list[str], colour: str, dash_mm: tuple[float, ...] = ()) -> str:
    dash = f' stroke-dasharray="{" ".join(f"{mm:g}" for mm in dash_mm)}"' if dash_mm else ""
    drawn = "".join(f'<path d="{path}"/>' for path in paths)
    return f'<g id="{name}" fill="none" stroke="{colour}" stroke-width="0.2"{dash}>{drawn}</g>'
