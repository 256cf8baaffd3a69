"""One sheet, filled: one more piece after another, and what is left of it pushed together."""

from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.sheet.nest.board import Board
from perisect.core.sheet.nest.overlaps import MET, Overlaps
from perisect.core.sheet.nest.settle import Box, settle
from perisect.core.sheet.placement import Placement

PASSES, AT_START, FRESH = 150, 20, 3
"""Passes of an attempt at one more copy, passes of the start, and how many times the passes of an attempt one gets that
scatters all copies afresh. An attempt gets a quarter more passes each time all designs have failed."""
MOST_TRIED = 8
"""Most designs tried for one more copy before a round is abandoned."""
LOOSE = 0.6
"""Overlap per copy, in raster cells, below which exact places are computed."""
SETTLE_S, CORNER_S = 1.6e-3, 30e-6
"""Cost of computing exact places, s on a usual machine: per copy, and per corner of its outline."""
MOST_FREE = 2
"""Most times that one attempt moves copies elsewhere which are free on the raster but overlap exactly."""
GROWING = 0.25
"""Share of the search budget spent on growing the start on the raster alone."""
AT_ONCE = 0.03
"""Share of the copies on a sheet by which a round tries to add more at a time."""
SHORTER, MOST_FAILED = (0.03, 0.005), 6
"""Share of the length by which a sheet is shortened, at first and at last; and how many failures in a row end the
search, alternating between the present places and a fresh scatter."""


class Effort:
    """Budget of a search, in seconds of a usual machine, so that the same search ends alike on any machine.

    Args:
        seconds: the budget, s.
        stopping: returns True once the search is to end whatever is left.
    """

    def __init__(self, seconds: float, stopping: Callable[[], bool]) -> None:
        self.left_s, self.stopping = seconds, stopping

    def spend(self, seconds: float) -> bool:
        """Charge `seconds` to the budget; return True once it is used up."""
        self.left_s -= seconds
        return self.over

    @property
    def over(self) -> bool:
        """True once the budget is used up or the search is told to stop."""
        return self.left_s < 0 or self.stopping()

    @property
    def is_cut_short(self) -> bool:
        """True if the search was told to stop with some of the budget left."""
        return self.left_s >= 0 and self.stopping()


@dataclass(frozen=True)
class Found:
    """Placed copies that overlap nothing: design and rotation number of each, and its box's corner, (n, 2) sheet mm."""

    copies: tuple[tuple[str, int], ...] = ()
    at_mm: NDArray[np.float64] = field(default_factory=lambda: np.zeros((0, 2)))
    area_mm2: float = 0.0
    """Area of the copies with half their gap, mm²."""
    length_mm: float = 0.0
    """Distance from the sheet's top to the lowest copy, mm."""
    panel_mm: float = 0.0
    """Length of a roll's panel; 0 on sheets, mm."""
    is_cut_short: bool = False
    """True if the search was stopped before it had used up its budget."""

    def placements(self, board: Board) -> list[Placement]:
        """Return the copies as placements on the sheet."""
        return [board.placement(*c, at) for c, at in zip(self.copies, self.at_mm.tolist(), strict=True)]

    @property
    def worth(self) -> tuple[float, float, float]:
        """Sort key: larger area first, then the shorter panel, then the shorter use of the sheet."""
        return round(self.area_mm2, 3), -round(self.panel_mm, 3), -round(self.length_mm, 3)


def in_proportion(left: Mapping[str, int], areas: Mapping[str, float], area_mm2: float) -> list[str]:
    """Choose copies that cover `area_mm2` in proportion to their numbers, the designs furthest behind first."""
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
    """Search of one sheet from one seed; the same steps give the same result.

    Args:
        board: raster of the sheet.
        seed: seed of its random numbers.
        effort: its budget.
        left: copies that may be taken.
        more: copies that fill the sheet once all of `left` stand on it; empty to end there.
        areas: area of each design with half its gap, mm².
        shorten_by_mm: step by which a roll's panel may be cut shorter; None for a sheet.
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
        """Copies that the last computation of exact places could not separate."""
        self._together = False
        """True once every copy is placed and the search only shortens the sheet."""
        self.best = Found()

    def run(self, guess_mm2: float) -> Found:
        """Search until the budget is used up, and return the best sheet.

        Args:
            guess_mm2: area of the copies to begin with.
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
        """Place copies of `guess_mm2`, and remove the worst ones until the rest separates."""
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
        """Add copies on the raster alone, which is faster than exact places for each, while they nearly separate."""
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
        """Return whether the overlap falls low enough for exact places within the passes of a start."""
        for _ in range(AT_START):
            if self._overlaps.total <= LOOSE * len(self._overlaps.copies):
                return True
            if self._effort.over:
                break
            self._overlaps.step()
        return False

    def _next(self, laid: Iterable[str]) -> list[str]:
        """Return the designs of which one more may be added, those furthest behind first."""
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
        """Try to add `count` copies of a design, beside the present ones or with all scattered afresh; return whether
        they fit."""
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
        """Return whether the copies separate within `passes`; they become the best sheet then."""
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
        """Return the copies, each moved by its row of `moved`, (n, 2) mm."""
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
        """Press all copies towards the top while there is budget left and it helps."""
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
        """Return whether all copies fit on `length_mm`, from their present places or scattered afresh."""
        if self._board.area_of(length_mm) is None:
            return False
        self._overlaps.until(length_mm)
        if fresh:
            self._overlaps.scatter([key for key, _ in self.best.copies])
            return self._separated(FRESH * passes)
        self._again()
        return self._separated(passes)

    def _shortest(self) -> float:
        """Return the length that the best sheet needs, mm; of a panel, in whole steps below its full length."""
        if self._step_mm is None:
            return self.best.length_mm
        whole = self._board.height_mm
        steps = (whole - self.best.length_mm - self._board.tail_mm) // self._step_mm
        return whole - max(0.0, steps) * self._step_mm
