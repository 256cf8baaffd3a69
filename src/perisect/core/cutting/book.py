"""The settings book: what is known of cutting a process in a stock, at a plotter, with a blade, under film or not.

Where nothing is known the nearest that is known is proposed, and it is said why. Settings of other shops are kept as
theirs, and never trusted before a test.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from perisect.core.cutting.setting import CutSetting, default_setting
from perisect.core.process import TABLE
from perisect.core.sheet.equipment import StockRecipe
from perisect.core.sheet.force import ForceScale

Source = Literal["example", "hand", "test", "shop"]
Id = Annotated[str, Field(max_length=40)]
Line = Annotated[str, Field(max_length=200, pattern=r"^[^\x00-\x1f\x7f]*$")]


class BookKey(BaseModel):
    """What a setting is for: ids of the shop's stock and plotter, a process, the blade as the shop calls it."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    stock: Id
    process: Annotated[str, Field(max_length=24)]
    plotter: Id
    blade: Annotated[str, Field(max_length=40)] = ""
    laminated: bool = False


class BookEntry(BaseModel):
    """A setting of the book, where it comes from, and how probable it is that it cuts clean where that was tried."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    key: BookKey
    setting: CutSetting
    source: Source = "hand"
    sure: Annotated[float, Field(ge=0, le=1)] | None = None
    note: Line = ""
    at: datetime | None = None


@dataclass(frozen=True)
class Known:
    """What a process is going to be cut with, and why."""

    setting: CutSetting
    source: Source
    sure: float | None
    why: str
    is_own: bool
    """Whether it was kept for just this."""


@dataclass(frozen=True)
class Duller:
    """What a blade has cut since an entry was kept, metres, and by how much more force it needs for that."""

    metres: float
    factor: float

    @property
    def told(self) -> str:
        """For a person; nothing where it is less than one in a hundred."""
        more = round(100 * (self.factor - 1))
        if more == 0:
            return ""
        way = f"{abs(more)} % {'more' if more > 0 else 'less'} force"
        return f", {way} for {self.metres:.0f} m of blade" if more > 0 else f", {way} for a newer blade"


@dataclass(frozen=True)
class Surroundings:
    """The shop's stocks and the force scales of its plotters, by id, with the plotters' names; and how much duller the
    blade is since an entry was kept, where wear is known."""

    stocks: Mapping[str, StockRecipe]
    scales: Mapping[str, ForceScale]
    names: Mapping[str, str]
    duller: Mapping[BookKey, Duller] = field(default_factory=dict)


WORDS = {
    "test": "from a test cut",
    "hand": "set by hand",
    "shop": "from another shop, not tested here",
    "example": "an example",
}


def known(key: BookKey, entries: Iterable[BookEntry], around: Surroundings) -> Known:
    """The setting of a key: its own, or the nearest known one brought over, or what the process begins with."""
    scale = around.scales.get(key.plotter, ForceScale())
    mine: list[tuple[float, BookEntry]] = []
    for entry in entries:
        if entry.key == key:
            when = f" of {entry.at:%d %b %Y}" if entry.at and entry.source == "test" else ""
            # Whatever it says: never more than the plotter takes.
            duller = around.duller.get(key, Duller(0.0, 1.0))
            force = scale.nearest(entry.setting.force * duller.factor)
            setting = entry.setting.model_copy(update={"force": force})
            why = f"{WORDS[entry.source]}{when}{duller.told}"
            # What was clean with another edge is not as sure with this one.
            return Known(setting, entry.source, None if duller.told else entry.sure, why, True)
        if entry.key.process == key.process:
            mine.append((_distance(key, entry.key, around), entry))
    if mine:
        _, near = min(mine, key=lambda each: each[0])
        return Known(_brought(near, key, around), near.source, None, _why(near.key, key, around), False)
    record, stock = TABLE[key.process], around.stocks.get(key.stock)
    setting = default_setting(record, scale)
    if stock is not None:
        force = setting.force * float(np.sqrt(_must(key, around) / 90))
        setting = setting.model_copy(update={"force": scale.nearest(force)})
    return Known(setting, "example", None, "an example: nothing like it was tried yet", False)


def _must(key: BookKey, around: Surroundings) -> float:
    stock = around.stocks.get(key.stock)
    if stock is None:
        return 90.0
    if key.laminated:
        stock = stock.under_film()
    return stock.face_um + (stock.liner_um if TABLE[key.process].frees else 0)


def _distance(key: BookKey, other: BookKey, around: Surroundings) -> float:
    """How unlike two keys of one process are: the plotter weighs most, then face, thickness, film and blade."""
    mine, its = around.stocks.get(key.stock), around.stocks.get(other.stock)
    apart = 3.0 * (key.plotter != other.plotter) + 0.5 * (key.blade != other.blade)
    apart += 0.7 * (key.laminated != other.laminated) + 0.2 * (key.stock != other.stock)
    if mine is None or its is None:
        return apart + 2.0
    apart += 1.0 * (mine.face != its.face) + 0.3 * (mine.gloss != its.gloss)
    return apart + 2.0 * abs(float(np.log(_must(key, around) / _must(other, around))))


def _brought(near: BookEntry, key: BookKey, around: Surroundings) -> CutSetting:
    """A setting brought over: force as the root of the thickness, film and all, by its share of the plotter's
    range."""
    mine = around.scales.get(key.plotter, ForceScale())
    its = around.scales.get(near.key.plotter, ForceScale())
    force = near.setting.force * float(np.sqrt(_must(key, around) / _must(near.key, around)))
    if key.plotter == near.key.plotter and key.blade == near.key.blade and near.key in around.duller:
        force *= around.duller[near.key].factor
    force *= mine.most / its.most if key.plotter != near.key.plotter else 1.0
    return near.setting.model_copy(update={"force": mine.nearest(force)})


def _why(near: BookKey, key: BookKey, around: Surroundings) -> str:
    differs = []
    if near.stock != key.stock:
        stock = around.stocks.get(near.stock)
        differs.append(f"known for {stock.name if stock else 'a stock that is gone'}")
    if near.plotter != key.plotter:
        differs.append(f"known at {around.names.get(near.plotter, 'another plotter')}")
    if near.blade != key.blade:
        differs.append(f"with {f'blade {near.blade}' if near.blade else 'another blade'}")
    if near.laminated != key.laminated:
        differs.append("under film" if near.laminated else "without film")
    return f"{', '.join(differs) or 'the nearest known'}: test it first"
