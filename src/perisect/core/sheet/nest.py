"""True-shape nesting on one sheet after another: pieces turned into each other's hollows."""

import hashlib
import json
import time
from collections import Counter
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely

from perisect.core import ENGINE_VERSION
from perisect.core.sheet.clear import keep_clear
from perisect.core.sheet.inflated import with_half_gap
from perisect.core.sheet.nest_strip import search_strip
from perisect.core.sheet.placement import Placement, placed
from perisect.core.sheet.pocket import Pockets, fill_pockets
from perisect.core.sheet.strip_frame import StripFrame
from perisect.core.sheet.turns import Turns
from perisect.core.sheet.usable import UsableArea

USUAL_SHARE = 0.62
"""Share of a sheet that nested pieces with half their gaps usually cover."""
LEAST_SECONDS = 2
GRACE_S = 1.5
"""Time to fill pockets in when the search has taken all of its own."""

Progress = Callable[[str], None]


@dataclass(frozen=True)
class NestQuestion:
    """What is to be nested; the answer is kept under its `key`.

    `shapes` is what each piece takes, by design, in design mm; `wanted` the copies, or None to fill one
    sheet; `fixed` are pieces that keep their place.
    """

    area: UsableArea
    shapes: Mapping[str, shapely.Polygon]
    wanted: Mapping[str, int] | None
    gap_mm: float
    turns: Turns
    seconds: int
    seed: int
    most_sheets: int
    fixed: tuple[Placement, ...] = ()
    step_mm: float | None = None
    """Of a roll's panel, which is then cut shorter by as many of these as the nest leaves."""

    @cached_property
    def key(self) -> str:
        """Hash of everything the answer follows from."""
        facts = {
            "engine": ENGINE_VERSION,
            "area": shapely.to_wkt(self.area.polygon, rounding_precision=4),
            "shapes": {k: shapely.to_wkt(s, rounding_precision=4) for k, s in self.shapes.items()},
            "wanted": None if self.wanted is None else dict(self.wanted),
            "how": [self.gap_mm, self.turns, self.seconds, self.seed, self.most_sheets]
            + ([] if self.step_mm is None else [self.step_mm]),
            "fixed": [[f.key, f.sheet, f.rotation_deg, f.x_mm, f.y_mm] for f in self.fixed],
        }
        return hashlib.sha256(json.dumps(facts, sort_keys=True).encode()).hexdigest()


def nest(
    question: NestQuestion, progress: Progress = lambda _: None, stopping: Callable[[], bool] = lambda: False
) -> list[Placement]:
    """Nest within the question's time; when it is up, or on `stopping`, the best so far stands.

    A sheet that was found is repeated as long as there are copies for it.

    Args:
        progress: hears how far the search is, about every second.
    """
    if question.area.polygon.is_empty:
        return []
    search = _Search(question, progress, stopping)
    nested = list(question.fixed)
    left = Counter(search.demand())
    left.subtract(Counter(piece.key for piece in question.fixed))
    sheet = 0
    while sheet < question.most_sheets and any(count > 0 for count in left.values()):
        fixed = [piece for piece in question.fixed if piece.sheet == sheet]
        seconds = (search.end - time.monotonic()) * search.share_of_time(left)
        found = search.one_sheet(left, fixed, seconds, sheet)
        if not found and not fixed:
            break
        in_pattern = Counter(piece.key for piece in found)
        nested += [replace(p, sheet=sheet) for p in found]
        left -= in_pattern
        sheet += 1
        # A sheet with fixed pieces is not a pattern for others.
        while not fixed and not any(f.sheet == sheet for f in question.fixed):
            if sheet >= question.most_sheets or any(left[key] < n for key, n in in_pattern.items()):
                break
            nested += [replace(p, sheet=sheet) for p in found]
            left -= in_pattern
            sheet += 1
    return nested


