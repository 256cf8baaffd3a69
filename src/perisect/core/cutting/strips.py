"""A cut part after part: sticker after sticker, or section after section along a long sheet."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import ceil

import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.order import CutLine, cut_order, lines_of
from perisect.core.cutting.route import short_route
from perisect.core.formats import CutSheet
from perisect.core.sheet.marks import Mark

SECTION_MM = 250.0
"""A sheet whose marks stand at its ends alone is parted so."""
SAME_ROW_MM = 5.0
"""Marks that are so near each other along the sheet stand in one row."""
FEWEST_ROWS = 3


@dataclass(frozen=True)
class Section:
    """A part of a sheet from `top_mm` to `bottom_mm`, and the numbers of the marks that it is found by."""

    top_mm: float
    bottom_mm: float
    marks: tuple[int, ...]


@dataclass(frozen=True)
class Part:
    """Lines that are cut before the next part is begun, and the marks that are sensed before them; none for those that
    are known still."""

    lines: tuple[CutLine, ...]
    marks: tuple[int, ...] = ()


def sections_of(marks: Sequence[Mark], height_mm: float) -> list[Section]:
    """The sections of a sheet from its foot, which lies at the corner of the plate, to its head: from row to row of
    marks where there are three rows or more, or else of about `SECTION_MM`."""
    ys = np.array([mark.y_mm for mark in marks])
    order = np.argsort(ys)
    row = np.zeros(len(ys), int)
    row[order] = np.cumsum(np.diff(ys[order], prepend=ys[order[:1]]) > SAME_ROW_MM)
    rows = [np.flatnonzero(row == number) for number in range(int(row.max(initial=-1)) + 1)]
    if len(rows) >= FEWEST_ROWS:
        levels = [float(ys[each].mean()) for each in rows]
        limits = [0.0, *levels[1:-1], height_mm]
        found = [(*rows[n], *rows[n + 1]) for n in range(len(rows) - 1)]
    else:
        count = max(1, ceil(height_mm / SECTION_MM))
        limits = np.linspace(0, height_mm, count + 1).tolist()
        found = [tuple(range(len(marks)))] * count
    sections = [
        Section(top, bottom, tuple(int(each) for each in seen))
        for (top, bottom), seen in zip(pairwise(limits), found, strict=True)
    ]
    return sections[::-1]


def by_sticker(sheet: CutSheet) -> list[Part]:
    """Sticker after sticker by a short way, each with all its processes; what is no sticker's comes last."""
    owners = sorted({owner for each in sheet.owners.values() for owner in each if owner >= 0})
    middles = np.array([_middle(sheet, owner) for owner in owners])
    start = np.array((0.0, sheet.height_mm))
    order = [owners[n] for n in short_route(middles, start)] if owners else []
    return _parts(sheet, [({owner}, ()) for owner in order])


def by_section(sheet: CutSheet, sections: Sequence[Section]) -> list[Part]:
    """Section after section, in each process after process; a sticker belongs to the section its middle lies in."""
    owners = sorted({owner for each in sheet.owners.values() for owner in each if owner >= 0})
    middles = {owner: _middle(sheet, owner)[1] for owner in owners}
    groups = [
        ({owner for owner, y in middles.items() if each.top_mm <= y < each.bottom_mm}, each.marks)
        for each in sections
    ]
    return _parts(sheet, [(some, marks) for some, marks in groups if some])


def sensed_before(parts: Sequence[Part]) -> dict[int, tuple[int, ...]]:
    """Numbers of the lines before which marks are sensed, with those marks, for parts that have some."""
    begins = np.cumsum([0, *(len(part.lines) for part in parts)])
    return {int(begin): part.marks for begin, part in zip(begins, parts, strict=False) if part.marks}


def turns_of(sheet: CutSheet, parts: Sequence[Part], stickers: int) -> NDArray[np.int64]:
    """(stickers,) how many lines are cut, from when marks were last sensed, until the first one of each sticker is,
    that one among them; 0 for one that has none."""
    turns, cut = np.zeros(stickers, np.int64), 0
    for part in parts:
        cut = 0 if part.marks else cut
        for line in part.lines:
            cut += 1
            owner = sheet.owners[line.process][line.index]
            if 0 <= owner < stickers and turns[owner] == 0:
                turns[owner] = cut
    return turns


def _middle(sheet: CutSheet, owner: int) -> np.ndarray:
    points = np.concatenate(
        [
            line
            for process, lines in sheet.lines.items()
            for line, its in zip(lines, sheet.owners[process], strict=True)
            if its == owner
        ]
    )
    return (points.min(axis=0) + points.max(axis=0)) / 2


def _parts(sheet: CutSheet, groups: Sequence[tuple[set[int], tuple[int, ...]]]) -> list[Part]:
    parts: list[Part] = []
    at: tuple[float, float] | None = None
    taken = set().union(*(owners for owners, _ in groups)) if groups else set[int]()
    for owners, marks in (*groups, (None, ())):
        mine = {
            process: [
                n for n, its in enumerate(every) if (its not in taken if owners is None else its in owners)
            ]
            for process, every in sheet.owners.items()
        }
        lines = cut_order(lines_of(sheet, mine), at)
        if lines:
            # Among the lines of the whole sheet each has the number it has there.
            numbered = tuple(
                CutLine(line.process, mine[line.process][line.index], line.ring, line.closed)
                for line in lines
            )
            parts.append(Part(numbered, marks if parts else ()))
            x, y = lines[-1].ring[0 if lines[-1].closed else -1].tolist()
            at = (x, y)
    return parts
