"""Find the marks in what the plotter's sensor sees.

Each mark is looked for where it should be, wider and wider, by normalised cross-correlation with the
mark's own picture, the ring with it where it wears one; its centre is the peak of that to a fraction of a pixel,
about as near as the noise of the picture allows (Cramér and Rao). Marks already found say where the next ones are,
so only the first needs a search.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.refining import refined
from perisect.core.cutting.registration import register
from perisect.core.cutting.view import View
from perisect.core.sheet.mark_shape import SHAPES, mark_picture
from perisect.core.sheet.marks import Mark, MarkSettings

Look = Callable[[float, float], View]
"""Ask the sensor at x, y in the plotter's frame."""


class MarkNotFound(Exception):
    """A mark is not where a loaded sheet could have it. `where` says which."""

    def __init__(self, where: str, best_score: float) -> None:
        super().__init__(where)
        self.where = where
        self.best_score = best_score


class SheetTurned(Exception):
    """The ringed mark is not the first; `where` it is instead, None when it is nowhere."""

    def __init__(self, where: str | None) -> None:
        super().__init__(where)
        self.where = where


@dataclass(frozen=True)
class FoundMark:
    """A mark's centre in the plotter's frame, how well it matched and whether it wears the ring."""

    index: int
    x_mm: float
    y_mm: float
    score: float
    ringed: bool


NEAR_PX = 3
"""The ring is looked for so near to where the mark is without it."""
MATCH = 0.6
"""Correlation below this is not a mark."""

SEARCH_STEP_MM = 6.0
SEARCH_RINGS = 1


def sense_marks(
    marks: Sequence[Mark],
    settings: MarkSettings,
    nominal: Callable[[float, float], tuple[float, float]],
    look: Look,
) -> list[FoundMark]:
    """All marks, from the lower left one (next to the plotter's origin) on.

    Args:
        marks: in sheet coordinates, as `marks_for` gives them.
        nominal: sheet mm to plotter mm for a sheet loaded perfectly.
        look: the sensor.

    Raises:
        MarkNotFound: nothing like a mark near one of the places.
        SheetTurned: the ring is on another mark than the first.
    """
    found: dict[int, FoundMark] = {}
    views: dict[int, View] = {}
    wanted = [np.array(nominal(mark.x_mm, mark.y_mm)) for mark in marks]
    for index in _order(marks):
        guess = _predict(wanted, found, index)
        found[index], views[index] = _find(marks, index, guess, settings, look)
    ringed = [mark.index for mark in found.values() if mark.ringed]
    if ringed != [0]:
        raise SheetTurned(marks[ringed[0]].name if ringed else None)
    in_order = [found[index] for index in range(len(marks))]
    return _refined(marks, settings, in_order, [views[index] for index in range(len(marks))])


def _refined(
    marks: Sequence[Mark], settings: MarkSettings, found: Sequence[FoundMark], views: Sequence[View]
) -> list[FoundMark]:
    """The marks once more, now that it is known how the sheet lies."""
    if len(marks) < 3:
        return list(found)
    places = [(each.x_mm, each.y_mm) for each in found]
    # Each step takes away nine tenths of what the turn did to the places, and to the fit, that were found first.
    for _ in range(STEPS):
        lies = register([(mark.x_mm, mark.y_mm) for mark in marks], places)
        places = [
            refined(mark, settings, view, place, each.ringed, lies)
            for mark, view, place, each in zip(marks, views, places, found, strict=True)
        ]
    return [replace(each, x_mm=x, y_mm=y) for each, (x, y) in zip(found, places, strict=True)]


STEPS = 3
SAME_ROW_MM = 20.0


def _order(marks: Sequence[Mark]) -> list[int]:
    """Rows from the lowest up, the left one first: the lower left is next to the plotter's origin."""
    return sorted(
        range(len(marks)), key=lambda index: (-round(marks[index].y_mm / SAME_ROW_MM), marks[index].x_mm)
    )


def _predict(
    wanted: list[NDArray[np.float64]], found: dict[int, FoundMark], index: int
) -> NDArray[np.float64]:
    """Where a mark should be: shifted like the one found, or shifted and turned like two of them."""
    if not found:
        return wanted[index]
    have = list(found)
    places = np.array([[found[i].x_mm, found[i].y_mm] for i in have])
    if len(have) == 1:
        return wanted[index] + places[0] - wanted[have[0]]
    # As complex numbers, a turn with a scale is one multiplication.
    a, b = (complex(*wanted[i]) for i in have[:2])
    p, q = (complex(*place) for place in places[:2])
    moved = p + (q - p) / (b - a) * (complex(*wanted[index]) - a)
    return np.array([moved.real, moved.imag])


def find_mark(
    marks: Sequence[Mark],
    index: int,
    guess: NDArray[np.float64] | tuple[float, float],
    settings: MarkSettings,
    look: Look,
) -> FoundMark:
    """One mark, looked for about where it should be, plate mm.

    Raises:
        MarkNotFound: nothing like it is there.
    """
    return _find(marks, index, guess, settings, look)[0]


