"""What an order costs, part by part, and what to ask for it."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from perisect.core.sheet.equipment import PrinterRecipe, StockRecipe

MM2_PER_M2 = 1e6
Money = Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)]
Much = Annotated[float, Field(gt=0, le=100_000, allow_inf_nan=False)]
Minutes = Annotated[float, Field(ge=0, le=600, allow_inf_nan=False)]


@dataclass(frozen=True)
class Cost:
    """Prices in the shop's own money."""

    stock: float
    ink: float
    stickers: int

    @property
    def total(self) -> float:
        """Stock and ink."""
        return self.stock + self.ink

    @property
    def each(self) -> float:
        """Of one sticker; 0 when there is none."""
        return self.total / self.stickers if self.stickers else 0.0


class CostRates(BaseModel):
    """What hours and wear cost, in the shop's own money; the rest is known of stocks and printers.

    A blade of price `blade` cuts `blade_m` metres, a mat bears `mat_loads` sheets. By hand a sheet takes `sheet_min`
    (load, unload), a sticker `sticker_s` (weed, count), an order `order_min` (set up, pack). The printer works
    `print_min` on a sheet. `margin` is put on the cost, 0.5 for half of it.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    hand_hour: Money = 18.0
    machine_hour: Money = 1.2
    blade: Money = 7.0
    blade_m: Much = 120.0
    mat: Money = 9.0
    mat_loads: Much = 60.0
    film_m2: Money = 0.0
    packing: Money = 0.4
    sheet_min: Minutes = 2.0
    sticker_s: Annotated[float, Field(ge=0, le=600, allow_inf_nan=False)] = 4.0
    order_min: Minutes = 6.0
    print_min: Minutes = 2.0
    margin: Annotated[float, Field(ge=0, le=20, allow_inf_nan=False)] = 0.6


USUAL_RATES = CostRates()


@dataclass(frozen=True)
class SheetUse:
    """What one sheet of an order takes: stock and ink in money, metres under the blade, seconds of cutting, film in
    mm2, and good places on it."""

    stock: float
    ink: float
    cut_m: float
    cut_s: float
    film_mm2: float
    up: float


@dataclass(frozen=True)
class Part:
    """A part of a cost, and how it comes about."""

    name: str
    amount: float
    told: str


@dataclass(frozen=True)
class OrderCost:
    """What an order of so many good stickers costs, by part; sheets printed for it, those for rejects among them."""

    parts: tuple[Part, ...]
    quantity: int
    sheets: float
    margin: float

    @property
    def total(self) -> float:
        """Sum of the parts."""
        return sum(part.amount for part in self.parts)

    @property
    def each(self) -> float:
        """Of a good sticker."""
        return self.total / self.quantity

    @property
    def price(self) -> float:
        """What to ask for the order."""
        return self.total * (1 + self.margin)


def order_cost(
    use: SheetUse, quantity: int, sheets: float, sheets_without_rejects: float, rates: CostRates
) -> OrderCost:
    """The cost of `quantity` good stickers.

    Args:
        sheets: printed for it; of them `sheets_without_rejects` would do if none were bad.
    """
    n = sheets_without_rejects
    of_sheets = [
        Part("Stock", use.stock * n, f"{n:g} sheets at {use.stock:.2f}"),
        Part("Ink", use.ink * n, f"{use.ink:.3f} a sheet"),
        Part(
            "Film",
            use.film_mm2 / MM2_PER_M2 * rates.film_m2 * n,
            f"{use.film_mm2 / MM2_PER_M2:.3f} m² a sheet",
        ),
        Part(
            "Blade",
            use.cut_m / rates.blade_m * rates.blade * n,
            f"{use.cut_m:.1f} m of {rates.blade_m:g} a sheet",
        ),
        Part("Mat", rates.mat / rates.mat_loads * n, f"1 of {rates.mat_loads:g} loads a sheet"),
        Part(
            "Machines",
            (rates.print_min / 60 + use.cut_s / 3600) * rates.machine_hour * n,
            f"{rates.print_min + use.cut_s / 60:.1f} min a sheet",
        ),
        Part(
            "Hands at sheets", rates.sheet_min / 60 * rates.hand_hour * n, f"{rates.sheet_min:g} min a sheet"
        ),
    ]
    of_order = [
        Part(
            "Hands at stickers",
            rates.sticker_s / 3600 * rates.hand_hour * quantity,
            f"{rates.sticker_s:g} s a sticker",
        ),
        Part("Hands at the order", rates.order_min / 60 * rates.hand_hour, f"{rates.order_min:g} min"),
        Part("Packing", rates.packing, "an order"),
    ]
    spent = sum(part.amount for part in of_sheets)
    more = sheets - n
    rejects = Part("Rejects", spent / n * more if n else 0.0, f"{more:g} sheets more")
    parts = [part for part in (*of_sheets, rejects, *of_order) if part.amount > 0]
    return OrderCost(tuple(parts), quantity, sheets, rates.margin)


BREAKS = (1, 10, 25, 50, 100, 250, 500, 1000)


def sheets_needed(quantity: int, up: float, reject_share: float) -> tuple[float, float]:
    """Whole sheets for so many good stickers with rejects, and if there were none."""
    return (
        float(np.ceil(quantity / (1 - reject_share) / up - 1e-9)),
        float(np.ceil(quantity / up - 1e-9)),
    )


def breaks(
    use: SheetUse, reject_share: float, rates: CostRates, quantities: Sequence[int] = BREAKS
) -> list[OrderCost]:
    """Cost and price by quantity: what an order takes once is shared by more stickers."""
    return [
        order_cost(use, quantity, *sheets_needed(quantity, use.up, reject_share), rates)
        for quantity in quantities
    ]


def full_ink_px(rgba: NDArray[np.uint8]) -> float:
    """How many pixels of full ink on all channels an (h, w, 4) picture takes: a pixel takes as much as its
    coverage lets it and as it is darker than paper, mean over red, green and blue."""
    coverage = rgba[..., 3].astype(np.float32) / 255
    ink = 1 - rgba[..., :3].astype(np.float32).mean(axis=2) / 255
    return float((coverage * ink).sum())


def cost_of(
    stock: StockRecipe,
    printer: PrinterRecipe,
    sheets: int,
    panel_mm: float,
    ink_mm2: float,
    stickers: int,
) -> Cost:
    """Cost of sheets (or of panels `panel_mm` long of a roll, at its price a metre) with `ink_mm2` of full ink."""
    metres = sheets * panel_mm / 1000
    paid = stock.price * (metres if stock.kind == "roll" else sheets)
    return Cost(paid, ink_mm2 / MM2_PER_M2 * printer.ink_ml_m2 * printer.ink_price, stickers)
