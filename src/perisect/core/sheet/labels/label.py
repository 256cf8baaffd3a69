"""One row's text and codes on its design."""

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from perisect.core.fonts.font import font
from perisect.core.fonts.path import Path, joined
from perisect.core.sheet.labels.codes import code_of
from perisect.core.sheet.labels.fit import DESCENT, LEADING, FittedText, fit_text, width_of
from perisect.core.sheet.labels.recipe import CodeBox, FontName, LabelRecipe, TextBox
from perisect.core.sheet.labels.table import Table

_HOLE = re.compile(r"\{([^{}]*)\}")


@dataclass(frozen=True)
class PaintedText:
    """Glyphs in one colour: (font, glyph, x, y, height of capitals) each, from their origins, design mm."""

    colour: str
    glyphs: tuple[tuple[FontName, int, float, float, float], ...]

    @property
    def path(self) -> Path:
        """Their outlines."""
        parts = []
        for name, glyph, x, y, size in self.glyphs:
            outline = font(name).outline(glyph)
            parts.append(Path(outline.letters, outline.points * size + (x, y)))
        return joined(parts)


@dataclass(frozen=True)
class PaintedCode:
    """Dark modules (rows, columns) in one colour over a box: left, top, width, height, design mm."""

    colour: str
    modules: NDArray[np.bool_]
    box: tuple[float, float, float, float]

    @property
    def path(self) -> Path:
        """Runs of dark modules as boxes."""
        left, top, width, height = self.box
        edges = np.diff(np.pad(self.modules.astype(np.int8), ((0, 0), (1, 1))), axis=1)
        rows, begins = np.nonzero(edges == 1)
        ends = np.nonzero(edges == -1)[1]
        across, down = width / self.modules.shape[1], height / self.modules.shape[0]
        x0, x1, y0, y1 = (
            left + begins * across,
            left + ends * across,
            top + rows * down,
            top + (rows + 1) * down,
        )
        points = np.stack([x0, y0, x1, y0, x1, y1, x0, y1], axis=1).reshape(-1, 2)
        return Path("MLLLZ" * len(rows), points)


Painted = PaintedText | PaintedCode


@dataclass(frozen=True)
class LabelArt:
    """What a row prints, in design mm, its texts as they were fitted, and what does not fit."""

    painted: tuple[Painted, ...]
    texts: tuple[FittedText, ...]
    problems: tuple[str, ...]


def filled_in(template: str, row: dict[str, str], number: int) -> str:
    """A template with a row's cells and the label's number; a name that is no column stays as it is written."""
    known = {name.lower(): cell for name, cell in row.items()}

    def cell(hole: re.Match[str]) -> str:
        name = hole[1].strip().lower()
        if name.startswith("#"):
            width = int(name[1:]) if name[1:].isdigit() else 0
            return str(number).zfill(min(width, 12))
        return known.get(name, hole[0])

    return _HOLE.sub(cell, template)


def label_art(recipe: LabelRecipe, table: Table, index: int, longest_mm: float) -> LabelArt:
    """What row `index` (from 0) prints on a design whose longest side is `longest_mm`."""
    row, number = table.row(index), recipe.first + index
    painted: list[Painted] = []
    texts: list[FittedText] = []
    problems: list[str] = []
    for box in recipe.texts:
        words = filled_in(box.template, row, number)
        if not words.strip():
            continue
        width, height = box.width * longest_mm, box.height * longest_mm
        fitted = fit_text(words, width, height, box.font, box.size_mm, box.least_mm, box.lines, recipe.shorts)
        texts.append(fitted)
        if fitted.problem:
            problems.append(f"“{words}”: {fitted.problem}")
        else:
            painted.append(_text(box, fitted, longest_mm))
    for code in recipe.codes:
        words = filled_in(code.template, row, number)
        made = code_of(words, code, code.width * longest_mm, code.height * longest_mm)
        if made.problem:
            problems.append(f"“{words}”: {made.problem}")
        else:
            painted.append(_code(code, made.modules, made.module_mm, longest_mm))
    return LabelArt(tuple(painted), tuple(texts), tuple(problems))


def set_text(box: TextBox, text: str, longest_mm: float) -> PaintedText | None:
    """A text in its box; None where it does not fit."""
    width, height = box.width * longest_mm, box.height * longest_mm
    fitted = fit_text(text, width, height, box.font, box.size_mm, box.least_mm, box.lines)
    return None if fitted.problem else _text(box, fitted, longest_mm)


def _text(box: TextBox, fitted: FittedText, longest_mm: float) -> PaintedText:
    left, top = box.x * longest_mm, box.y * longest_mm
    width, height = box.width * longest_mm, box.height * longest_mm
    size = fitted.size_mm
    block = size * (1 + LEADING * (len(fitted.lines) - 1))
    # The block of capitals stands in the middle, its descenders inside the box.
    base = top + min((height - block) / 2, height - block - DESCENT * size) + size
    glyphs = []
    for number, line in enumerate(fitted.lines):
        room = width - width_of(line, fitted.tracking) * size
        start = left + {"left": 0.0, "centre": room / 2, "right": room}[box.align]
        for place, (glyph, x, y) in enumerate(line.glyphs):
            at = start + (x + fitted.tracking * place) * size, base + number * LEADING * size + y * size
            glyphs.append((box.font, glyph, *at, size))
    return PaintedText(box.colour, tuple(glyphs))


def _code(box: CodeBox, modules: NDArray[np.bool_], module_mm: float, longest_mm: float) -> PaintedCode:
    """A code in the middle of its box; a bar code's bars are as high as that."""
    width, height = box.width * longest_mm, box.height * longest_mm
    wide = modules.shape[1] * module_mm
    tall = modules.shape[0] * module_mm if box.kind == "qr" else height
    left, top = box.x * longest_mm + (width - wide) / 2, box.y * longest_mm + (height - tall) / 2
    return PaintedCode(box.colour, modules, (left, top, wide, tall))
