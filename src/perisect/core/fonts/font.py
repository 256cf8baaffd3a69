"""Fonts: shaped by HarfBuzz, drawn as outlines."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import uharfbuzz as hb

from perisect.core.fonts import FOLDER, OTHER_SCRIPTS, FontName
from perisect.core.fonts.path import Path


@dataclass(frozen=True)
class Shaped:
    """A run of glyphs in capital heights: (glyph, x, y) each, the width of all, the letters in it that the font
    lacks, and how many gaps between glyphs can be tracked."""

    glyphs: tuple[tuple[int, float, float], ...]
    width: float
    lacking: str
    gaps: int


class Font:
    """One font; lengths are in heights of its capitals, y down."""

    def __init__(self, file: bytes) -> None:
        face = hb.Face(hb.Blob(file))
        self._font = hb.Font(face)
        self.unit = float(self._font.get_metric_position(hb.OTMetricsTag.CAP_HEIGHT) or face.upem * 0.7)
        self._outlines: dict[int, Path] = {}

    def shape(self, text: str) -> Shaped:
        """A line of text, its script and direction guessed from its letters."""
        buffer = hb.Buffer()
        buffer.add_str(text)
        buffer.guess_segment_properties()
        hb.shape(self._font, buffer)
        x, glyphs, lacking = 0.0, [], set()
        # Of nothing there are none, not an empty list of them.
        for info, place in zip(buffer.glyph_infos or (), buffer.glyph_positions or (), strict=True):
            if info.codepoint == 0:
                lacking.add(text[info.cluster])
            glyphs.append((info.codepoint, (x + place.x_offset) / self.unit, -place.y_offset / self.unit))
            x += place.x_advance
        missing = "".join(sorted(lacking))
        return Shaped(tuple(glyphs), x / self.unit, missing, max(0, len(glyphs) - 1))

    def outline(self, glyph: int) -> Path:
        """A glyph in capital heights, y down, from its origin on the base line."""
        if glyph not in self._outlines:
            pen = _Pen()
            self._font.draw_glyph(glyph, pen.functions, pen)
            points = np.array(pen.points, float).reshape(-1, 2) / (self.unit, -self.unit)
            self._outlines[glyph] = Path("".join(pen.letters), points)
        return self._outlines[glyph]


class _Pen:
    """Collects a glyph's path; quadratic curves are raised to cubic ones."""

    def __init__(self) -> None:
        self.letters: list[str] = []
        self.points: list[float] = []
        self.functions = hb.DrawFuncs()
        self.functions.set_move_to_func(lambda x, y, pen: pen.add("M", x, y))
        self.functions.set_line_to_func(lambda x, y, pen: pen.add("L", x, y))
        self.functions.set_quadratic_to_func(lambda a, b, x, y, pen: pen.quadratic(a, b, x, y))
        self.functions.set_cubic_to_func(lambda a, b, c, d, x, y, pen: pen.add("C", a, b, c, d, x, y))
        self.functions.set_close_path_func(lambda pen: pen.add("Z"))

    def add(self, letter: str, *numbers: float) -> None:
        self.letters.append(letter)
        self.points.extend(numbers)

    def quadratic(self, a: float, b: float, x: float, y: float) -> None:
        u, v = self.points[-2:]
        third = 2 / 3
        self.add(
            "C", u + third * (a - u), v + third * (b - v), x + third * (a - x), y + third * (b - y), x, y
        )


@lru_cache
def font(name: FontName) -> Font:
    """A font that ships, by its name."""
    return shipped(name)


@lru_cache
def shipped(file: str) -> Font:
    """A font that ships, by the name of its file."""
    return Font((FOLDER / f"{file}.ttf").read_bytes())


@dataclass(frozen=True)
class Run:
    """Letters that one font has, as glyphs of it; widths in capital heights of that font."""

    font: Font
    shaped: Shaped


def runs(text: str, chosen: Font) -> list[Run]:
    """A line in runs, each of the first font that has its letters: the chosen one, or one of those for other scripts;
    letters that none has stay with the chosen one. Runs come in the order they are read in, from the left.

    A text of one font is one run. Of several, marks and spaces stay with the letters before them.
    """
    whole = chosen.shape(text)
    if not whole.lacking:
        return [Run(chosen, whole)]
    lacking = set(whole.lacking)
    parts: list[tuple[Font, str]] = []
    for letter in text:
        font_of = chosen
        if letter in lacking:
            others = (shipped(name) for name in OTHER_SCRIPTS)
            font_of = next((each for each in others if not each.shape(letter).lacking), chosen)
        elif parts and not letter.isalnum():
            font_of = parts[-1][0] if not parts[-1][0].shape(letter).lacking else chosen
        if parts and parts[-1][0] is font_of:
            parts[-1] = font_of, parts[-1][1] + letter
        else:
            parts.append((font_of, letter))
    return [Run(font_of, font_of.shape(part)) for font_of, part in parts]
