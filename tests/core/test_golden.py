"""Cut files of every process as somebody would write them by hand: a square, or a line, of 10 mm."""

import io
import xml.etree.ElementTree as ET

import ezdxf
import numpy as np
import pytest

from perisect.core.formats import CutSheet
from perisect.core.formats.dxf import write_dxf
from perisect.core.formats.hpgl import write_hpgl
from perisect.core.formats.svg import write_svg
from perisect.core.process import TABLE

SQUARE = np.array([[10.0, 10.0], [20.0, 10.0], [20.0, 20.0], [10.0, 20.0]])
LINE = SQUARE[:2]
# A sheet of 100 × 50 mm: 10 mm from the top is 40 mm from the foot, and a millimetre has 40 units.
HPGL_SQUARE = "PU400,1600;PD800,1600,800,1200,400,1200,400,1600;"
HPGL_LINE = "PU400,1600;PD800,1600;"
SVG_SQUARE = ["10 10", "20 10", "20 20", "10 20"]
PENS = {"kiss": 1, "through": 2, "perforate": 3, "weed": 4, "crease": 5, "slit": 6}


def sheet_of(name: str) -> CutSheet:
    ring = SQUARE if TABLE[name].closed else LINE
    return CutSheet(100.0, 50.0, {name: [ring]}, {name: [0]}, [])


@pytest.mark.parametrize("name", sorted(PENS))
def test_hpgl(name: str) -> None:
    text = write_hpgl(sheet_of(name)).replace("\n", "")
    assert f"SP{PENS[name]};{HPGL_SQUARE if TABLE[name].closed else HPGL_LINE}" in text
    assert text.startswith("IN;")
    assert text.count("PD") == 1


@pytest.mark.parametrize("name", sorted(PENS))
def test_svg(name: str) -> None:
    root = ET.fromstring(write_svg(sheet_of(name)).encode())
    assert (root.get("viewBox"), root.get("width"), root.get("height")) == ("0 0 100 50", "100mm", "50mm")
    (path,) = next(group for group in root if group.get("id") == name)
    drawn = (path.get("d") or "").replace(",", " ").replace("M", " ").replace("L", " ")
    closed = drawn.rstrip().upper().endswith("Z")
    assert closed == TABLE[name].closed
    numbers = [float(each) for each in drawn.upper().replace("Z", " ").split()]
    points = SQUARE if closed else LINE
    assert numbers == points.ravel().tolist()


@pytest.mark.parametrize("name", sorted(PENS))
def test_dxf(name: str) -> None:
    drawing = ezdxf.read(io.StringIO(write_dxf(sheet_of(name))))
    (line,) = drawing.modelspace().query(f'*[layer=="{name}"]')
    assert line.closed == TABLE[name].closed
    points = [(round(x, 6), round(y, 6)) for x, y, *_ in line.get_points()]
    expected = [(10, 40), (20, 40), (20, 30), (10, 30)]
    assert points == (expected if TABLE[name].closed else expected[:2])
