"""True-shape nesting on one sheet after another: pieces turned into each other's hollows."""

import threading
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor, wait
from dataclasses import replace
from functools import cached_property, partial
from typing import TypeVar

import numpy as np

from perisect.core.clock import Clock, stopped
from perisect.core.sheet.clear import keep_clear
from perisect.core.sheet.inflated import with_half_gap
from perisect.core.sheet.nest.board import Board
from perisect.core.sheet.nest.one_sheet import Effort, Found, SheetSearch
from perisect.core.sheet.nest.pockets import Pockets, fill_pockets
from perisect.core.sheet.nest.question import Nest, NestQuestion
from perisect.core.sheet.placement import Placement, placed
from perisect.core.sheet.turns import ANGLES
from perisect.core.sheet.usable import UsableArea
from perisect.core.stage import Report, nesting

T = TypeVar("T")
Stop = Callable[[], bool]
Together = Callable[[Sequence[Callable[[Stop], T]], Stop], Sequence[T | None]]
"""Runs jobs in parallel and returns their results in order, None for a job that died. Each job is given a function that
tells it to end; the second argument is asked some ten times a second whether all are to end."""

USUAL_SHARE = 0.62
"""Share of a sheet that nested pieces with half their gaps usually cover."""
SEARCHES = 2
"""Searches of a sheet from different seeds, beside each other; the better one stands."""
BEGIN_SHARE = 0.5
"""Share of a sheet that a search begins with: so few pieces nearly always fit."""
PATIENCE = 1.25
"""Times the seconds asked for after which the clock cuts a search short. Steps are counted by what they take on a usual
machine, so only a slow or busy one meets this; chosen so that a person who asked for 8 s waits 10 at most."""
GRACE_S = 1.5
"""Time to fill pockets in when the search has taken all of its own."""


class SearchDied(RuntimeError):
    """The process of a search was killed. What the other searches found does not follow from the question alone, and
    answers are saved for good."""


def nest(
    question: NestQuestion,
    progress: Report = lambda _: None,
    stopping: Stop = lambda: False,
    together: Together[Found] | None = None,
    patience: float = PATIENCE,
    clock: Clock = stopped,
) -> Nest:
    """Nest with a budget of the question's seconds, counted in steps; return the best so far when stopped before.

    A sheet that was found is repeated as long as there are copies for it; after that what is left of it stands where a
    search for what is left finds less.

    Args:
        question: what to nest.
        progress: hears how far the search is, about every second.
        stopping: returns True once somebody wants what there is.
        together: how searches run in parallel; threads, which take longer, when left out.
        patience: how many times the question's seconds the clock allows before it cuts the search short.
        clock: the time that the search is cut short by; under a stopped one its steps alone end it.

    Raises:
        SearchDied: one of them brought nothing.
    """
    if question.area.polygon.is_empty:
        return Nest(())
    # What exact places need and what is compiled: once, not in each search, and before the clock runs.
    import scipy.optimize  # noqa: F401

    import perisect.core.sheet.nest.tables  # noqa: F401

    search = _Search(question, progress, stopping, together or in_threads, patience, clock)
    nested = list(question.fixed)
    left = Counter(search.demand())
    left.subtract(Counter(piece.key for piece in question.fixed))
    sheet = 0
    best: list[Placement] = []
    while sheet < question.most_sheets and any(count > 0 for count in left.values()):
        fixed = [piece for piece in question.fixed if piece.sheet == sheet]
        found = search.one_sheet(left, fixed, sheet)
        if not fixed:
            again = _as_far_as(left, best)
            found = max(found, again, key=search.area)
            best = max(best, found, key=search.area)
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
    return Nest(tuple(nested), search.is_cut_short)


def _as_far_as(left: Mapping[str, int], pieces: Sequence[Placement]) -> list[Placement]:
    """Return the pieces of which copies are left."""
    taken: Counter[str] = Counter()
    there = []
    for piece in pieces:
        taken[piece.key] += 1
        if taken[piece.key] <= left.get(piece.key, 0):
            there.append(piece)
    return there


def in_threads(jobs: Sequence[Callable[[Stop], T]], over: Stop) -> list[T]:
    """Run jobs in parallel threads."""
    ended = threading.Event()
    with ThreadPoolExecutor(len(jobs)) as threads:
        running = [threads.submit(job, ended.is_set) for job in jobs]
        while wait(running, timeout=0.1).not_done:
            if over():
                ended.set()
    return [job.result() for job in running]


