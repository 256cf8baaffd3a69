"""One sheet, filled: one more piece after another, and what is left of it pushed together."""

from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.sheet.nest_board import Board
from perisect.core.sheet.nest_overlaps import MET, Overlaps
from perisect.core.sheet.placement import Placement
from perisect.core.sheet.settle import Box, settle

PASSES, AT_START, FRESH = 150, 20, 3
"""That one attempt takes at first, and one with the number it begins with; so many times as many of one that begins
afresh. Each time all designs have failed, a quarter more."""
MOST_TRIED = 8
"""Designs of which one more is tried before it is given up for a time."""
LOOSE = 0.6
"""Overlaps in cells for each copy from which exact places are looked for."""
SETTLE_S, CORNER_S = 1.6e-3, 30e-6
"""What one copy takes of an attempt at exact places, on a usual machine, and each of its corners."""
MOST_FREE = 2
"""How often copies that are free on the raster, and exactly are not, are laid elsewhere in one attempt."""
GROWING = 0.25
"""Share of the effort after which exact places are looked for."""
AT_ONCE = 0.03
"""Of many copies, so many more are tried at a time."""
SHORTER, MOST_FAILED = (0.03, 0.005), 6
"""Share of its length by which a sheet is made shorter at first, and at last; and how often that may fail on end, from
where all stand and afresh in turns."""


class Effort:
    """What a search may still do, told by what it takes on a usual machine: the same on any.

    Args:
        seconds: of that.
        stopping: whether it is to end now whatever is left.
    """

    def __init__(self, seconds: float, stopping: Callable[[], bool]) -> None:
        self.left_s, self.stopping = seconds, stopping

    def spend(self, seconds: float) -> bool:
        """Do so much; True when nothing is left."""
        self.left_s -= seconds
        return self.over

    @property
    def over(self) -> bool:
        """Whether nothing is left."""
        return self.left_s < 0 or self.stopping()

    @property
    def is_cut_short(self) -> bool:
        """Whether it was told to stop while some of it was left."""
        return self.left_s >= 0 and self.stopping()


@dataclass(frozen=True)
class Found:
    """Copies that stand free: design and number of its turn for each, and where its box begins, (n, 2) sheet mm."""

    copies: tuple[tuple[str, int], ...] = ()
    at_mm: NDArray[np.float64] = field(default_factory=lambda: np.zeros((0, 2)))
    area_mm2: float = 0.0
    """What they cover, with half their gaps."""
    length_mm: float = 0.0
    """How far they reach from the sheet's top."""
    panel_mm: float = 0.0
    """Of the sheet itself, where it may be cut shorter."""
    is_cut_short: bool = False
    """Whether the search was stopped before it had spent its effort."""

    def placements(self, board: Board) -> list[Placement]:
        """On the sheet."""
        return [board.placement(*c, at) for c, at in zip(self.copies, self.at_mm.tolist(), strict=True)]

    @property
    def worth(self) -> tuple[float, float, float]:
        """More is better."""
        return round(self.area_mm2, 3), -round(self.panel_mm, 3), -round(self.length_mm, 3)


def in_proportion(left: Mapping[str, int], areas: Mapping[str, float], area_mm2: float) -> list[str]:
    """Of what may be taken, in proportion, pieces of so much area: those first of which a whole one is due."""
    total = sum(areas[key] * count for key, count in left.items())
    share = min(1.0, area_mm2 / max(total, 1e-9))
    some = {key: int(count * share) for key, count in left.items()}
    room = area_mm2 - sum(areas[key] * count for key, count in some.items())
    for key in sorted(left, key=lambda key: (some[key] - left[key] * share, key)):
        if some[key] < left[key] and room > 0:
            some[key] += 1
            room -= areas[key]
    return [key for key, count in some.items() for _ in range(count)]


