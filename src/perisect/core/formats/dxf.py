"""Cut lines as DXF: millimetres, a layer for each process, origin at the sheet's lower left, y up."""

import io

from perisect.core.formats import CutSheet
from perisect.core.process import processes

MARKS_DXF_COLOUR = 8


def write_dxf(sheet: CutSheet) -> str:
    """Light-weight polylines on a layer for each process that has lines, and one for the marks."""
    import ezdxf  # Half a second to import, and only this writer needs it.

    drawing = ezdxf.new("R2010", units=ezdxf.units.MM)
    space = drawing.modelspace()
    layers = [(p.name, p.dxf_colour, p.closed, sheet.lines.get(p.name, [])) for p in processes()]
    for name, colour, closed, rings in [*layers, ("marks", MARKS_DXF_COLOUR, True, sheet.marks)]:
        if not rings:
            continue
        drawing.layers.add(name, color=colour)
        for ring in rings:
            up = ring * (1, -1) + (0, sheet.height_mm)
            space.add_lwpolyline(up.round(4).tolist(), close=closed, dxfattribs={"layer": name})
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue()
