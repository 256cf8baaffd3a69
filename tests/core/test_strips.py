"""Cutting part after part: sticker after sticker, and section after section of a long sheet."""

import numpy as np
import pytest
import shapely

from perisect.core.cutting.order import cut_order
from perisect.core.cutting.registration import Registration, register
from perisect.core.cutting.strips import Part, by_section, by_sticker, sections_of, sensed_before, turns_of
from perisect.core.formats import CutSheet
from perisect.core.process import processes
from perisect.core.sheet.marks import Mark
from perisect.core.sheet.perimeter import NO_STICKER
from perisect.devices.cut_run import CutJob, Progress, cut_loaded

RANK = {process.name: n for n, process in enumerate(processes())}


def square(x: float, y: float, side: float) -> np.ndarray:
    return np.array([[x, y], [x + side, y], [x + side, y + side], [x, y + side]], float)


def long_sheet(rows: int = 8) -> CutSheet:
    """Two stickers a row each 100 mm along a roll, kiss within through, and a line round all of them."""
    places = [(30 + 100 * column, 50 + 100 * row) for row in range(rows) for column in range(2)]
    kiss = [square(x, y, 40) for x, y in places]
    through = [square(x - 3, y - 3, 46) for x, y in places] + [
        np.array([[10, 10], [290, 10], [290, 840], [10, 840]], float)
    ]
    owners = {"kiss": list(range(len(places))), "through": [*range(len(places)), NO_STICKER]}
    return CutSheet(300, 850, {"kiss": kiss, "through": through}, owners, [])


def test_turns_are_counted_from_when_marks_were_sensed() -> None:
    """All kiss lines come first: the sixteen stickers are the first sixteen lines. In sections of four or six stickers
    the count begins anew with each."""
    sheet = long_sheet()
    whole = turns_of(sheet, [Part(tuple(cut_order(sheet)))], 17)
    assert sorted(whole[:16]) == list(range(1, 17))
    assert whole[16] == 0  # a sticker that is only printed
    parts = by_section(sheet, sections_of(pairs(20, 300, 580, 830), 850))
    turns = turns_of(sheet, parts, 16)
    assert max(turns) == 6
    assert sum(turns == 1) == 3  # sections; the line round all of them is no sticker's


def pairs(*ys: float) -> list[Mark]:
    return [Mark(x, y, "corner", (1, 1), "quartered", f"{x:.0f} {y:.0f}") for y in ys for x in (10.0, 290.0)]


@pytest.mark.parametrize("how", ["stickers", "sections"])
def test_every_line_is_cut_once_whatever_the_parts_are(how: str) -> None:
    sheet = long_sheet()
    sections = sections_of(pairs(20, 300, 580, 830), 850)
    parts = by_sticker(sheet) if how == "stickers" else by_section(sheet, sections)
    lines = [line for part in parts for line in part.lines]
    assert sorted((line.process, line.index) for line in lines) == sorted(
        (line.process, line.index) for line in cut_order(sheet)
    )
    for line in lines:
        there = shapely.LinearRing(sheet.lines[line.process][line.index])
        assert shapely.LinearRing(line.ring).equals(there)
    # The line round everything frees the rest: it is cut last.
    assert (lines[-1].process, lines[-1].index) == ("through", 16)


def test_a_sticker_is_cut_with_all_its_processes_before_the_next() -> None:
    parts = by_sticker(long_sheet())
    assert len(parts) == 17
    for part in parts[:-1]:
        assert [line.process for line in part.lines] == ["kiss", "through"]
        assert part.lines[0].index == part.lines[1].index
    # From neighbour to neighbour: no way is longer than a diagonal of the grid.
    middles = [part.lines[0].ring.mean(axis=0) for part in parts[:-1]]
    assert max(np.hypot(*np.diff(middles, axis=0).T)) <= np.hypot(100, 100) + 1e-9


