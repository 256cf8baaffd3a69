"""One shop through its days, one way: drop art, plan, print, test, cut, count, learn."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from math import ceil

import numpy as np

from perisect.core.cutting.belief import (
    MAX_LADDERS,
    Tried,
    believe,
    next_ladder,
    prior_of,
    propose,
)
from perisect.core.cutting.lifting import corners_to_lift
from perisect.core.cutting.setting import default_setting
from perisect.core.cutting.trueing import Trueing
from perisect.core.ledger.calibration import SheetSlips, calibrate
from perisect.core.ledger.measured_slips import as_trued
from perisect.core.ledger.safe_border import SURE, SafeBorder, safe_border
from perisect.core.ledger.spares import RejectLog
from perisect.core.ledger.vernier import error_of
from perisect.core.prepress.vernier import COMBS, combs
from perisect.core.process import process
from perisect.core.sheet import A4
from perisect.offline.judge.truth import (
    DAY_MIN,
    DAYS,
    GOOD_KINDS,
    MIDDLE,
    SCALE,
    STOCKS,
    Cut,
    Order,
    Shop,
    up,
)
from perisect.offline.judge.ways import ADVICE, FIXED_BORDER_MM, Way
from perisect.stand_ins.bite import Bite

KISS = process("kiss")
READS_MM, MEASURES_MM, BY_EYE_MM = 0.03, 0.03, 0.4
"""How far off a person is at a comb, what is measured of a slip, and a person who measures nothing."""
DULL_M = 25.0
"""After so many metres bad cuts are the blade's, and it is tested again."""
ROUNDS = 6
"""As often an order is begun again before it is given up."""
LADDER_SHEET = 0.2
"""Of a sheet a ladder takes."""
MINUTES = {
    "print": 3.0,
    "load": 2.0,
    "begin": 5.0,
    "ladder": 5.0,
    "page": 10.0,
    "head": 4.0,
    "corner": 0.08,
    "count": 0.04,
}


@dataclass
class Statement:
    """Something that was stated with a probability, and whether it came true."""

    name: str
    stated: float
    came_true: bool


@dataclass
class Outcome:
    """What a shop came to."""

    first_sheets: list[float] = field(default_factory=list)
    """Share of good stickers on the first sheet of each order."""
    tests_before_first: int = 0
    sheets: float = 0.0
    minutes: float = 0.0
    delivered: int = 0
    test_cuts: int = 0
    late: int = 0
    orders: int = 0
    statements: list[Statement] = field(default_factory=list)


