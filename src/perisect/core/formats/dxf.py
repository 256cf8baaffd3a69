"""Cut lines as DXF: millimetres, a layer for each process, origin at the sheet's lower left, y up."""

import io
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from perisect.core.curve import Chain, control_of
from perisect.core.formats import CutSheet
from perisect.core.process import processes

if TYPE_CHECKING:
    from ezdxf.layouts import Modelspace

MARKS_DXF_COLOUR = 8
CUBIC = 3


def write_dxf(sheet: CutSheet, splines: bool = False) -> str:
    """Lines on a layer for each process that has any, and on one for the marks. The drawing's extents are those of the
    lines, its limits those of the sheet.

    Args:
        splines: lines as the cubic splines they were fitted with, or parts of them, for those who read them; or else
            as light-weight polylines.
    """
    import ezdxf  # Half a second to import, and only this writer needs it.

    drawing = ezdxf.new("R2010", units=ezdxf.units.MM)
    space = drawing.modelspace()
    corners = []
    layers = [(p.name, p.dxf_colour, p.closed, sheet.lines.get(p.name, [])) for p in processes()]
    for name, colour, closed, rings in [*layers, ("marks", MARKS_DXF_COLOUR, True, sheet.marks)]:
        if not rings:
            continue
        drawing.layers.add(name, color=colour)
        curves = sheet.curves.get(name, []) if splines else []
        if len(curves) == len(rings):
            for curve in curves:
                _add_spline(space, curve.moved(lambda xy: _up(xy, sheet)), name)
        else:
            for ring in rings:
                space.add_lwpolyline(
                    _up(ring, sheet).round(4).tolist(), close=closed, dxfattribs={"layer": name}
                )
        corners += [_up(each, sheet) for ring in rings for each in (ring.min(axis=0), ring.max(axis=0))]
    if corners:
        drawing.header["$EXTMIN"] = (*np.min(corners, axis=0).round(4).tolist(), 0.0)
        drawing.header["$EXTMAX"] = (*np.max(corners, axis=0).round(4).tolist(), 0.0)
        space.reset_extents(drawing.header["$EXTMIN"], drawing.header["$EXTMAX"])
    drawing.header["$LIMMIN"], drawing.header["$LIMMAX"] = (0.0, 0.0), (sheet.width_mm, sheet.height_mm)
    space.reset_limits((0.0, 0.0), (sheet.width_mm, sheet.height_mm))
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue()


def write_dxf_splines(sheet: CutSheet) -> str:
    """As `write_dxf`, with splines."""
    return write_dxf(sheet, splines=True)


def _up(points: NDArray[np.float64], sheet: CutSheet) -> NDArray[np.float64]:
    return np.asarray(points * (1, -1) + (0, sheet.height_mm))


def _add_spline(space: "Modelspace", curve: Chain, layer: str) -> None:
    """A chain of Béziers as one B-spline: knots as often as the degree where two of them meet (Piegl and Tiller, The
    NURBS Book, 5.6)."""
    control, spans = control_of(curve).round(4), len(curve.stretches)
    inner = np.repeat(np.arange(1, spans), CUBIC)
    knots = np.concatenate([np.zeros(CUBIC + 1), inner, np.full(CUBIC + 1, spans)])
    spline = space.add_spline(degree=CUBIC, dxfattribs={"layer": layer})
    spline.control_points = np.pad(control, ((0, 0), (0, 1))).tolist()
    spline.knots = knots.tolist()
