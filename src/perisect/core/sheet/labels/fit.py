"""Fit a text to its box: by size, then by tracking, then with the short forms, and never below what is legible."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from perisect.core.fonts.font import Shaped, font
from perisect.core.sheet.labels.recipe import FontName, ShortForm

TRACKING = -0.05
"""The closest that letters are set, capital heights between two of them."""
LEADING = 1.75
"""Base line to base line, capital heights."""
DESCENT = 0.32
"""What letters reach below the base line."""


@dataclass(frozen=True)
class FittedText:
    """Lines as they are set: capitals `size_mm` high, letters `tracking` (of that) closer; which text, and whether
    it had to be shortened; `problem` when it does not fit."""

    text: str
    lines: tuple[Shaped, ...]
    size_mm: float
    tracking: float = 0.0
    shortened: bool = False
    problem: str | None = None


def fit_text(
    text: str,
    width_mm: float,
    height_mm: float,
    font_name: FontName,
    size_mm: float,
    least_mm: float,
    lines: int = 1,
    shorts: Sequence[ShortForm] = (),
) -> FittedText:
    """The largest setting up to `size_mm` that fits a box.

    The whole text goes smaller down to `least_mm`; then its letters closer; then the short forms are tried
    one after the other, in their order, each on top of the last.
    """
    lacking = font(font_name).shape(text).lacking
    if lacking:
        problem = f"the font has no {lacking}"
        return FittedText(text, (), least_mm, problem=problem)
    tried = text
    for number, words in enumerate([text, *_shorter(text, shorts)]):
        tried = words
        for tracking in (0.0, TRACKING):
            found = _largest(words, width_mm, height_mm, font_name, lines, tracking)
            if found is not None and found[1] >= least_mm - 1e-9:
                return FittedText(words, found[0], min(size_mm, found[1]), tracking, number > 0)
    found = _largest(tried, width_mm, height_mm, font_name, lines, TRACKING)
    size = found[1] if found else 0.0
    problem = f"it fits only {size:.2f} mm high and {least_mm:g} mm is the least"
    return FittedText(text, (), least_mm, TRACKING, problem=problem)


def _shorter(text: str, shorts: Sequence[ShortForm]) -> list[str]:
    found = []
    for rule in shorts:
        shorter = re.sub(re.escape(rule.long), rule.short.replace("\\", r"\\"), text, flags=re.IGNORECASE)
        if shorter != text:
            text = re.sub(r"\s+", " ", shorter).strip()
            found.append(text)
    return found


def width_of(line: Shaped, tracking: float) -> float:
    """Width of a line in capital heights."""
    return line.width + tracking * line.gaps


def _largest(
    text: str, width_mm: float, height_mm: float, name: FontName, most_lines: int, tracking: float
) -> tuple[tuple[Shaped, ...], float] | None:
    """The best break into lines and how high its capitals may be."""
    best: tuple[tuple[Shaped, ...], float] | None = None
    words = text.split() or [""]
    for count in range(1, min(most_lines, len(words)) + 1):
        shaped = tuple(font(name).shape(line) for line in _broken(words, count, name))
        widest = max(width_of(line, tracking) for line in shaped)
        size = min(width_mm / max(widest, 1e-9), height_mm / (1 + DESCENT + LEADING * (len(shaped) - 1)))
        if best is None or size > best[1] + 1e-9:
            best = shaped, size
    return best


def _broken(words: Sequence[str], count: int, name: FontName) -> list[str]:
    """Words on so many lines, the widest of them as narrow as can be: the least width is searched for."""
    if count == 1:
        return [" ".join(words)]
    space = font(name).shape(" ").width
    widths = [font(name).shape(word).width for word in words]

    def lines(limit: float) -> list[str]:
        rows, used = [[words[0]]], widths[0]
        for word, width in zip(words[1:], widths[1:], strict=True):
            if used + space + width <= limit:
                rows[-1].append(word)
                used += space + width
            else:
                rows.append([word])
                used = width
        return [" ".join(row) for row in rows]

    low, high = max(widths), sum(widths) + space * (len(words) - 1)
    for _ in range(24):
        middle = (low + high) / 2
        low, high = (low, middle) if len(lines(middle)) <= count else (middle, high)
    return lines(high)
