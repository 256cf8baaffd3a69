"""Cut lines as SVG: user units are millimetres, origin at the sheet's top left."""

from perisect.core.formats import CutSheet, Ring

STROKES = {"kiss": "#007f8c", "through": "#1b2023", "marks": "#586762"}
DASHES = {"through": ' stroke-dasharray="3 1"'}


def path_data(ring: Ring, decimals: int = 3) -> str:
    """One closed path of a ring."""
    pair = f"%.{decimals}f,%.{decimals}f"
    return f"M{' '.join([pair] * len(ring)) % tuple(ring.ravel().tolist())}Z"


def write_svg(sheet: CutSheet) -> str:
    """A group for each process, named by its id: `kiss`, `through`, `marks`."""
    groups = []
    for process in ("kiss", "through"):
        paths = "".join(f'<path d="{path_data(ring)}"/>' for ring in sheet.lines.get(process, []))
        groups.append(_group(process, paths))
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