def _find(
    marks: Sequence[Mark],
    index: int,
    guess: NDArray[np.float64] | tuple[float, float],
    settings: MarkSettings,
    look: Look,
) -> tuple[FoundMark, View]:
    """A mark, and the view that has it in its middle."""
    mark = marks[index]
    steps = np.arange(-SEARCH_RINGS, SEARCH_RINGS + 1) * SEARCH_STEP_MM
    offsets = sorted(((x, y) for x in steps for y in steps), key=lambda o: o[0] ** 2 + o[1] ** 2)
    best = 0.0
    for dx, dy in offsets:
        view = look(float(guess[0] + dx), float(guess[1] + dy))
        score, at = _match(view, settings, mark)
        best = max(best, score)
        if score >= MATCH:
            # Look again with the mark in the middle: whole, and where the lens is best.
            close = look(*view.to_plotter(at))
            score, at = _match(close, settings, mark)
            if score >= MATCH:
                ringed = _has_ring(close, at, settings)
                x, y = close.to_plotter(_refine(close, at, settings, mark, ringed))
                return FoundMark(index, x, y, score, ringed), close
    raise MarkNotFound(mark.name, best)


@lru_cache
def _template(
    settings: MarkSettings, px_per_mm: float, shape: str, corner: tuple[int, int], ringed: bool = False
) -> NDArray[np.float32]:
    reach = (settings.ring_outer_mm if ringed else settings.radius_mm) + 0.3
    return mark_picture(settings, ringed, px_per_mm, reach, shape, corner)


def _match(view: View, settings: MarkSettings, mark: Mark) -> tuple[float, tuple[float, float]]:
    """Best correlation in a view and where the mark's centre then is, to a fraction of a pixel."""
    corner = mark.corner if SHAPES[mark.shape].turns else (1, 1)
    template = _template(settings, view.px_per_mm, mark.shape, corner)
    scores = cv2.matchTemplate(view.grey.astype(np.float32), template, cv2.TM_CCOEFF_NORMED)
    _, best, _, (x, y) = cv2.minMaxLoc(scores)
    half = (template.shape[0] - 1) / 2
    dx, dy = _peak(scores, x, y)
    return float(best), (x + half + dx, y + half + dy)


def best_match(view: View, settings: MarkSettings, mark: Mark) -> tuple[float, tuple[float, float]]:
    """How well the best place in a view matches a mark, and that place in the plotter's frame."""
    score, at = _match(view, settings, mark)
    return score, view.to_plotter(at)


def _peak(scores: NDArray[Any], x: int, y: int) -> tuple[float, float]:
    """How far beside a whole pixel the peak of the scores lies: that of the quadric through the nine about it. Marks
    whose quarters differ have one that lies aslant, which a parabola along each axis would miss."""
    if not (0 < x < scores.shape[1] - 1 and 0 < y < scores.shape[0] - 1):
        return 0.0, 0.0
    near = scores[y - 1 : y + 2, x - 1 : x + 2].astype(np.float64)
    across, along = (near[1, 2] - near[1, 0]) / 2, (near[2, 1] - near[0, 1]) / 2
    mixed = (near[2, 2] - near[2, 0] - near[0, 2] + near[0, 0]) / 4
    bends = near[1, 2] - 2 * near[1, 1] + near[1, 0], near[2, 1] - 2 * near[1, 1] + near[0, 1]
    fall = bends[0] * bends[1] - mixed * mixed
    if bends[0] >= 0 or fall <= 0:
        return 0.0, 0.0
    dx, dy = (mixed * along - bends[1] * across) / fall, (mixed * across - bends[0] * along) / fall
    return float(np.clip(dx, -1, 1)), float(np.clip(dy, -1, 1))


def _refine(
    view: View, at: tuple[float, float], settings: MarkSettings, mark: Mark, ringed: bool
) -> tuple[float, float]:
    """The peak of the correlation with all that is inked there, the ring too: what a ring adds is seen as well."""
    if not ringed:
        return at
    corner = mark.corner if SHAPES[mark.shape].turns else (1, 1)
    template = _template(settings, view.px_per_mm, mark.shape, corner, True)
    half = (template.shape[0] - 1) // 2
    middle = round(at[0]), round(at[1])
    left, top = (max(0, place - half - NEAR_PX) for place in middle)
    near = view.grey[top : middle[1] + half + NEAR_PX + 1, left : middle[0] + half + NEAR_PX + 1]
    if min(near.shape) < template.shape[0]:
        return at  # the ring lies partly outside of what the sensor sees
    scores = cv2.matchTemplate(near.astype(np.float32), template, cv2.TM_CCOEFF_NORMED)
    _, _, _, (x, y) = cv2.minMaxLoc(scores)
    dx, dy = _peak(scores, x, y)
    return left + x + half + dx, top + y + half + dy


def _has_ring(view: View, at: tuple[float, float], settings: MarkSettings) -> bool:
    """Darkness along the ring's middle against the paper between it and the disc and outside it."""
    turn = np.linspace(0, 2 * np.pi, 180, endpoint=False)

    def mean_at(radius_mm: float) -> float:
        r = radius_mm * view.px_per_mm
        x = (at[0] + r * np.cos(turn)).astype(np.float32)[None]
        y = (at[1] + r * np.sin(turn)).astype(np.float32)[None]
        return float(cv2.remap(view.grey, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE).mean())

    paper = mean_at(settings.ring_outer_mm + 0.7)
    ink = float(np.percentile(view.grey, 2))
    middle = mean_at((settings.ring_inner_mm + settings.ring_outer_mm) / 2)
    return middle < (paper + ink) / 2
