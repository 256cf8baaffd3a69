"""The fonts that ship: shaped by HarfBuzz, drawn as outlines."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import uharfbuzz as hb

from perisect.core.fonts import FOLDER
from perisect.core.sheet.labels.path import Path
from perisect.core.sheet.labels.recipe import FontName


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

    def __init__(self, name: FontName) -> None:
        face = hb.Face(hb.Blob.from_file_path(str(FOLDER / f"{name}.ttf")))
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
        for info, place in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
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
    return Font(name)
