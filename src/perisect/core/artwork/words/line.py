"""One line of a text: its letters on a straight base line, as close as is asked for."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise

import numpy as np
import shapely

from perisect.core.artwork.words.ink import gap_between, ink_of
from perisect.core.fonts.font import Font, runs

TOUCH = 0.02
"""By so much letters overlap that are closed, in heights of capitals: a line round what only just touches is as thin as
nothing there."""


@dataclass(frozen=True)
class Letter:
    """A glyph in capital heights: where it stands on the base line, how far its room goes on, and by how much its loose
    parts (dots, marks) are lowered to touch the rest."""

    font: Font
    glyph: int
    x: float
    y: float
    room: float
    word: int
    ink: shapely.MultiPolygon
    """With its loose parts lowered, from its own origin."""

    @property
    def has_ink(self) -> bool:
        """Whether anything of it is printed."""
        return not self.ink.is_empty


@dataclass(frozen=True)
class Line:
    """Letters of a line, by how much each is closer than the font sets it (capital heights), and what no font has."""

    letters: tuple[Letter, ...]
    closed: float
    lacking: str

    @property
    def ink(self) -> shapely.Geometry:
        """All of it, from the line's origin."""
        return shapely.union_all(
            [
                shapely.transform(each.ink, lambda xy, each=each: xy + (each.x, each.y))
                for each in self.letters
            ]
        )


def set_line(
    text: str, font: Font, tracking: float, close: str, touch: float = TOUCH, share: float = 1.0
) -> Line:
    """A line as it is set.

    Args:
        tracking: put between letters, in heights of capitals.
        close: `no`; `even`, by one measure, the least at which every word is one piece; `pair`, each pair by its own.
        touch: by how much closed letters overlap.
        share: of the closing that is done.
    """
    letters: list[Letter] = []
    lacking, start, word = "", 0.0, 0
    for run in runs(text, font):
        lacking += run.shaped.lacking
        scale = font.unit / run.font.unit if run.font is font else 1.0
        places = run.shaped.glyphs
        for number, (glyph, x, y) in enumerate(places):
            end = places[number + 1][1] if number + 1 < len(places) else run.shaped.width
            ink = ink_of(run.font, glyph)
            if ink.is_empty:
                word += 1
            letters.append(Letter(run.font, glyph, start + x * scale, y, max(end - x, 0.0), word, ink))
        start += run.shaped.width
    if close != "no":
        letters = [replace(each, ink=whole_ink(each.font, each.glyph, touch)) for each in letters]
    moved = _tracked(letters, tracking, close, touch, share)
    closed = max((a.x - b.x for a, b in zip(letters, moved, strict=True)), default=0.0)
    gaps = sum(a.word == b.word for a, b in pairwise(letters))
    return Line(tuple(moved), closed / gaps if gaps and close == "even" else closed, lacking)


def _tracked(
    letters: Sequence[Letter], tracking: float, close: str, touch: float, share: float
) -> list[Letter]:
    """Letters moved along the base line."""
    by = [0.0 if n == 0 else tracking for n in range(len(letters))]
    pairs = [
        (n, gap)
        for n in range(1, len(letters))
        if letters[n].word == letters[n - 1].word
        and letters[n].has_ink
        and letters[n - 1].has_ink
        and (gap := _gap(letters[n - 1], letters[n], touch if close != "no" else None)) is not None
    ]
    pairs = pairs if close != "no" else []
    if close == "even" and pairs:
        # The pair that is furthest apart says how close all come.
        every = -share * max(0.0, max(gap for _, gap in pairs) + touch)
        for n in range(1, len(letters)):
            if letters[n].word == letters[n - 1].word:
                by[n] = every
    elif close == "pair":
        for n, gap in pairs:
            by[n] = -share * (gap + touch)
    passed = np.cumsum(by)
    return [replace(each, x=each.x + float(shift)) for each, shift in zip(letters, passed, strict=True)]


def _gap(left: Letter, right: Letter, touch: float | None) -> float | None:
    rise = round(right.y - left.y, 6)
    gap = _pair_gap(left.font, left.glyph, right.font, right.glyph, rise, touch)
    return None if gap is None else gap + right.x - left.x


@lru_cache(maxsize=8192)
def _pair_gap(
    font: Font, glyph: int, other_font: Font, other: int, rise: float, touch: float | None
) -> float | None:
    """The gap of two glyphs whose origins are at one place but for the rise of the second."""
    first = ink_of(font, glyph) if touch is None else whole_ink(font, glyph, touch)
    second = ink_of(other_font, other) if touch is None else whole_ink(other_font, other, touch)
    return gap_between(first, shapely.transform(second, lambda xy: xy + (0.0, rise)))


@lru_cache(maxsize=4096)
def whole_ink(font: Font, glyph: int, touch: float) -> shapely.MultiPolygon:
    """The ink of a glyph with its loose parts brought to the rest."""
    return without_loose_parts(ink_of(font, glyph), touch)


def without_loose_parts(ink: shapely.MultiPolygon, touch: float) -> shapely.MultiPolygon:
    """A glyph in one piece: its smaller parts (dots, marks) moved up or down until they overlap what is nearest by
    `touch`."""
    parts = sorted(shapely.get_parts(ink), key=lambda part: -float(part.area))
    if len(parts) < 2:
        return ink
    whole: shapely.Geometry = parts[0]
    for part in parts[1:]:
        by = np.array(_towards(whole, part, touch))
        whole = shapely.union(whole, shapely.transform(part, lambda xy, by=by: xy + by))
    found = shapely.get_parts(whole)
    return shapely.multipolygons(found[shapely.get_type_id(found) == shapely.GeometryType.POLYGON])


def _towards(whole: shapely.Geometry, part: shapely.Polygon, touch: float) -> tuple[float, float]:
    """By how much a loose part is moved to overlap the rest: up or down, to the side where nothing lies that way, and
    whichever is less."""
    found = []
    for axis in (1, 0):
        before = part.centroid.coords[0][axis] < whole.centroid.coords[0][axis]
        first, second = (part, whole) if before else (whole, part)
        if axis == 1:
            first, second = (shapely.transform(each, lambda xy: xy[:, ::-1]) for each in (first, second))
        gap = gap_between(_many(first), _many(second))
        if gap is not None:
            by = (gap + touch) * (1 if before else -1)
            found.append((0.0, by) if axis == 1 else (by, 0.0))
    return min(found, key=lambda by: abs(by[0]) + abs(by[1]), default=(0.0, 0.0))


def _many(shape: shapely.Geometry) -> shapely.MultiPolygon:
    return shapely.multipolygons(shapely.get_parts(shape))
