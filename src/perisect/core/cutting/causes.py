"""Why marks are not found, or a sheet is not as it should be: told by what the sensor saw of every mark.

Each mark is looked at once more where it ought to be, and its view is measured: how light and how dark, how much of
it is blown out, how well it matches its mark, the same mark larger or smaller, and which rows lack ink. The rules ask
first for what touches the whole sheet, then for what touches one mark.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.registration import Registration
from perisect.core.cutting.sensing import MATCH, Look, best_match
from perisect.core.cutting.view import View
from perisect.core.sheet.mark_shape import SHAPES, mark_picture
from perisect.core.sheet.marks import Mark, MarkSettings

CauseName = Literal[
    "dark",
    "bright",
    "shine",
    "smear",
    "missing",
    "pale",
    "wrong side",
    "dropped nozzles",
    "turned",
    "wrong sheet",
    "print scale",
    "sheet moved",
    "marks lost",
    "line lost",
    "plotter gone",
    "paper jam",
    "out of paper",
    "printer offline",
]
REMEDIES: dict[CauseName, str] = {
    "dark": "The sensor sees next to nothing: switch its light on, and look whether something covers it.",
    "bright": "The sensor is blinded all over: shade the plotter from sun and lamps.",
    "shine": "A shine lies over the mark: take tape and gloss film off it, lay matt film over it, or shade the "
    "plotter.",
    "smear": "The mark is smeared: let the ink dry longer, and print the sheet again.",
    "missing": "There is no ink where the mark should be: it fell off the page. Take a smaller layout or check "
    "the page "
    "size in the printer's dialog, and print again.",
    "pale": "The print is paler than it should be: media type and quality in the printer's dialog, and ink left.",
    "wrong side": "Hardly any ink holds: the sheet was printed on its back, or lies face down. Turn it, or print "
    "the "
    "other side.",
    "dropped nozzles": "The head drops lines: clean it, and look at its pattern before the next sheet.",
    "turned": "The sheet lies the wrong way round: take it out, turn it and load it again.",
    "wrong sheet": "The marks have another size: this is a sheet of another job. Load the right one.",
    "print scale": "The sheet was printed at another size: measure it at Print, Scale check, and print again.",
    "sheet moved": "The sheet moved while it was cut: clean the mat or take a fresh one, tape the edges, check "
    "the rollers.",
    "marks lost": "Marks could not be told again on the way, so this section is cut by where the sheet lay before: "
    "look at it before you take the sheet out.",
    "line lost": "A part of a line was lost on the way, or the carriage stalled: look for what holds it, then go "
    "on.",
    "plotter gone": "The plotter stopped answering: power, cable, or somebody switched it off. Load the same "
    "sheet again "
    "and go on.",
    "paper jam": "Draw the sheet out the way it went in, and print it again; thick stock goes by the straight "
    "path.",
    "out of paper": "Lay stock in and print again.",
    "printer offline": "Switch the printer on and print again.",
}


@dataclass(frozen=True)
class Cause:
    """What is the matter, at which mark (from 0) where it is one, and what to do."""

    name: CauseName
    mark: int | None = None

    @property
    def remedy(self) -> str:
        """What to do."""
        return REMEDIES[self.name]


@dataclass(frozen=True)
class Sight:
    """A mark's view, and how well it matches: its score, the best score at another size and that size, its "
    "levels."""

    mark: int
    view: View
    score: float
    likeness: float
    """With its own picture, ring and all, laid over it."""
    other_score: float
    other_size: float
    paper: float
    ink: float
    blown: float
    """Share of the view that is whiter than paper can be."""
    lacking: float
    """Of the mark's rows, the share that lacks ink where the rest has it."""

    @property
    def contrast(self) -> float:
        """Levels between paper and ink."""
        return self.paper - self.ink


REACH_MM = 6.0
BLUR_PX = 0.9
"""What lens and print blur."""
SIZES = (0.6, 0.66, 0.75, 1.33, 1.5, 1.65)
PAPER, CONTRAST = 225.0, 190.0
"""Levels that a white sheet and a black mark have before a sensor that is well; our own plotters'."""
BLOWN = 251
SCALE_OFF = 0.006
LIKE = 0.965
"""A mark that is whole is as like its picture as this, or more."""
STRIPED = 0.03
PLATE = 70.0
"""Levels of a bare plate; ink is darker."""


def survey(
    marks: Sequence[Mark],
    settings: MarkSettings,
    nominal: Callable[[float, float], tuple[float, float]],
    look: Look,
) -> list[Sight]:
    """Every mark as it is seen best about where it ought to be. Arguments as `sense_marks`."""
    seen: list[Sight] = []
    shifted = np.zeros(2)
    for number, mark in enumerate(marks):
        middle = np.array(nominal(mark.x_mm, mark.y_mm)) + shifted
        best: tuple[float, View] | None = None
        for dx, dy in _places():
            view = look(float(middle[0] + dx), float(middle[1] + dy))
            score, at = best_match(view, settings, mark)
            if best is None or score > best[0]:
                close = look(*at)
                best = max(
                    (score, view), (best_match(close, settings, mark)[0], close), key=lambda each: each[0]
                )
            if score >= MATCH:
                break
        assert best is not None
        score, view = best
        if score >= MATCH and not shifted.any():
            shifted = np.array([view.x_mm, view.y_mm]) - middle
        seen.append(_sight(number, mark, settings, view, score))
    return seen


def _places() -> list[tuple[float, float]]:
    steps = (0.0, -REACH_MM, REACH_MM)
    return sorted(((x, y) for x in steps for y in steps), key=lambda each: abs(each[0]) + abs(each[1]))