class Play:
    """A shop at work."""

    def __init__(self, shop: Shop, way: Way) -> None:
        self._shop, self._way, self.out = shop, way, Outcome()
        self._trueing, self._log = Trueing(), list[SheetSlips]()
        self._forces: dict[int, float] = {}
        self._tested_at: dict[int, float] = {}
        self._cut_with: dict[int, float] = {}
        self._metres = 0.0
        self._counts: list[tuple[int, int]] = []
        self._dirty, self._dull = shop.dirty_first, False

    def run(self) -> Outcome:
        """All days."""
        clock = 0.0
        days = np.random.default_rng([self._shop.seed, 22]).uniform(size=DAYS)
        if self._way.calibrates:
            clock += self._calibrate_by_page()
        # A head dries over night, and is looked at in the morning.
        self._dirty = self._dirty or bool(days[0] < self._shop.dirt)
        if self._way.head:
            clock += self._look_at_head()
        day = 0
        for number, order in enumerate(self._shop.orders):
            while day < order.day:
                day += 1
                self._dirty = self._dirty or bool(days[day] < self._shop.dirt)
            clock = max(clock, order.day * DAY_MIN) + self._work(number, order)
            self.out.late += clock > (order.due_day + 1) * DAY_MIN
            self.out.orders += 1
        self.out.minutes = clock if not self.out.minutes else self.out.minutes
        self._state_border()
        return self.out

    def _spend(self, minutes: float, sheets: float = 0.0) -> float:
        self.out.minutes += minutes
        self.out.sheets += sheets
        return minutes

    def _calibrate_by_page(self) -> float:
        """One sheet, read off its combs; once more where it was off by more than a comb tells for sure."""
        rng, spent = np.random.default_rng([self._shop.seed, 23]), 0.0
        for _ in range(2):
            spent += self._spend(MINUTES["page"], 1.0)
            all_of_them = combs(A4)
            places = np.array([(comb.x_mm, comb.y_mm) for comb in all_of_them])
            off = self._shop.slips(places, self._trueing, rng)
            seen = off[np.arange(4), [0 if comb.across else 1 for comb in all_of_them]]
            read = np.round((seen + rng.normal(0, READS_MM, 4)) / 0.05) * 0.05
            beyond = bool(np.abs(read).max() > 1.2)
            read = np.clip(read, -1.2, 1.2)
            found = error_of(dict(zip(COMBS, map(float, read), strict=True)), A4)
            # Combs that are off the scale tell a shift alone.
            names = ("shift_x", "shift_y") if beyond else tuple(Trueing.model_fields)
            self._trueing = Trueing(
                **{
                    n: getattr(self._trueing, n) + (getattr(found, n) if n in names else 0.0)
                    for n in Trueing.model_fields
                }
            )
            if not beyond:
                break
        return spent

    def _look_at_head(self) -> float:
        self._dirty = False
        return self._spend(MINUTES["head"], 1.0)

    def _test(self, stock: int, number: int) -> float:
        """A test cut: ladders until the proposal is sure."""
        on, bite = STOCKS[stock], self._shop.bite(stock, self._metres)
        eye = np.random.default_rng([self._shop.seed, 24, number, stock])
        prior = prior_of(KISS, on.face_um, on.liner_um, SCALE, self._forces.get(stock))
        tried: list[Tried] = []
        belief, spent = believe(prior, tried), 0.0
        for _ in range(MAX_LADDERS):
            tried += [Tried(force, bite.look(force, eye)) for force in next_ladder(belief, SCALE)]
            spent += self._spend(MINUTES["ladder"], LADDER_SHEET)
            belief = believe(prior, tried)
            proposal = propose(belief, SCALE)
            if proposal.is_sure:
                break
        self._forces[stock], self._tested_at[stock] = proposal.force, self._metres
        self.out.test_cuts += 1
        if not self.out.first_sheets:
            self.out.tests_before_first += 1
        clean = bite.nominal(proposal.force) == "clean"
        self._state("a setting from a test cut is clean", proposal.probability_clean, clean)
        return spent

    def _setting(self, stock: int, number: int) -> tuple[float, float]:
        """The force for a stock, and the minutes it took to know it."""
        tests = self._way.tests
        if tests == "once":
            # One setting for all that comes.
            spent = 0.0 if self._forces else self._test(stock, number)
            return next(iter(self._forces.values())), spent
        dull = self._dull and self._metres - self._tested_at.get(stock, 0.0) > DULL_M
        spent = 0.0
        if tests == "each" and (stock not in self._tested_at or dull):
            spent, self._dull = self._test(stock, number), False
        return self._forces.setdefault(stock, default_setting(KISS, SCALE).force), spent

    def _border(self) -> float:
        if not self._way.border:
            return FIXED_BORDER_MM
        found = self._safe_border()
        return FIXED_BORDER_MM if found is None else max(ceil(found.border_mm * 20) / 20, 0.3)

    def _safe_border(self) -> SafeBorder | None:
        noise = [np.full(len(sheet.slips_mm), MEASURES_MM) for sheet in self._log]
        return safe_border(as_trued(self._log, noise, self._trueing))

    def _work(self, number: int, order: Order) -> float:
        """One order until enough are good; the minutes it took."""
        force, spent = self._setting(order.stock, number)
        border = self._border()
        most, line_mm = up(order.shape, order.size_mm, border, self._way.layout)
        spent += self._spend(MINUTES["begin"])
        good = sheet = 0
        for again in range(ROUNDS):
            lacking = order.many - good
            wanted, sure = (
                RejectLog(self._counts).least(lacking, max(most, 1)) if self._way.spares else (lacking, 0.0)
            )
            before = good
            for many in _sheets(wanted, most):
                rng = np.random.default_rng([self._shop.seed, 25, number, sheet])
                bite = self._shop.bite(order.stock, self._metres)
                cut = self._shop.cut(many, bite, force, self._trueing, self._dirty, rng)
                if self._way.lifts:
                    is_first = force != self._cut_with.get(order.stock)
                    cut, more = self._lift(cut, is_first, bite, force, many * line_mm / 12000, rng)
                    self._cut_with[order.stock] = force
                    spent += more
                fine = self._count(cut, border)
                if sheet == 0:
                    self.out.first_sheets.append(float(fine.mean()))
                good, sheet = good + int(fine.sum()), sheet + 1
                self._metres += many * line_mm / 1000
                minutes = MINUTES["print"] + MINUTES["load"] + many * (line_mm / 12000 + MINUTES["count"])
                spent += self._spend(minutes, 1.0)
                force = self._learn(cut, order.stock, force, rng)
            if again == 0 and self._way.spares:
                self._state("so many prints give enough good ones", sure, good - before >= lacking)
            if good >= order.many:
                break
            spent += self._spend(MINUTES["begin"])
        self.out.delivered += min(good, order.many)
        if self._way.calibrates and (found := calibrate(self._log)) is not None and found.real:
            self._retrue(found.trueing)
        return spent

    def _lift(
        self, cut: Cut, is_first: bool, bite: Bite, force: float, minutes: float, rng: np.random.Generator
    ) -> tuple[Cut, float]:
        """Corners of the stickers that are named are lifted; where one clings, all are cut once more before the sheet
        comes out."""
        some = corners_to_lift(cut.places_mm, is_first)
        lift_min = len(some) * MINUTES["corner"]
        spent = self._spend(lift_min)
        for _ in range(2):
            if not (cut.kinds[some] < GOOD_KINDS[0]).any():
                break
            self._dull = True
            force = min(force + SCALE.step, SCALE.most)
            cut = self._shop.once_more(cut, bite, force, rng)
            spent += self._spend(minutes + lift_min)
        return cut, spent

    def _count(self, cut: Cut, border: float) -> np.ndarray:
        """(n,) which stickers are good."""
        slipped = np.hypot(*cut.slips_mm.T) > max(border, 0.3)
        fine = np.isin(cut.kinds, GOOD_KINDS) & ~slipped & ~cut.spoiled
        self._counts.append((int(fine.sum()), int((~fine).sum())))
        return fine

    def _learn(self, cut: Cut, stock: int, force: float, rng: np.random.Generator) -> float:
        """What a sheet teaches: dirt, dullness, slips; the force for the next one."""
        if self._dirty and cut.spoiled.mean() > 0.1:
            self._look_at_head()
        shallow = float((cut.kinds < GOOD_KINDS[0]).mean())
        deep = float((cut.kinds > GOOD_KINDS[-1]).mean())
        if max(shallow, deep) > 0.02:
            self._dull = True
        if max(shallow, deep) > 0.1 and self._way.tests != "each":
            # By eye: a little more, or a little less, until it comes off.
            force = min(max(force * (1.15 if shallow > deep else 0.87), SCALE.least), SCALE.most)
            self._forces[stock if self._way.tests == "never" else next(iter(self._forces))] = force
        elif max(shallow, deep) > 0.25:
            force = self._again(stock, rng)
        slipped = np.hypot(*cut.slips_mm.T) > FIXED_BORDER_MM
        if slipped.mean() > 0.5 and not self._way.measures:
            # All of a sheet beside its print is seen by eye, and put right by eye.
            by_eye = cut.slips_mm.mean(axis=0) + rng.normal(0, BY_EYE_MM, 2)
            x, y = self._trueing.shift_x + float(by_eye[0]), self._trueing.shift_y + float(by_eye[1])
            self._trueing = self._trueing.model_copy(update={"shift_x": x, "shift_y": y})
        if self._way.measures:
            seen = cut.slips_mm + rng.normal(0, MEASURES_MM, cut.slips_mm.shape)
            self._log.append(SheetSlips(cut.places_mm, seen, MIDDLE, self._trueing))
        return force

    def _again(self, stock: int, rng: np.random.Generator) -> float:
        """A sheet that went wrong in the cut is not cut so a second time."""
        self._test(stock, int(rng.integers(1 << 20)))
        self._dull = False
        return self._forces[stock]

    def _retrue(self, trueing: Trueing) -> None:
        """What the log shows is taken out, and what it would have shown so is what borders stand on."""
        if np.allclose(trueing.vector, self._trueing.vector, atol=1e-3):
            return
        self._trueing = trueing

    def _state(self, name: str, stated: float, came_true: bool) -> None:
        self.out.statements.append(Statement(name, stated, bool(came_true)))

    def _state_border(self) -> None:
        """At the end: whether the border that the log calls safe is."""
        if self._way != ADVICE:
            return
        found = self._safe_border()
        if found is not None:
            held = self._shop.within(found.border_mm, self._trueing) >= 0.95
            self._state("95 of 100 stickers stay within the safe border", SURE, held)


def _sheets(many: int, most: int) -> Iterator[int]:
    """Stickers of each sheet."""
    while many > 0:
        yield min(many, max(most, 1))
        many -= max(most, 1)