class _Search:
    """The search of one question."""

    def __init__(
        self,
        question: NestQuestion,
        progress: Report,
        stopping: Stop,
        together: Together[Found],
        patience: float = PATIENCE,
        clock: Clock = stopped,
    ) -> None:
        self.clock = clock
        self.question, self.progress, self.stopping, self.together = question, progress, stopping, together
        self.said: int | None = None
        self.inflated = {key: with_half_gap(shape, question.gap_mm) for key, shape in question.shapes.items()}
        self.areas = {key: float(shape.area) for key, shape in self.inflated.items()}
        self.sheet_mm2 = question.area.polygon.area
        self.begun = self.clock()
        self.end = self.begun + patience * question.seconds
        self.is_cut_short = False
        half, angles = question.gap_mm / 2, ANGLES[question.turns]
        self.board = Board(question.area, self.inflated, half, angles, question.panels)
        self.effort_s = float(question.seconds)
        """Budget left for each search, s on a usual machine."""

    def late(self) -> bool:
        """Return whether the time and its grace are over, or somebody wants what there is."""
        is_late = self.stopping() or self.clock() > self.end + GRACE_S
        self.is_cut_short = self.is_cut_short or is_late
        return is_late

    def demand(self) -> Mapping[str, int]:
        """Return the copies wanted; to fill one sheet, more of each design than it can hold."""
        return self.full_sheet if self.question.wanted is None else self.question.wanted

    @property
    def full_sheet(self) -> Mapping[str, int]:
        """More of each design than one sheet can hold, in equal numbers."""
        each = int(self.sheet_mm2 / sum(s.area for s in self.question.shapes.values())) + 2
        return dict.fromkeys(self.question.shapes, each)

    @property
    def more(self) -> Mapping[str, int]:
        """Copies that fill a sheet once everything wanted stands."""
        return self.full_sheet if self.question.fills else {}

    def area(self, pieces: Sequence[Placement]) -> float:
        """Return the area of pieces with half their gap, mm²."""
        return sum(self.areas[piece.key] for piece in pieces)

    def share_of_steps(self, left: Mapping[str, int]) -> float:
        """Return the share of the remaining budget for the next sheet: equal shares when every sheet differs, most of
        it when the next sheet will be repeated."""
        area = sum(self.areas[key] * max(0, count) for key, count in left.items())
        sheets = area / (self.sheet_mm2 * USUAL_SHARE)
        if self.question.most_sheets == 1 or sheets <= 1.2:
            return 1.0
        repeats = max(left.values()) >= 2 * sheets
        return 0.8 if repeats else 1 / float(np.ceil(sheets))

    def one_sheet(self, left: Mapping[str, int], fixed: list[Placement], sheet: int) -> list[Placement]:
        """Fill one sheet from the copies that are left."""
        question = self.question
        laid = self._searched(left, fixed, sheet)
        rest = {key: left[key] - sum(p.key == key for p in laid) for key in left}
        by_size = sorted(rest, key=lambda key: (-self.areas[key], key))
        queue = [key for key in by_size for _ in range(max(0, rest[key]))]
        rounds = max(self.more.values(), default=0)
        queue += [
            key for _ in range(rounds) for key in sorted(self.more, key=lambda key: (-self.areas[key], key))
        ]
        if not queue or self.late():
            return laid
        pockets = self._empty.copy()
        pockets.occupy([placed(question.shapes[p.key], p) for p in (*fixed, *laid)])
        return laid + fill_pockets(pockets, queue, self.late)

    @cached_property
    def _empty(self) -> Pockets:
        """The empty sheet, whose raster is made once."""
        question = self.question
        return Pockets(question.area, question.shapes, question.gap_mm, question.turns)

    def _searched(self, left: Mapping[str, int], fixed: list[Placement], sheet: int) -> list[Placement]:
        """Return the better of the searches from different seeds, every distance measured exactly."""
        question = self.question
        fits = {key: count for key, count in left.items() if count > 0 and self.board.takes(key)}
        if not fits:
            return []
        more = {key: count for key, count in self.more.items() if self.board.takes(key)}
        share = self.share_of_steps(left)
        end = self.clock() + share * max(0.0, self.end - self.clock())
        steps = self.effort_s * share
        self.effort_s -= steps
        # Panels are all of one length: only an order that the first one takes makes it shorter.
        step_mm = question.step_mm if sheet == 0 and not fixed else None
        board = self.board
        if step_mm is None:
            board = board.of_one_length([placed(self.inflated[p.key], p) for p in fixed])
        room = self.sheet_mm2 - sum(self.areas[piece.key] for piece in fixed)
        guess = BEGIN_SHARE * room

        def one(n: int, ended: Stop) -> Found:
            effort = Effort(steps, ended)
            search = SheetSearch(board, fits, self.areas, (question.seed, sheet, n), effort, step_mm, more)
            return search.run(guess)

        brought = self.together([partial(one, n) for n in range(SEARCHES)], partial(self._over, end))
        whole = [found for found in brought if found is not None]
        if len(whole) < len(brought):
            raise SearchDied("a search was ended from outside")
        best = max(whole, key=lambda found: found.worth)
        self.is_cut_short = self.is_cut_short or any(found.is_cut_short for found in whole)
        area = board.area_of(best.panel_mm or board.height_mm) or question.area
        return self._clear(area, best.placements(board), fixed)

    def _clear(self, area: UsableArea, laid: list[Placement], fixed: list[Placement]) -> list[Placement]:
        clear = keep_clear(area, self.question.shapes, [*fixed, *laid], self.question.gap_mm)
        return [piece for piece in laid if piece in clear]

    def _over(self, end: float) -> bool:
        """Return whether the time is up or somebody wants what there is; report the time left."""
        left_s = max(0, round(self.begun + self.question.seconds - self.clock()))
        if left_s != self.said:
            self.progress(nesting(left_s, self.question.seconds))
            self.said = left_s
        return self.stopping() or self.clock() > end