def _sight(number: int, mark: Mark, settings: MarkSettings, view: View, score: float) -> Sight:
    grey = view.grey
    smooth = cv2.GaussianBlur(grey, (0, 0), 2)
    laid = _laid_over(view, settings, mark, score)
    others = [(_at_size(view, settings, mark, size), size) for size in SIZES]
    other, size = max(others)
    return Sight(
        number,
        view,
        score,
        _likeness(laid),
        other,
        size,
        float(np.percentile(smooth, 85)),
        float(np.percentile(smooth, 2)),
        float((grey >= BLOWN).mean()),
        _lacking(laid),
    )


def _at_size(view: View, settings: MarkSettings, mark: Mark, size: float) -> float:
    """The best correlation with the mark at another size."""
    corner = mark.corner if SHAPES[mark.shape].turns else (1, 1)
    reach = settings.radius_mm + 0.3
    template = mark_picture(settings, False, view.px_per_mm, reach, mark.shape, corner)
    template = np.asarray(
        cv2.resize(template, None, fx=size, fy=size, interpolation=cv2.INTER_AREA), np.float32
    )
    if min(template.shape) > min(view.grey.shape):
        return 0.0
    scores = cv2.matchTemplate(view.grey.astype(np.float32), template, cv2.TM_CCOEFF_NORMED)
    return float(scores.max())


def _laid_over(
    view: View, settings: MarkSettings, mark: Mark, score: float
) -> tuple[NDArray[np.float32], NDArray[np.float32]] | None:
    """A found mark's own picture, 1 for paper, and the part of the view under it; None where it is not found."""
    if score < 0.3:
        return None
    at = best_match(view, settings, mark)[1]
    height, width = view.grey.shape
    x = (at[0] - view.x_mm) * view.px_per_mm + (width - 1) / 2
    y = -(at[1] - view.y_mm) * view.px_per_mm + (height - 1) / 2
    corner = mark.corner if SHAPES[mark.shape].turns else (1, 1)
    reach = settings.ring_outer_mm + 0.3
    own = mark_picture(settings, mark.kind == "ringed", view.px_per_mm, reach, mark.shape, corner)
    own = np.asarray(cv2.GaussianBlur(own, (0, 0), BLUR_PX), np.float32)
    part = cv2.getRectSubPix(view.grey.astype(np.float32), own.shape[::-1], (x, y))
    return own, np.asarray(part, np.float32)


def _likeness(laid: tuple[NDArray[np.float32], NDArray[np.float32]] | None) -> float:
    return 0.0 if laid is None else float(np.corrcoef(laid[0].ravel(), laid[1].ravel())[0, 1])


def _lacking(laid: tuple[NDArray[np.float32], NDArray[np.float32]] | None) -> float:
    """Share of a mark's inked rows that are bare while rows beside them are inked: lines that a head drops."""
    if laid is None:
        return 0.0
    own, part = laid
    inked = own < 0.1
    light = float(np.percentile(part, 90))
    bare = []
    # The sheet may lie a little turned: each side of the mark by itself.
    for side in (slice(0, len(own) // 2), slice(len(own) // 2, None)):
        rows = np.flatnonzero(inked[:, side].sum(axis=1) >= 6)
        if len(rows) == 0:
            continue
        level = np.array([part[n, side][inked[n, side]].mean() for n in rows])
        dark = np.percentile(level, 20)
        bare.append(float((level > dark + 0.3 * (light - dark)).mean()))
    return max(bare, default=0.0)


def cause_of(sights: Sequence[Sight], fit: Registration | None, turned: bool = False) -> Cause | None:
    """What is the matter with a sheet whose marks were seen so; None when nothing is.

    Args:
        fit: the registration where all marks were found.
        turned: whether the ring was found on another mark.
    """
    if not sights:
        return None
    lost = [sight for sight in sights if sight.score < MATCH]
    if all(sight.paper < 0.45 * PAPER and sight.contrast < 40 for sight in sights):
        return Cause("dark")
    if all(sight.ink > 170 and sight.blown > 0.15 for sight in sights):
        return Cause("bright")
    sized = [s for s in sights if s.other_score > max(s.score, MATCH) + 0.04]
    if len(sized) * 2 > len(sights):
        return Cause("wrong sheet")
    if turned and not lost:
        return Cause("turned")
    if lost and len(lost) == len(sights):
        return Cause("turned") if turned else Cause("wrong side")
    if lost:
        worst = min(lost, key=lambda sight: sight.score)
        return Cause(_at_one(worst, sights), worst.mark)
    if all(sight.contrast < 0.55 * CONTRAST for sight in sights):
        return Cause("pale")
    weak = min(sights, key=lambda sight: sight.likeness)
    if weak.likeness < LIKE:
        if weak.blown > 0.04:
            return Cause("shine", weak.mark)
        if _is_striped(sights):
            return Cause("dropped nozzles")
        return Cause("smear", weak.mark)
    if fit is not None:
        told = fit.describe()
        if max(abs(told["scale_x_pct"]), abs(told["scale_y_pct"])) > 100 * SCALE_OFF:
            return Cause("print scale")
    return None


def _at_one(sight: Sight, sights: Sequence[Sight]) -> CauseName:
    if sight.blown > 0.04:
        return "shine"
    if sight.ink > PLATE - 15:
        return "missing"
    return "dropped nozzles" if _is_striped(sights) else "smear"


def _is_striped(sights: Sequence[Sight]) -> bool:
    """A line that the head drops goes through both marks of a row; ink that is drawn out lies on one."""
    return sum(sight.lacking > STRIPED and sight.ink < PLATE - 15 for sight in sights) >= 2
