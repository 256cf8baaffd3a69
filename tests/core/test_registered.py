"""A process and a mark pattern that nobody knew are found everywhere as soon as they are in their tables."""

import io
import re
import xml.etree.ElementTree as ET
from dataclasses import replace
from pathlib import Path

import ezdxf
import numpy as np
import pytest
import shapely

import perisect.core
from perisect.core.cutting.order import cut_order
from perisect.core.formats.dxf import write_dxf
from perisect.core.formats.hpgl import read_hpgl, write_hpgl
from perisect.core.formats.svg import write_svg
from perisect.core.job import JobRecipe, plan_job
from perisect.core.job.cut_sheet import cut_sheet
from perisect.core.process import TABLE, Process
from perisect.core.sheet.mark_pattern import PATTERNS, MarkPattern
from perisect.core.sheet.marks import MarkSettings
from perisect.core.sheet.stock import Stock
from tests.core.test_sheet import planned, rectangle

SVG = "{http://www.w3.org/2000/svg}"
SCORE = Process("score", "Score", 15, False, 8, "#336699", (1.0, 2.0), 5, 12, 0.1)
ARTWORKS = {f"{n:064x}": rectangle(400, 300) for n in range(2)}


@pytest.fixture
def score(monkeypatch: pytest.MonkeyPatch) -> Process:
    monkeypatch.setitem(TABLE, SCORE.name, SCORE)
    return SCORE


class Diamond(MarkPattern):
    """One mark in the middle of each side."""

    def centres(self, stock: Stock, settings: MarkSettings) -> list[tuple[float, float]]:
        x, y = stock.width_mm / 2, stock.height_mm / 2
        return [
            (x, settings.top_mm),
            (settings.side_mm, y),
            (stock.width_mm - settings.side_mm, y),
            (x, stock.height_mm - settings.bottom_mm),
        ]

    def shapes(self, count: int, settings: MarkSettings) -> list[str]:
        return ["square"] * count


@pytest.fixture
def diamond(monkeypatch: pytest.MonkeyPatch) -> MarkPattern:
    pattern = Diamond("diamond", "middles of the sides")
    monkeypatch.setitem(PATTERNS, pattern.name, pattern)
    return pattern


def test_a_made_up_process_is_in_svg_dxf_hpgl_and_the_order(score: Process) -> None:
    sheet = cut_sheet(planned((400, 300, 30.0), copies=1, fill=False), 0)
    line = np.array([[50.0, 60.0], [90.0, 60.0]])
    sheet = replace(sheet, lines={**sheet.lines, "score": [line]}, owners={**sheet.owners, "score": [0]})
    group = next(g for g in ET.fromstring(write_svg(sheet).encode()) if g.get("id") == "score")
    assert group.get("stroke") == "#336699"
    assert group.get("stroke-dasharray") == "1 2"
    drawing = ezdxf.read(io.StringIO(write_dxf(sheet)))
    assert drawing.layers.get("score").color == 5
    (drawn,) = drawing.modelspace().query('*[layer=="score"]')
    assert not drawn.closed
    strokes = [stroke for stroke in read_hpgl(write_hpgl(sheet)) if stroke.pen == 8]
    assert len(strokes) == 1
    # Forty millimetres, in units of 1/40 mm.
    assert shapely.LineString(strokes[0].points).length == 40 * 40
    # Ranked 15: before the kiss line of 20.
    assert [each.process for each in cut_order(sheet)] == ["score", "kiss"]


def test_a_made_up_process_is_in_the_tables_and_the_document_of_the_api(score: Process) -> None:
    from perisect.api.app import create_app
    from perisect.api.processes import tables

    shown = {each.name: each for each in tables().processes}
    assert (shown["score"].title, shown["score"].colour, shown["score"].closed) == ("Score", "#336699", False)
    # The screen's legend and strokes are made from this part of the document.
    document = create_app().openapi()["x-tables"]["processes"]
    assert [each["name"] for each in document][:3] == ["crease", "score", "kiss"]


def test_a_made_up_pattern_is_on_the_sheet_in_its_files_and_in_the_tables(diamond: MarkPattern) -> None:
    from perisect.api.processes import tables

    recipe = planned((400, 300, 30.0), copies=1, fill=False).recipe.model_dump()
    recipe["sheet"]["plotter"] = {"id": "p", "name": "P", "marks": {"pattern": "diamond"}}
    plan = plan_job(JobRecipe.model_validate(recipe), ARTWORKS)
    sheet = cut_sheet(plan, 0)
    # A4: 210 × 297, the marks 11 mm from the sides, 12 from the top and 15 from the bottom.
    assert [(mark.x_mm, mark.y_mm) for mark in plan.area.marks] == [
        (105, 12),
        (11, 148.5),
        (199, 148.5),
        (105, 282),
    ]
    inked = shapely.union_all([shapely.Polygon(ring) for ring in sheet.marks])
    assert all(inked.contains(shapely.Point(mark.x_mm, mark.y_mm)) for mark in plan.area.marks)
    group = next(g for g in ET.fromstring(write_svg(sheet).encode()) if g.get("id") == "marks")
    assert len(group.findall(f"{SVG}path")) == len(sheet.marks)
    assert "diamond" in {each.name for each in tables().patterns}
    # No sticker reaches into what a mark keeps for itself.
    pieces = shapely.union_all([shapely.Polygon(ring) for ring in sheet.lines["kiss"]])
    clear = plan.area.machine.marks.clear_mm
    assert all(pieces.distance(shapely.Point(mark.x_mm, mark.y_mm)) > clear for mark in plan.area.marks)


def test_the_mark_pattern_of_a_plotter_may_be_a_list_of_its_own() -> None:
    own = [
        {"x_mm": 20, "y_mm": 20, "from_x": "near", "from_y": "near", "shape": "square"},
        {"x_mm": 20, "y_mm": 20, "from_x": "far", "from_y": "near", "shape": "square"},
        {"x_mm": 0, "y_mm": 25, "from_x": "middle", "from_y": "far", "shape": "disc"},
    ]
    recipe = planned((400, 300, 30.0), copies=1, fill=False).recipe.model_dump()
    recipe["sheet"]["plotter"] = {"id": "p", "name": "P", "marks": {"pattern": "own", "own": own}}
    area = plan_job(JobRecipe.model_validate(recipe), ARTWORKS).area
    # A4: 210 × 297.
    assert [(mark.x_mm, mark.y_mm, mark.shape) for mark in area.marks] == [
        (20, 20, "square"),
        (190, 20, "square"),
        (105, 272, "disc"),
    ]


def test_core_reads_no_clock() -> None:
    """Time comes in as an argument, so that what is computed follows from what was asked."""
    core = Path(perisect.core.__file__).parent
    clocks = re.compile(r"^\s*(import time|from time import)|datetime\.now\(|\bnow\(\)", re.MULTILINE)
    assert [str(file) for file in core.rglob("*.py") if clocks.search(file.read_text())] == []
