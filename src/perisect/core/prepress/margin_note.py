"""What is written in a sheet's margin: whose it is, which sheet and copy, and which side and edge is which.

It stands where the printer prints and the knife never comes: between the printer's bare edge and what may be cut, clear
of the marks.
"""

import codecs
import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import cast

import numpy as np
import pikepdf
from numpy.typing import NDArray

from perisect.core.artwork.colour import levels
from perisect.core.prepress.page import VERSION
from perisect.core.prepress.page_font import ENCODING
from perisect.core.prepress.writing import Writing, write
from perisect.core.sheet.labels.fit import DESCENT, fit_text, width_of
from perisect.core.sheet.labels.label import PaintedText
from perisect.core.sheet.labels.recipe import Colour, FontName
from perisect.core.sheet.mark_pattern import pattern_of
from perisect.core.sheet.usable import UsableArea
from perisect.core.units import POINTS_PER_MM

FONT: FontName = "text"
CAPITALS_MM, LEAST_MM = 1.5, 0.9
"""Height of its capitals where there is room, and the least."""
CLEAR_MM = 0.4
"""Between the note and what bounds its strip."""
SHORTEST_MM = 40.0
CAPITALS = 0.67
"""Height of the font's capitals, of its size."""
COLOUR: Colour = "#5a5a5a"
EDGES = {
    "foot": "this edge leaves last",
    "head": "this edge leaves first",
    "left": "left edge",
    "right": "right edge",
}


class NoteImpossible(ValueError):
    """A name cannot be written in the margin; the text says why."""


@dataclass(frozen=True)
class Note:
    """What a sheet says of itself: parts, the most important first; the last ones are left out where room is short."""

    parts: tuple[str, ...]


@dataclass(frozen=True)
class Strip:
    """A strip along one edge, sheet mm: left, top, right, bottom."""

    edge: str
    box: tuple[float, float, float, float]

    @property
    def long_mm(self) -> float:
        """Along the edge."""
        left, top, right, bottom = self.box
        return bottom - top if self.is_upright else right - left

    @property
    def high_mm(self) -> float:
        """Across it."""
        left, top, right, bottom = self.box
        return right - left if self.is_upright else bottom - top

    @property
    def is_upright(self) -> bool:
        """Whether it runs along the sheet."""
        return self.edge in ("left", "right")


def margin_strip(area: UsableArea) -> Strip | None:
    """Where a note may stand: the foot, else the head, else a side; None where no edge has room."""
    machine, stock = area.machine, area.stock
    left, right = machine.margin_side_mm, stock.width_mm - machine.margin_side_mm
    top = max(machine.margin_top_mm, machine.used_top_mm)
    bottom = stock.height_mm - max(machine.margin_bottom_mm, machine.kept_bottom_mm)
    inner = [area.left_mm, area.top_mm, area.right_mm, area.bottom_mm]
    line = pattern_of(machine.marks).joining_line(area.marks, machine.marks)
    if line is not None:
        # Its ink stands outside of what may be cut.
        a, b, c, d = line.bounds
        inner = [min(inner[0], a), min(inner[1], b), max(inner[2], c), max(inner[3], d)]
    strips = (
        Strip("foot", (left, inner[3], right, bottom)),
        Strip("head", (left, top, right, inner[1])),
        Strip("left", (left, top, inner[0], bottom)),
        Strip("right", (inner[2], top, right, bottom)),
    )
    needed = LEAST_MM * (1 + DESCENT) + 2 * CLEAR_MM
    for strip in strips:
        if strip.high_mm < needed - 1e-9:
            continue
        free = _free(strip, area)
        if free is not None and free.long_mm >= SHORTEST_MM:
            return free
    return None


def _free(strip: Strip, area: UsableArea) -> Strip | None:
    """The longest part of a strip that no mark needs."""
    left, top, right, bottom = strip.box
    taken = []
    for a, b, c, d in area.obstacles:
        if a < right and c > left and b < bottom and d > top:
            taken.append((b, d) if strip.is_upright else (a, c))
    begin, end = (top, bottom) if strip.is_upright else (left, right)
    best, at = (0.0, begin, begin), begin
    for low, high in [*sorted(taken), (end, end)]:
        best = max(best, (low - at, at, low))
        at = max(at, high)
    length, low, high = best
    if length <= 0:
        return None
    box = (left, low, right, high) if strip.is_upright else (low, top, high, bottom)
    return Strip(strip.edge, box)