class SheetSearch:
    """The search for one sheet, from one seed: the same for the same steps.

    Args:
        left: copies that may be taken.
        more: copies that fill the sheet once all of `left` stand on it; empty to end there.
        areas: of each design with half its gap, mm².
        shorten_by_mm: of a panel that may be cut shorter, by whole steps of this; None for a sheet.
    """

    def __init__(
        self,
        board: Board,
        left: Mapping[str, int],
        areas: Mapping[str, float],
        seed: Sequence[int],
        effort: Effort,
        shorten_by_mm: float | None = None,
        more: Mapping[str, int] | None = None,
    ) -> None:
        self._board, self._left, self._areas, self._effort = board, left, areas, effort
        self._more = more or {}
        self._step_mm = shorten_by_mm
        self._overlaps = Overlaps(board, np.random.default_rng(seed), effort.spend)
        self._stuck: tuple[int, ...] = ()
        """Copies that exact places were not found for, when they were looked for last."""
        self._together = False
        """All are placed, and what is searched for is less length."""
        self.best = Found()

    def run(self, guess_mm2: float) -> Found:
        """The best that is found.

        Args:
            guess_mm2: it begins with pieces of so much area.
        """
        self._start(guess_mm2)
        fresh, passes, at_once = True, PASSES, max(1, round(AT_ONCE * len(self.best.copies)))
        while self.best.copies and not self._effort.over:
            wanted = self._next(key for key, _ in self.best.copies)
            if not wanted:
                self._shorten(passes)
                break
            # Of many, beginning afresh takes too long.
            if any(self._add(key, at_once, passes, fresh and at_once == 1) for key in wanted):
                continue
            if at_once > 1:
                at_once //= 2
                continue
            # From where it stands one more may never find room, however long it is tried.
            passes, fresh = passes + passes // 4, not fresh
        return replace(self.best, is_cut_short=self._effort.is_cut_short)

    def _start(self, guess_mm2: float) -> None:
        """With so much, fewer where they do not come apart soon."""
        keys = in_proportion(self._left, self._areas, guess_mm2)
        for key in sorted(keys, key=lambda key: (-self._areas[key], key)):
            if not self._overlaps.add(key):
                break
        self._grow()
        while self._overlaps.copies and not self._separated(AT_START):
            if self._effort.over:
                # Those that stand free by chance are found by whoever measures them.
                self.best = self._found(np.zeros((len(self._overlaps.copies), 2)), 0.0)
                return
            for _ in range(max(1, round(AT_ONCE * len(self._overlaps.copies)))):
                self._overlaps.remove_worst()

    def _grow(self) -> None:
        """More while they come nearly apart on the raster soon: exact places for each would take longer."""
        end_s = self._effort.left_s * (1 - GROWING)
        while self._nearly_apart() and self._effort.left_s > end_s and not self._effort.over:
            nearly = list(self._overlaps.copies)
            wanted = self._next(spot.key for spot in nearly)
            for key in wanted[:1] * max(1, round(AT_ONCE * len(nearly))):
                if sum(spot.key == key for spot in self._overlaps.copies) < self._most(key):
                    self._overlaps.add(key)
            if len(self._overlaps.copies) == len(nearly) or not self._nearly_apart():
                self._overlaps.begin(nearly)
                break

    def _nearly_apart(self) -> bool:
        """Whether exact places may be looked for within some passes."""
        for _ in range(AT_START):
            if self._overlaps.total <= LOOSE * len(self._overlaps.copies):
                return True
            if self._effort.over:
                break
            self._overlaps.step()
        return False

    def _next(self, laid: Iterable[str]) -> list[str]:
        """Designs of which one more may be taken, those that are furthest behind first."""
        taken = Counter(laid)
        more = [key for key, count in self._left.items() if count > taken[key]]
        if not more:
            more = [key for key in self._more if self._most(key) > taken[key]]
        more.sort(key=lambda key: (taken[key] / self._most(key), -self._areas[key], key))
        # Of a hundred pictures that are each another some of every size.
        return more if len(more) <= MOST_TRIED else more[:: -(-len(more) // MOST_TRIED)]

    def _most(self, key: str) -> int:
        """Copies of a design that the sheet may take."""
        return self._left.get(key, 0) + self._more.get(key, 0)

    def _add(self, key: str, count: int, passes: int, fresh: bool) -> bool:
        """Whether so many more of a design (fewer where no more are wanted) find room beside those that stand, or
        afresh with all of them anywhere."""
        taken = sum(mine == key for mine, _ in self.best.copies)
        count = min(count, self._most(key) - taken)
        if fresh:
            self._overlaps.scatter([*(mine for mine, _ in self.best.copies), *[key] * count])
            return self._separated(FRESH * passes)
        self._again()
        return all(self._overlaps.add(key) for _ in range(count)) and self._separated(passes)

    def _again(self) -> None:
        best = self.best
        self._overlaps.begin(
            [self._board.spot(*c, at) for c, at in zip(best.copies, best.at_mm, strict=True)]
        )

    def _separated(self, passes: int) -> bool:
        """Whether the copies come apart within so many passes; then they are the best."""
        tried, free = np.inf, MOST_FREE
        for _ in range(passes):
            total = self._overlaps.total
            if total <= max(MET, min(LOOSE * len(self._overlaps.copies), 0.8 * tried)):
                tried = total
                if self._settled():
                    return True
            if self._effort.over:
                return False
            if total <= MET:
                # On the raster they are free and exactly they are not: they would stay there.
                if not self._stuck or not free:
                    return False
                free -= 1
                self._overlaps.anywhere(self._stuck)
            self._overlaps.step()
        return False

    def _settled(self) -> bool:
        copies, board, length = self._overlaps.copies, self._board, self._overlaps.length_mm
        shapes = [board.shape(spot) for spot in copies]
        corners = int(shapely.get_num_coordinates(shapes).sum())
        self._effort.spend(SETTLE_S * len(copies) + CORNER_S * corners)
        obstacles, over = board.obstacles(length), self._effort.stopping
        moved, self._stuck = settle(shapes, obstacles, self._box(length), self._together, over)
        if moved is None:
            return False
        self.best = self._found(moved, sum(self._areas[spot.key] for spot in copies))
        return True

    def _found(self, moved: NDArray[np.float64], area_mm2: float) -> Found:
        """The copies, each moved by so much, mm."""
        copies, board = self._overlaps.copies, self._board
        at = np.array([board.at(spot) for spot in copies]) + moved
        ends = [
            y + board.turned[s.key][s.turn].high_mm for s, (_, y) in zip(copies, at.tolist(), strict=True)
        ]
        return Found(
            tuple((s.key, s.turn) for s in copies),
            at,
            area_mm2,
            max(ends) - board.top,
            0.0 if self._step_mm is None else self._overlaps.length_mm,
        )

    def _box(self, length_mm: float) -> Box:
        board = self._board
        return board.left, board.top, board.left + board.width_mm, board.top + length_mm

    def _shorten(self, passes: int) -> None:
        """Everything together towards the top, as long as there are steps left and it helps."""
        self._together = True
        length, share, failed = self._shortest(), SHORTER[0], 0
        least = SHORTER[1] if self._step_mm is None else self._step_mm / length
        while not self._effort.over and failed < MOST_FAILED:
            by = share * length
            if self._step_mm is not None:
                by = max(1, round(by / self._step_mm)) * self._step_mm
            if by >= length:
                break
            if self._shorter(length - by, passes, fresh=failed % 2 == 1):
                length, failed = min(self._shortest(), length - by), 0
            elif share > least:
                share = max(least, share / 2)
            else:
                failed += 1

    def _shorter(self, length_mm: float, passes: int, fresh: bool) -> bool:
        """Whether all of them find room on so much, from where they stand or afresh."""
        if self._board.area_of(length_mm) is None:
            return False
        self._overlaps.until(length_mm)
        if fresh:
            self._overlaps.scatter([key for key, _ in self.best.copies])
            return self._separated(FRESH * passes)
        self._again()
        return self._separated(passes)

    def _shortest(self) -> float:
        """Length that what was found needs as it stands; of a panel, by whole steps less than all of it."""
        if self._step_mm is None:
            return self.best.length_mm
        whole = self._board.height_mm
        steps = (whole - self.best.length_mm - self._board.tail_mm) // self._step_mm
        return whole - max(0.0, steps) * self._step_mm
