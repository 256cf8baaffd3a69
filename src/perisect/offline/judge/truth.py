"""One simulated shop: what is true of its machines, its stocks and its people, and its orders. Nobody is told."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.cutting.belief import ANSWERS
from perisect.core.cutting.registration import register
from perisect.core.cutting.trueing import COMPONENTS, Trueing
from perisect.core.sheet import A4, Footprint, usable_area
from perisect.core.sheet.grid import best_grid
from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS, EXAMPLE_STOCKS
from perisect.core.sheet.staggered import staggered
from perisect.stand_ins.bite import Bite

AREA = usable_area(A4)
MIDDLE = (A4.width_mm / 2, A4.height_mm / 2)
MARKS = np.array([(mark.x_mm, mark.y_mm) for mark in AREA.marks])
GAP_MM = 2.0
DAYS, DAY_MIN = 5, 480.0
STOCKS = tuple(each for each in EXAMPLE_STOCKS if each.kind == "sheet" and each.liner_um >= 60)
SCALE = EXAMPLE_PLOTTERS[0].force
SHEETS = 4000
"""So many say what share of stickers stays within a border."""
OFTEN_BAD = 0.2
"""Share of plotters whose sensor nobody ever set."""


def _shapes() -> dict[str, shapely.Polygon]:
    """What stickers look like, their longest side 1."""
    turn = np.linspace(0, 2 * np.pi, 48, endpoint=False)
    disc = shapely.Polygon(0.5 * np.c_[np.cos(turn), np.sin(turn)])
    star_turn = np.arange(10) * np.pi / 5
    radius = np.where(np.arange(10) % 2, 0.24, 0.5)[:, None]
    star = shapely.Polygon(radius * np.c_[np.cos(star_turn), np.sin(star_turn)])
    drop = shapely.Polygon([(0, 0.5), (-0.26, -0.2), (-0.2, -0.42), (0, -0.5), (0.2, -0.42), (0.26, -0.2)])
    boot = shapely.Polygon([(-0.3, -0.5), (0.0, -0.5), (0.0, 0.2), (0.4, 0.2), (0.4, 0.5), (-0.3, 0.5)])
    box = shapely.box(-0.5, -0.3, 0.5, 0.3)
    return {"disc": disc, "star": star, "drop": drop, "boot": boot, "box": box}


SHAPES = _shapes()


@lru_cache(maxsize=4096)
def up(shape: str, size_mm: float, border_mm: float, fullest: bool) -> tuple[int, float]:
    """How many stand on a sheet, and how long one's line is, mm."""
    line = shapely.affinity.scale(SHAPES[shape], size_mm, size_mm, origin=(0, 0)).buffer(border_mm)
    left, top, right, bottom = line.bounds
    rows = best_grid(AREA, right - left, bottom - top, GAP_MM).count
    if fullest:
        piece = Footprint(shape, right - left, bottom - top, left, top, right, bottom, line.area, 1, line)
        rows = max(
            rows, *(len(staggered(AREA, piece, GAP_MM, style)) for style in ("half_turn", "half_step"))
        )
    return rows, float(line.length)


def _affine(places_mm: NDArray[np.float64]) -> NDArray[np.float64]:
    """(..., 3): x and y from the sheet's middle, and one."""
    return np.concatenate([places_mm - MIDDLE, np.ones((*places_mm.shape[:-1], 1))], axis=-1)


@dataclass(frozen=True)
class Order:
    """So many stickers of a shape and size (mm) on a stock, from one day's morning to another's evening."""

    shape: str
    size_mm: float
    stock: int
    many: int
    day: int
    due_day: int


@dataclass(frozen=True)
class Cut:
    """What became of the stickers of a sheet: (n,) each, slips (n, 2) as they truly are, mm, and where they stood."""

    slips_mm: NDArray[np.float64]
    places_mm: NDArray[np.float64]
    kinds: NDArray[np.int64]
    """Numbers of `ANSWERS`."""
    spoiled: NDArray[np.bool_]
    """Printed badly, or lost in somebody's hands."""