class _Search:
    """The search of one question."""

    def __init__(self, question: NestQuestion, progress: Progress, stopping: Callable[[], bool]) -> None:
        self.question, self.progress, self.stopping = question, progress, stopping
        self.inflated = {key: with_half_gap(shape, question.gap_mm) for key, shape in question.shapes.items()}
        self.sheet_mm2 = question.area.polygon.area
        self.end = time.monotonic() + question.seconds

    def late(self) -> bool:
        """Whether the time is up, and a little more, or somebody wants what there is."""
        return self.stopping() or time.monotonic() > self.end + GRACE_S

    def demand(self) -> Mapping[str, int]:
        """Copies wanted; for one full sheet, more of each than it can hold, in equal numbers."""
        if self.question.wanted is not None:
            return self.question.wanted
        each = int(self.sheet_mm2 / sum(s.area for s in self.question.shapes.values())) + 2
        return dict.fromkeys(self.question.shapes, each)

    def sheets_for(self, left: Mapping[str, int]) -> float:
        """About how many sheets copies take."""
        area = sum(self.inflated[key].area * max(0, count) for key, count in left.items())
        return area / (self.sheet_mm2 * USUAL_SHARE)

    def share_of_time(self, left: Mapping[str, int]) -> float:
        """What share of the time that is left the next sheet gets: the same for each when every sheet is another,
        most of it when the next will be repeated."""
        sheets = self.sheets_for(left)
        if self.question.most_sheets == 1 or sheets <= 1.2:
            return 1.0
        repeats = max(left.values()) >= 2 * sheets
        return 0.8 if repeats else 1 / float(np.ceil(sheets))

    def one_sheet(
        self, left: Mapping[str, int], fixed: list[Placement], seconds: float, sheet: int
    ) -> list[Placement]:
        """Pieces for one sheet out of those that are left."""
        standing = list(fixed)
        if fixed:
            return self._round(standing, left, seconds, sheet)
        laid: list[Placement] = []
        if seconds >= LEAST_SECONDS and not self.stopping():
            laid = self._by_strips(left, seconds, sheet)
        rest = {k: left[k] - sum(p.key == k for p in laid) for k in left}
        by_size = sorted(rest, key=lambda key: -self.question.shapes[key].area)
        queue = [key for key in by_size for _ in range(max(0, rest[key]))]
        return laid + fill_pockets(self._pockets(laid), queue, self.late)

    def _pockets(self, standing: list[Placement]) -> Pockets:
        question = self.question
        pockets = Pockets(question.area, question.shapes, question.gap_mm, question.turns)
        pockets.occupy([placed(question.shapes[p.key], p) for p in standing])
        return pockets

    def _round(
        self, standing: list[Placement], left: Mapping[str, int], seconds: float, sheet: int
    ) -> list[Placement]:
        """Pieces round those that keep their place: one after the other where there is room, in one order after
        the other until the time is up."""
        rng = np.random.default_rng(self.question.seed + sheet)
        queue = [
            key
            for key in sorted(left, key=lambda k: -self.inflated[k].area)
            for _ in range(max(0, left[key]))
        ]
        bare = self._pockets(standing)
        end = time.monotonic() + seconds
        best = fill_pockets(bare.copy(), queue, self.late)
        while queue and time.monotonic() < end and not self.stopping():
            left_s = max(0.0, self.end - time.monotonic())
            self.progress(f"Nesting, {left_s:.0f} of {self.question.seconds} s left")
            queue = [queue[n] for n in rng.permutation(len(queue))]
            found = fill_pockets(bare.copy(), queue, self.late)
            if self._area(found) > self._area(best):
                best = found
        return best

    def _area(self, laid: list[Placement]) -> float:
        return sum(self.inflated[piece.key].area for piece in laid)

    def _by_strips(self, left: Mapping[str, int], seconds: float, sheet: int) -> list[Placement]:
        """Two searches at a time: along and across the sheet, then twice the better way with a better guess
        of how many pieces it takes. Of a panel that may be shorter, all along it: shorter is better."""
        question = self.question
        ways = (False, True) if question.step_mm is None else (True, True)
        frames = [StripFrame(question.area, question.gap_mm, across) for across in ways]
        frames = [frame for frame in frames if frame.possible]
        if not frames:
            return []
        first = max(LEAST_SECONDS, round(seconds * 0.3))
        second = int(seconds - first + 0.5)
        guess = USUAL_SHARE * self.sheet_mm2
        tried = self._both([(frame, guess) for frame in frames], left, first, sheet)
        best = max(tried, key=lambda each: each.worth)
        if second >= LEAST_SECONDS and not self.stopping():
            fit = max(tried, key=lambda each: each.promise_mm2)
            mean = best.mean_mm2
            more = [(fit.frame, fit.promise_mm2 + mean * extra) for extra in (-0.6, 0.4)]
            tried = self._both(more, left, second, sheet + 7)
            best = max([best, *tried], key=lambda each: each.worth)
        return best.laid

    def _both(
        self, asked: list[tuple[StripFrame, float]], left: Mapping[str, int], seconds: int, seed: int
    ) -> list["_Found"]:
        question = self.question
        with ThreadPoolExecutor(len(asked)) as threads:
            jobs = [
                threads.submit(self._one_strip, frame, area, left, seconds, seed + n)
                for n, (frame, area) in enumerate(asked)
            ]
            while not all(job.done() for job in jobs):
                left_s = max(0.0, self.end - time.monotonic())
                self.progress(f"Nesting, {left_s:.0f} of {question.seconds} s left")
                time.sleep(0.1)
        return [job.result() for job in jobs]

    def _one_strip(
        self, frame: StripFrame, area_mm2: float, left: Mapping[str, int], seconds: int, seed: int
    ) -> "_Found":
        shapes = {key: frame.to_strip(shape) for key, shape in self.inflated.items()}
        fits = {key: count for key, count in left.items() if frame.takes(shapes[key], self.question.turns)}
        demand = self._some(fits, area_mm2)
        if not demand:
            return _Found(frame, [], 0.0, 0.0, 1.0)
        strip = search_strip(
            shapes,
            demand,
            frame.height_mm,
            frame.corners,
            self.question.turns,
            seconds,
            self.question.seed + seed,
            self.stopping,
        )
        asked = sum(self.inflated[key].area * count for key, count in demand.items())
        mean = asked / max(1, sum(demand.values()))
        if strip is None:
            return _Found(frame, [], 0.0, 0.0, mean)
        exact = {key: frame.to_strip(shape) for key, shape in self.question.shapes.items()}
        if self.question.step_mm is None:
            fitted, shorter = frame.fitted(strip, exact), 0.0
        else:
            fitted, shorter = frame.shortened(strip, exact, self.question.step_mm)
        laid = keep_clear(self.question.area, self.question.shapes, fitted, self.question.gap_mm)
        kept = sum(self.inflated[piece.key].area for piece in laid)
        promise = asked * frame.length_mm / max(strip.length_mm, 1.0)
        return _Found(frame, laid, kept, promise, mean, shorter)

    def _some(self, left: Mapping[str, int], area_mm2: float) -> dict[str, int]:
        """Out of what is left, in proportion, pieces of so much area in all; every design that is left is in."""
        total = sum(self.inflated[key].area * max(0, count) for key, count in left.items())
        share = min(1.0, area_mm2 / max(total, 1e-9))
        exact = {key: max(0, count) * share for key, count in left.items()}
        some = {key: int(count) for key, count in exact.items()}
        room = area_mm2 - sum(self.inflated[key].area * count for key, count in some.items())
        for key in sorted(exact, key=lambda k: (some[k] - exact[k], k)):
            if some[key] < left[key] and room > 0:
                some[key] += 1
                room -= self.inflated[key].area
        return {key: count for key, count in some.items() if count > 0}


@dataclass(frozen=True)
class _Found:
    """What one strip brought: pieces on the sheet, their area, and the area that would have fitted at its
    density."""

    frame: StripFrame
    laid: list[Placement]
    area_mm2: float
    promise_mm2: float
    mean_mm2: float
    shorter_mm: float = 0.0
    """By how much a panel that may be shorter is."""

    @property
    def worth(self) -> tuple[float, float]:
        """More is better."""
        return round(self.area_mm2, 3), self.shorter_mm