def test_sections_go_from_row_to_row_of_marks_and_are_found_by_those_at_their_ends() -> None:
    marks = pairs(20, 300, 580, 830)
    sections = sections_of(marks, 850)
    assert [(each.top_mm, each.bottom_mm) for each in sections] == [(580, 850), (300, 580), (0, 300)]
    assert [each.marks for each in sections] == [(4, 5, 6, 7), (2, 3, 4, 5), (0, 1, 2, 3)]
    # Marks at the ends alone: thirds of 850 mm would be longer than 250, so there are four, found by all marks.
    ends = sections_of(pairs(20, 830), 850)
    assert [each.bottom_mm - each.top_mm for each in ends] == [212.5] * 4
    assert {each.marks for each in ends} == {(0, 1, 2, 3)}
    parts = by_section(long_sheet(), sections)
    rows = [sorted({line.ring.mean(axis=0)[1] // 100 for line in part.lines}) for part in parts[:-1]]
    assert rows == [[5, 6, 7], [3, 4], [0, 1, 2]] or rows == [[6, 7], [3, 4, 5], [0, 1, 2]]
    for part in parts:
        ranks = [RANK[line.process] for line in part.lines]
        assert ranks == sorted(ranks)
    begins = sensed_before(parts)
    # The first part is cut by what was sensed of the whole sheet, the line round everything by the last.
    assert list(begins.values()) == [(2, 3, 4, 5), (0, 1, 2, 3)]
    assert list(begins) == [len(parts[0].lines), len(parts[0].lines) + len(parts[1].lines)]


class Creeping:
    """A plotter whose sheet creeps along with every line, told by marks that are looked up instead of seen."""

    can_look = True

    def __init__(self) -> None:
        self.off, self.cut = np.zeros(2), []

    def load(self, *_: object) -> None: ...
    def park(self) -> None: ...
    def look(self, *_: object) -> None: ...
    def carry_out(self, motions: object) -> None:
        self.cut.append((motions, self.off.copy()))
        self.off = self.off + (0.01, 0.02)

    def unload(self) -> object:
        return None


def test_marks_are_sensed_again_before_each_section(monkeypatch: pytest.MonkeyPatch) -> None:
    marks, sheet = pairs(20, 300, 580, 830), long_sheet()
    parts = by_section(sheet, sections_of(marks, 850))
    lines = [line for part in parts for line in part.lines]
    plotter = Creeping()
    sensed: list[list[float]] = []

    def sense_marks(some, settings, place, look):
        sensed.append([mark.y_mm for mark in some])
        found = [np.array([20 + mark.x_mm, 20 + 850 - mark.y_mm]) + plotter.off for mark in some]
        return [type("Found", (), {"x_mm": x, "y_mm": y})() for x, y in found]

    def sense(driver: object, job: CutJob) -> Registration:
        found = sense_marks(job.marks, None, None, None)
        return register([(m.x_mm, m.y_mm) for m in job.marks], [(f.x_mm, f.y_mm) for f in found])

    monkeypatch.setattr("perisect.devices.cut_run.sense_marks", sense_marks)
    monkeypatch.setattr("perisect.devices.cut_run.sense", sense)
    monkeypatch.setattr("perisect.devices.cut_run.survey", lambda *_: [])
    monkeypatch.setattr("perisect.devices.cut_run.cause_of", lambda *_: None)
    told: list[Registration] = []
    job = CutJob(marks, None, 850, lines, sensed_at=sensed_before(parts))  # type: ignore[arg-type]
    result = cut_loaded(plotter, None, job, Progress(registered=told.append), register_by=sense)  # type: ignore[arg-type]
    assert result.lines_done == len(lines)
    assert sensed[0] == [20, 20, 300, 300, 580, 580, 830, 830]
    assert sensed[1:3] == [[300, 300, 580, 580], [20, 20, 300, 300]]
    # Each registration holds what the sheet had crept by then.
    first = len(parts[0].lines) + 1  # the opening is a step too
    assert told[1].matrix[:, 2] - told[0].matrix[:, 2] == pytest.approx(
        [0.01 * first, 0.02 * first], abs=1e-6
    )