class Shop:
    """A shop of this seed. Its machines do the same, whatever way it works."""

    def __init__(self, seed: int) -> None:
        self.seed = seed
        rng = np.random.default_rng([seed, 20])
        spread = 1.2 if rng.uniform() < OFTEN_BAD else 0.15
        self.bias = Trueing(
            shift_x=float(np.clip(rng.normal(0, spread), -4, 4)),
            shift_y=float(np.clip(rng.normal(0, spread), -4, 4)),
            turn=float(rng.normal(0, 0.0004)),
            scale_x=float(rng.normal(0, 0.0002)),
            scale_y=float(rng.normal(0, 0.0002)),
            skew=float(rng.normal(0, 0.0002)),
        )
        self.sensing_mm = rng.uniform(0.01, 0.04)
        self.scatter_mm = 0.04 * np.exp(rng.normal(0, 0.6))
        self.sheet_mm = 0.03 * np.exp(rng.normal(0, 0.6))
        self.lost = rng.uniform(0.0005, 0.004)
        self.dirt = rng.uniform(0.02, 0.15)
        """Chance that the head of a morning drops lines."""
        self.dirty_first = bool(rng.uniform() < 0.25)
        self.orders = self._orders(rng)

    @staticmethod
    def _orders(rng: np.random.Generator) -> list[Order]:
        found = []
        for day in range(DAYS):
            for _ in range(1 + rng.poisson(1.0)):
                shape = str(rng.choice(list(SHAPES)))
                size = float(rng.choice((30, 40, 50, 60)))
                stock = int(rng.integers(0, len(STOCKS)))
                found.append(
                    Order(shape, size, stock, int(rng.integers(12, 90)), day, day + int(rng.integers(1, 3)))
                )
        return found

    def bite(self, stock: int, wear_m: float) -> Bite:
        """What the blade does in a stock after so many metres."""
        on = STOCKS[stock]
        return Bite(self.seed * 101 + stock, on.face_um, on.liner_um, SCALE, "kiss", wear_m)

    def slips(
        self, places_mm: NDArray[np.float64], trued: Trueing, rng: np.random.Generator
    ) -> NDArray[np.float64]:
        """(n, 2) how far stickers of one sheet are cut beside their print, mm."""
        seen = MARKS + rng.normal(0, self.sensing_mm, MARKS.shape)
        fit = register([tuple(m) for m in MARKS.tolist()], [tuple(m) for m in seen.tolist()])
        off = fit.apply(places_mm) - places_mm + self._left(trued).error_at(places_mm, MIDDLE)
        off += rng.normal(0, self.sheet_mm, 2) + rng.normal(0, self.scatter_mm, off.shape)
        return np.asarray(off)

    def _left(self, trued: Trueing) -> Trueing:
        """What is not taken out of the plotter's error."""
        return Trueing.model_construct(**dict(zip(COMPONENTS, self.bias.vector - trued.vector, strict=True)))

    def cut(
        self,
        many: int,
        bite: Bite,
        force: float,
        trued: Trueing,
        is_dirty: bool,
        rng: np.random.Generator,
    ) -> Cut:
        """A sheet of so many stickers, cut with a force."""
        places = rng.uniform((20, 25), (190, 272), (many, 2))
        _, _, noise, depths = bite.truth
        depth = bite.depth_um(force) * np.exp(rng.normal(0, noise, many))
        spoiled = rng.uniform(size=many) < (1 - (1 - self.lost) * (0.7 if is_dirty else 1.0))
        return Cut(self.slips(places, trued, rng), places, np.searchsorted(depths, depth), spoiled)

    def within(self, border_mm: float, trued: Trueing) -> float:
        """The true share of stickers that stay within a border."""
        rng = np.random.default_rng([self.seed, 21])
        places = rng.uniform((20, 25), (190, 272), (SHEETS, 12, 2))
        # What a fit to marks is off by is a fit to what each mark is seen off by: all sheets at once.
        fits = np.linalg.pinv(_affine(MARKS)) @ rng.normal(0, self.sensing_mm, (SHEETS, *MARKS.shape))
        off = _affine(places) @ fits + rng.normal(0, self.sheet_mm, (SHEETS, 1, 2))
        off += self._left(trued).error_at(places.reshape(-1, 2), MIDDLE).reshape(off.shape)
        off += rng.normal(0, self.scatter_mm, off.shape)
        return float((np.hypot(*np.moveaxis(off, -1, 0)) <= border_mm).mean())

    def once_more(self, cut: Cut, bite: Bite, force: float, rng: np.random.Generator) -> Cut:
        """The same sheet after another pass: no cut gets shallower."""
        _, _, noise, depths = bite.truth
        deeper = np.searchsorted(depths, bite.depth_um(force) * np.exp(rng.normal(0, noise, len(cut.kinds))))
        return Cut(cut.slips_mm, cut.places_mm, np.maximum(cut.kinds, deeper), cut.spoiled)


GOOD_KINDS = (ANSWERS.index("clean"), ANSWERS.index("liner_marked"))
"""Of a liner that is marked alone the sticker is good still."""

__all__ = ["AREA", "DAYS", "DAY_MIN", "GOOD_KINDS", "MIDDLE", "SCALE", "STOCKS", "Cut", "Order", "Shop", "up"]
