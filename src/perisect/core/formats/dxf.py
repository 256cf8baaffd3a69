"""Cut lines as DXF: millimetres, a layer for each process, origin at the sheet's lower left, y up."""

import io

from perisect.core.formats import OPEN, CutSheet

COLOURS = {"kiss": 4, "perforate": 34, "crease": 6, "weed": 9, "slit": 7, "through": 7, "marks": 8}


def write_dxf(sheet: CutSheet) -> str:
    """Light-weight polylines on a layer for each process and one for the marks; closed but for `OPEN`."""
    import ezdxf  # Half a second to import, and only this writer needs it.

    drawing = ezdxf.new("R2010", units=ezdxf.units.MM)
    space = drawing.modelspace()
    for process, rings in [*sheet.lines.items(), ("marks", sheet.marks)]:
        drawing.layers.add(process, color=COLOURS[process])
        for ring in rings:
            up = ring * (1, -1) + (0, sheet.height_mm)
            space.add_lwpolyline(
                up.round(4).tolist(), close=process not in OPEN, dxfattribs={"layer": process}
            )
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue()