@dataclass(frozen=True)
class SetNote:
    """A note in its strip's own mm, from its top left as it is read, and (3, 3) from there to sheet mm."""

    words: str
    text: PaintedText
    to_sheet: NDArray[np.float64]


def set_note(note: Note, area: UsableArea) -> SetNote | None:
    """The note as it is printed; None where no edge has room for one.

    Raises:
        NoteImpossible: its first part does not fit, or holds letters that the font lacks.
    """
    strip = margin_strip(area)
    if strip is None:
        return None
    long, high = strip.long_mm - 2 * CLEAR_MM, strip.high_mm - 2 * CLEAR_MM
    parts = [*note.parts, EDGES[strip.edge]]
    for count in range(len(parts), 0, -1):
        fitted = fit_text(" · ".join(parts[:count]), long, high, FONT, CAPITALS_MM, LEAST_MM)
        if not fitted.problem:
            break
    else:
        raise NoteImpossible(f"“{parts[0][:60]}” cannot be written in the margin: {fitted.problem}.")
    line, size = fitted.lines[0], fitted.size_mm
    start = CLEAR_MM + (long - width_of(line, fitted.tracking) * size) / 2
    base = CLEAR_MM + (high - size * (1 + DESCENT)) / 2 + size
    glyphs = [
        (FONT, glyph, start + (x + fitted.tracking * place) * size, base + y * size, size)
        for place, (glyph, x, y) in enumerate(line.glyphs)
    ]
    left, top, _, bottom = strip.box
    flat, upright = [[1, 0, left], [0, 1, top]], [[0, 1, left], [-1, 0, bottom]]
    to_sheet = np.array([*(upright if strip.is_upright else flat), [0, 0, 1]], float)
    return SetNote(fitted.text, PaintedText(COLOUR, tuple(glyphs)), to_sheet)


def with_notes(pdf: bytes, area: UsableArea, notes: Sequence[Note]) -> bytes:
    """The page of a sheet's file once for each note, all sharing what they show.

    Raises:
        NoteImpossible: as `set_note`.
    """
    with pikepdf.open(io.BytesIO(pdf)) as file:
        first = file.pages[0]
        to_points = np.array([[1, 0, 0], [0, -1, area.stock.height_mm], [0, 0, 1]], float)
        to_points = np.diag([POINTS_PER_MM, POINTS_PER_MM, 1.0]) @ to_points
        shown = cast(pikepdf.Dictionary, first.Resources.XObject)
        written = []
        for note in notes:
            found = set_note(note, area)
            if found is None:
                written.append("")
                continue
            page = to_points @ found.to_sheet
            written.append(write(file, shown, Writing(found.text, levels(COLOUR)), page) + _told(found, page))
        drawn = first.Contents
        for number, text in enumerate(written):
            page = (
                first
                if number == 0
                else pikepdf.Page(file.make_indirect(pikepdf.Dictionary(dict(first.obj.items()))))
            )
            if number:
                file.pages.append(page)
            if text:
                page.obj.Contents = pikepdf.Array(
                    [drawn, file.make_stream(f"\n{text}".encode(ENCODING, "replace"))]
                )
        out = io.BytesIO()
        file.save(out, deterministic_id=True, min_version=VERSION)
        return out.getvalue()


def _told(note: SetNote, page: NDArray[np.float64]) -> str:
    """The words once more as text that is not painted (ISO 32000-2, 9.3.6), for whoever searches or reads aloud."""
    _, _, x, y, size = note.text.glyphs[0]
    at = page @ np.array([[size / CAPITALS, 0, x], [0, -size / CAPITALS, y], [0, 0, 1]])
    numbers = " ".join(f"{n:.4f}" for n in (at[0, 0], at[1, 0], at[0, 1], at[1, 1], at[0, 2], at[1, 2]))
    actual = (codecs.BOM_UTF16_BE + note.words.encode("utf-16-be")).hex()
    shown = note.words.encode(ENCODING, "replace").hex()
    return f"\n/Span <</ActualText <{actual}>>> BDC\nBT 3 Tr /F1 1 Tf {numbers} Tm <{shown}> Tj 0 Tr ET\nEMC"
